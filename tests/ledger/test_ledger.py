"""The ledger: what is kept, found, compared, brought out; and that nothing in it changes, whatever happens."""

import csv
import io
import json
import os
import signal
import sqlite3
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
import soundfile

from nafas.cli.main import main
from nafas.errors import InputError
from nafas.ledger import store
from nafas.ledger.contour import contours_of, is_same
from nafas.ledger.entries import (
    FileNote,
    Kind,
    add,
    before_it,
    changed_since,
    counted,
    exported,
    find,
    get,
    session_of,
    version_of,
    which,
)
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.script.model.marks import Felt, Mark

SESSION = Session(title="Night watch", blocks=(read_block("4-6 x8", "long"),))


def sea(seconds=40, seed=1, rate=24_000):
    """Noise whose level comes and goes."""
    draw = np.random.default_rng(seed)
    level = np.repeat(10 ** draw.uniform(-2.5, -0.8, seconds * 2), rate // 2)
    return (draw.standard_normal(seconds * rate) * level * 0.3).astype(np.float32), rate


def test_a_render_is_kept_with_its_version_and_what_changed_since(folder):
    (folder / "a.wav").write_bytes(b"sound")
    first = add(Kind.RENDER, SESSION, [FileNote(folder / "a.wav", 80.0, -16.0, -1.5, True)], data={"gain": 3.5})
    newer = change_block(change(SESSION, count_length="1.05"), 0, rounds=10)
    second = add(Kind.RENDER, newer)
    assert [entry.id for entry in find()] == [second, first] and session_of(get(first)) == SESSION
    assert before_it(get(second)).id == first and before_it(get(first)) is None
    told = "; ".join(changed_since(get(first), get(second)))
    assert told == "count 1 s → 1.05 s; 4-6: rounds 8 → 10"
    assert changed_since(get(first), get(first)) == []
    (file,) = get(first).files
    assert file["loudness"] == -16.0 and file["proof"] == 1 and file["size"] == 5
    marked = SESSION.model_copy(update={"marks": (Mark(felt=Felt.LOST),)})
    assert version_of(marked) == version_of(SESSION)  # marks are about a version, and make none


def test_entries_are_found_by_words_kind_and_title(folder):
    (folder / "100%_calm.wav").write_bytes(b"x")
    one = add(Kind.RENDER, SESSION, [FileNote(folder / "100%_calm.wav")])
    two = add(Kind.REHEARSAL, SESSION, words="felt rushed at the rail")
    three = add(Kind.PUBLICATION, words="harbour radio, 2026-11-27", about=one, title="Night watch")
    assert [entry.id for entry in find("rushed rail")] == [two] and [e.id for e in find("100%_calm")] == [one]
    assert [entry.id for entry in find("100__calm")] == []  # a sign stands for itself
    assert [entry.id for entry in find(kind=Kind.PUBLICATION)] == [three] and get(three).about == one
    assert [entry.id for entry in find(title="Night watch", before=three)] == [two, one] and len(find(most=1)) == 1
    for missing in (lambda: get(99), lambda: add(Kind.NOTE, about=99), lambda: session_of(get(three))):
        with pytest.raises(InputError):
            missing()


def test_a_file_is_known_by_its_sum_and_in_other_clothes_by_its_sound(folder):
    samples, rate = sea()
    soundfile.write(folder / "a.flac", samples, rate)
    made = add(Kind.RENDER, SESSION, [FileNote(folder / "a.flac", contour=contours_of(folder / "a.flac")[0])])
    add(Kind.RENDER, SESSION, [FileNote(folder / "a.flac", contour=b"")])
    ((entry, how), *_) = which(folder / "a.flac")
    assert how == "sum"
    soundfile.write(
        folder / "b.mp3", np.concatenate([np.zeros(rate), samples * 0.4]), rate
    )  # quieter, and a second late
    ((entry, how),) = which(folder / "b.mp3")
    assert (entry.id, how) == (made, "sound")
    for begin, end in ((11.33, 40.0), (0.0, 29.1), (4.21, 33.3)):  # its head, its tail or both are cut off
        cut = samples[round(begin * rate) : round(end * rate)]
        soundfile.write(folder / "cut.ogg", cut, rate, format="OGG", subtype="VORBIS")
        assert [(entry.id, how) for entry, how in which(folder / "cut.ogg")] == [(made, "sound")]
    soundfile.write(folder / "rest.flac", samples[: 15 * rate], rate)
    assert which(folder / "rest.flac") == []  # too little of it to tell
    soundfile.write(folder / "c.flac", sea(seed=2)[0], rate)
    (folder / "d.txt").write_text("no sound")
    assert which(folder / "c.flac") == [] and which(folder / "d.txt") == []
    with pytest.raises(InputError):
        which(folder / "gone.wav")
    assert not is_same([b""], b"") and not is_same([bytes(100)], bytes(100))


def test_nothing_in_it_changes(folder):
    add(Kind.RENDER, SESSION)
    for act in (
        "UPDATE entries SET words = 'x'",
        "DELETE FROM entries",
        "DELETE FROM versions",
        "UPDATE files SET sum = ''",
    ):
        if "files" in act:
            (folder / "a").write_bytes(b"a")
            add(Kind.NOTE, files=[FileNote(folder / "a")])
        with pytest.raises(InputError, match="nothing in the ledger changes"), store.opened(writing=True) as ledger:
            ledger.execute(act)
    assert find()[-1].words == ""


def test_a_step_that_fails_half_way_leaves_it_as_it_was(folder):
    add(Kind.NOTE, words="kept")
    with pytest.raises(ZeroDivisionError), store.opened(writing=True) as ledger:
        ledger.execute("INSERT INTO entries (moment, kind, title, words) VALUES ('', 'note', '', 'lost')")
        raise ZeroDivisionError
    with pytest.raises(InputError):
        add(Kind.RENDER, SESSION, [FileNote(folder / "gone.wav")])
    assert [entry.words for entry in find()] == ["kept"]


def test_a_killed_writer_leaves_it_old_or_new():
    """A process that writes without end is killed again and again: what is there is whole every time."""
    writes = "add(Kind.NOTE, words='whole', data={'n': [1] * 200})"
    code = f"from nafas.ledger.entries import Kind, add\nwhile True: {writes}"
    for pause in (0.05, 0.11, 0.17):
        seen = len(find(most=100_000))
        writer = subprocess.Popen([sys.executable, "-c", code], env=os.environ)
        began = time.monotonic()
        while len(find(most=100_000)) == seen and time.monotonic() - began < 30:
            time.sleep(0.05)
        time.sleep(pause)
        writer.send_signal(signal.SIGKILL)
        writer.wait()
        entries = find(most=100_000)
        assert len(entries) > seen and all(e.words == "whole" and len(e.data["n"]) == 200 for e in entries)
    with store.opened() as ledger:
        assert ledger.execute("PRAGMA integrity_check").fetchone()[0] == "ok"


def test_two_programs_write_at_once():
    with ThreadPoolExecutor(8) as many:
        numbers = list(many.map(lambda n: add(Kind.NOTE, words=f"{n}"), range(40)))
    assert sorted(numbers) == list(range(1, 41)) and len(find()) == 40


def test_a_newer_or_broken_ledger_is_told(folder, monkeypatch):
    add(Kind.NOTE)
    with sqlite3.connect(store.ledger_path()) as ledger:
        ledger.execute("PRAGMA user_version = 99")
    ledger.close()
    with pytest.raises(InputError, match="newer"):
        find()
    monkeypatch.setenv("NAFAS_RECORDS", str(folder / "broken"))
    (folder / "broken").mkdir()
    (folder / "broken" / store.NAME).write_bytes(b"no database" * 1000)
    with pytest.raises(InputError, match="cannot be used"):
        add(Kind.NOTE)


def test_the_command_lists_shows_compares_opens_and_brings_out(folder, capsys):
    (folder / "a.wav").write_bytes(b"sound")
    first = add(Kind.RENDER, SESSION, [FileNote(folder / "a.wav")])
    second = add(Kind.DELIVERY, change_block(SESSION, 0, rounds=10))
    add(Kind.NOTE, words="=HYPERLINK()", title="=x")

    def said(*arguments):
        code = main(["ledger", *map(str, arguments)])
        return code, capsys.readouterr().out

    assert said("published", first, "harbour radio", "--when", "tomorrow")[0] == 0
    code, out = said("list", "night", "--kind", "publication")
    assert code == 0 and "harbour radio, tomorrow" in out and out.count("\n") == 1
    assert "since entry 1" in said("show", second)[1] and "8 → 10" in said("compare", first, second)[1]
    assert said("open", first, "-o", folder / "old.nafas")[0] == 0 and load_session(folder / "old.nafas") == SESSION
    assert said("open", first, "-o", folder / "old.nafas")[0] == 1
    assert "by its sum" in said("which", folder / "a.wav")[1]
    assert said("note", second, "read again")[0] == 0
    for name in ("all.json", "all.csv", "all.xml"):
        assert said("export", "-o", folder / name)[0] == (1 if name == "all.xml" else 0)
    told = json.loads((folder / "all.json").read_text())
    assert len(told["entries"]) == 5 and len(told["versions"]) == 2
    rows = list(csv.reader(io.StringIO((folder / "all.csv").read_text())))
    assert len(rows) == 6 and not any(cell[:1] == "=" for row in rows for cell in row)
    assert said("backup", "-o", folder / "copy.sqlite3")[0] == 0
    with sqlite3.connect(folder / "copy.sqlite3") as copy:
        assert copy.execute("SELECT count(*) FROM entries").fetchone()[0] == 5
    copy.close()
    assert json.loads(exported("json"))["entries"][0]["kind"] == "render"


def test_renders_and_deliveries_come_into_it_by_themselves(folder, capsys):
    session = change(SESSION, blocks=(read_block("2-3 x1", "s"),), bed=None, opening=1, closing=1, end_bell=False)
    save_session(session, folder / "s.nafas")
    assert main(["render", str(folder / "s.nafas"), "-o", str(folder / "s.flac"), "-o", str(folder / "s.mp3")]) == 0
    assert main(["deliver", str(folder / "s.nafas"), "-o", str(folder / "o"), "--for", "class", "--anyway"]) == 0
    delivery, render = find()
    assert (render.kind, delivery.kind) == (Kind.RENDER, Kind.DELIVERY) and delivery.data["let_stand"]
    assert {os.path.basename(file["path"]) for file in render.files} == {"s.flac", "s.mp3"}  # noqa: PTH119
    assert all(file["proof"] == 1 for file in render.files) and len(delivery.files) > 5
    capsys.readouterr()


def test_the_database_itself_refuses_to_change_what_is_in_it():
    add(Kind.NOTE, None, (), "one", title="Watch")
    with store.opened(writing=True) as ledger:
        row = tuple(ledger.execute("SELECT * FROM entries").fetchone())
    for sql, values in (
        ("INSERT OR REPLACE INTO entries VALUES (?, ?, ?, ?, ?, ?, ?, ?)", (*row[:3], "Another", *row[4:])),
        ("INSERT INTO entries (moment, kind, title) VALUES ('now', 'poem', 'x')", ()),
        ("INSERT INTO entries (moment, kind, title) VALUES ('now', x'00', 'x')", ()),
        ("UPDATE entries SET title = 'x'", ()),
        ("DELETE FROM entries", ()),
    ):
        with (
            pytest.raises(InputError, match=r"nothing in the ledger changes|no such kind"),
            store.opened(True) as ledger,
        ):
            ledger.execute(sql, values)
    assert [entry.title for entry in find()] == ["Watch"]


def test_rows_that_a_newer_or_a_damaged_ledger_holds_are_listed_as_far_as_they_can_be(capsys):
    add(Kind.NOTE, None, (), "one", title="Watch")
    with store.opened(writing=True) as ledger:
        ledger.execute("DROP TRIGGER entries_kinds")
        for kind, title, data in (
            ("poem", "New", "[" * 5000),
            (b"\xff", b"\xff\x00", b"\xfe"),
            ("note", "\ud7ff", "3"),
        ):
            ledger.execute("INSERT INTO entries (moment, kind, title, data) VALUES ('', ?, ?, ?)", (kind, title, data))
        ledger.execute("INSERT INTO entries (moment, kind, title) VALUES ('', 'note', CAST(x'ff41' AS TEXT))")
    entries = find()
    assert [entry.kind for entry in entries] == [Kind.NOTE, Kind.NOTE, Kind.OTHER, Kind.OTHER, Kind.NOTE]
    assert counted()[Kind.OTHER] == 2 and len(find(kind=Kind.OTHER)) == 2 and entries[0].title == "\ufffdA"
    assert main(["ledger", "list"]) == 0 and len(capsys.readouterr().out.splitlines()) == 5
    assert all(main(["ledger", "show", str(entry.id)]) == 0 for entry in entries)
    with pytest.raises(SystemExit):
        main(["ledger", "show", "9" * 30])


def test_a_version_is_opened_with_its_paths_from_where_it_is_put(folder):
    home, away = folder / "home", folder / "away" / "deep"
    home.mkdir()
    away.mkdir(parents=True)
    soundfile.write(home / "engine.wav", np.random.default_rng(1).normal(0, 0.05, (48_000, 2)), 48_000)
    bed = FileBed(file=Asset(path="engine.wav"), crossfade=0.1)
    session = Session(title="Berth", blocks=(read_block("1-1 x1"),), opening=0.5, closing=0.5, bed=bed, end_bell=False)
    save_session(session, home / "s.nafas")
    assert main(["render", str(home / "s.nafas"), "-o", str(folder / "m.flac"), "--no-proof"]) == 0
    assert main(["ledger", "open", "1", "-o", str(away / "was.nafas")]) == 0
    was = load_session(away / "was.nafas")
    assert (away / was.bed.file.path).resolve() == (home / "engine.wav").resolve()
