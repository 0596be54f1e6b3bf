"""A series: variants planned, put into other words, rendered where they changed, and what is refused."""

import csv
import io
import json
import os
import shutil
import signal
import subprocess
import time
from fractions import Fraction

import polib
import pytest

from nafas.cli.main import main
from nafas.demo import SESSION as DEMO
from nafas.errors import InputError
from nafas.exchange.made_of import MadeOf
from nafas.parallel import processes as spread_file
from nafas.parallel.processes import in_processes
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.rewording import reworded
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.script.model.blocks import Talk
from nafas.script.model.guidance import Level
from nafas.series.plan import Series, Variant, load_series, save_series
from nafas.series.planner import Planner, planned
from nafas.series.words import read_words, words_table
from nafas.tables import Dialect, written
from nafas.tasks.exit_codes import ExitCode
from nafas.timing import compile_session, paced
from nafas.voice import cast_session

TALK = Talk(id="hello", title="Hello", paragraphs=("Sit where the deck is quiet. [3s] Breathe as you like.",))
SESSION = Session(
    title="Night watch", bed=None, opening=1, closing=2, end_bell=False,
    blocks=(TALK, read_block("4-6 x3", "long"), read_block("3-3 x2", "even")),
)  # fmt: skip


@pytest.fixture
def home(folder):
    save_session(SESSION, folder / "base.nafas")
    return folder


@pytest.fixture
def alone(monkeypatch):
    """Everything in this process: another one takes seconds to begin."""
    monkeypatch.setattr(spread_file, "cores", lambda: 1)


def as_dicts(table):
    return [dict(zip(table[0], row)) for row in table[1:]]


def write(home, *variants, **fields):
    path = home / "all.nafas-series"
    path.write_text(json.dumps({"format": 1, "session": "base.nafas", "variants": list(variants), **fields}))
    return path


def test_each_column_changes_what_it_says_and_nothing_else(home):
    path = write(
        home, {"name": "as it is"}, {"name": "slow", "count_length": "1.25", "rounds": {"long": 5}},
        {"name": "alone", "guidance": "silent", "loudness": -18, "bed": 3, "title": "Alone"},
        {"name": "longer", "length": 120},
    )  # fmt: skip
    plain, slow, alone, longer = planned(load_series(path), home, paced())
    assert plain.session == SESSION.model_copy(update={"title": "Night watch"}) and not plain.notes
    assert slow.session.count_length == Fraction(5, 4) and slow.session.blocks[1].rounds == 5
    assert slow.session.blocks[2] == SESSION.blocks[2]
    assert alone.session.blocks[1].fade[0].level is Level.SILENT and alone.session.master.loudness == -18
    assert alone.session.title == "Alone" and alone.session.blocks[0].bed.level == 3
    assert longer.length == 120 and longer.session.target_length == 120
    assert plain.length == compile_session(SESSION, paced()).length


def test_a_length_is_fitted_to_as_the_takes_say_it(home):
    copy_demo(home)
    demo = load_session(home / "demo.nafas")
    short = change(demo, blocks=demo.blocks[2:4], target_length=None, bed=None)  # a little talk, and a set
    save_session(short, home / "demo.nafas")
    path = write(home, {"name": "two minutes", "length": 120}, {"name": "es", "language": "es"}, session="demo.nafas")
    planner = Planner()
    made, spanish = planner.plan(load_series(path), home)
    assert made.length == 120 == cast_session(made.session, home).timeline.length and not made.notes
    assert spanish.length == cast_session(spanish.session, home).timeline.length
    index = json.loads((home / "takes" / "takes.json").read_text())
    said = {sentence.text for paragraph in short.blocks[0].lines for sentence in paragraph}
    talk = next(take for take in index["takes"] if take["text"] in said)
    talk["aside"] = True  # the narrator reads that line from now on, slower or quicker
    (home / "takes" / "takes.json").write_text(json.dumps(index))
    again = planner.plan(load_series(path), home)[0]
    assert again.session != made.session and cast_session(again.session, home).timeline.length == 120


def test_fitting_leaves_alone_what_the_row_says_itself(home):
    path = write(
        home, {"name": "a", "length": 160, "rounds": {"long": 5}}, {"name": "b", "length": 160, "count_length": "1.1"}
    )
    rounds, counts = planned(load_series(path), home, paced())
    assert rounds.session.blocks[1].rounds == 5 and not rounds.session.blocks[1].locked
    assert counts.session.count_length == Fraction(11, 10) and counts.session.blocks[1].count_length is None
    for made in (rounds, counts):
        assert made.length == compile_session(made.session, paced()).length and abs(made.length - 160) < 10


def test_what_is_wrong_is_told_of_its_row_and_the_others_stand(home):
    path = write(
        home, {"name": "a", "rounds": {"nobody": 3}}, {"name": "b"}, {"name": "c", "words": "gone.csv"},
        {"name": "d", "length": 3}, {"name": "e", "language": "es"},
    )  # fmt: skip
    a, b, c, d, e = planned(load_series(path), home)
    assert "no set 'nobody'" in a.trouble and a.session is None and b.session is not None and "gone.csv" in c.trouble
    assert d.notes and "own language" in e.notes[0] and e.session.language == "es"
    assert main(["series", "plan", str(path)]) == 1


@pytest.mark.parametrize(
    ("rows", "told"),
    [
        ([{"name": "a"}, {"name": "A"}], "used twice"),
        ([{"name": "../a"}], "variants[0].name"),
        ([{"name": "a", "language": "xx"}], "variants[0].language"),
        ([{"name": "a", "length": 0}], "variants[0].length"),
        ([{"name": "a", "colour": "red"}], "variants[0].colour"),
        ([{"name": f"{n}"} for n in range(1001)], "variants"),
    ],
)
def test_a_series_that_is_none_names_the_place(home, rows, told):
    with pytest.raises(InputError) as error:
        load_series(write(home, *rows))
    assert told in str(error.value)
    with pytest.raises(InputError):
        load_series(write(home, audio=[".wma"]))
    (home / "b.nafas-series").write_text("[1")
    with pytest.raises(InputError, match="no series"):
        load_series(home / "b.nafas-series")


def test_words_go_out_to_a_translator_and_come_back(home):
    rows = as_dicts(words_table(compile_session(SESSION, paced())))
    words = [row["words"] for row in rows]
    assert words == ["Sit where the deck is quiet.", "Breathe as you like.", "Night watch", "Hello"]
    assert "inhale" not in words  # the language brings its own
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["words", "translation"])
    table.writerows(
        [[words[0], "Siéntate donde la cubierta esté en calma."], [words[2], "Guardia de noche"], [words[1], ""]]
    )
    (home / "es.csv").write_text(out.getvalue(), "utf-8-sig")
    path = write(home, {"name": "es", "language": "es", "words": "es.csv"})
    (made,) = planned(load_series(path), home)
    assert made.session.title == "Guardia de noche" and made.session.language == "es"
    assert [str(s) for s in made.session.blocks[0].lines[0]] == [
        "Siéntate donde la cubierta esté en calma. [3s]",
        "Breathe as you like.",
    ]
    assert made.notes == ("not translated: Hello", "not translated: Breathe as you like.")
    spoken = [moment.text for moment in compile_session(made.session, paced()).spoken]
    assert "inhala" in spoken and "dos" in spoken
    back = list(as_dicts(words_table(compile_session(SESSION, paced()), read_words(home / "es.csv"))))
    assert back[0]["translation"].startswith("Siéntate")
    odd = change_block(SESSION, 0, paragraphs=("=Sit down.",))
    table = words_table(compile_session(odd, paced()), {"=Sit down.": "+Siéntate."})
    (home / "odd.csv").write_bytes(written(table, Dialect()))
    assert "'=Sit down." in (home / "odd.csv").read_text("utf-8")  # no spreadsheet reckons it
    assert read_words(home / "odd.csv") == {"=Sit down.": "+Siéntate."}
    (home / "bad.csv").write_text("a,b\n1,2\n")
    with pytest.raises(InputError, match="no column “words”"):
        read_words(home / "bad.csv")
    own = change_block(
        SESSION, 1, pattern={"phases": [{"kind": "in", "counts": 4, "cue": "let it in"}, {"kind": "out", "counts": 6}]}
    )
    other, missing = reworded(own, {"let it in": "déjalo entrar"})
    assert other.blocks[1].pattern.phases[0].cue == "déjalo entrar" and "Hello" in missing


def test_only_what_changed_is_rendered_again(home, alone, capsys):
    small = change(SESSION, blocks=(read_block("2-3 x1", "long"),), title="Small")
    save_session(small, home / "base.nafas")
    path = write(home, {"name": "one"}, {"name": "two", "rounds": {"long": 2}})

    def rendered():
        code = main(["series", "render", str(path)])
        return code, capsys.readouterr().out.splitlines()[-1]

    assert rendered() == (0, "2 rendered, 0 unchanged.")
    assert rendered() == (0, "0 rendered, 2 unchanged.")
    assert main(["series", "page", str(path), "-o", str(home / "all.html")]) == 0
    page = (home / "all.html").read_text("utf-8")
    assert "2 rendered as they are now" in page and 'href="series/two.flac"' in page and "changed since" not in page
    write(home, {"name": "one"}, {"name": "two", "rounds": {"long": 3}})
    assert main(["series", "page", str(path), "-o", str(home / "all.html"), "--force"]) == 0
    assert "1 rendered as they are now" in (home / "all.html").read_text("utf-8")
    assert rendered() == (0, "1 rendered, 1 unchanged.")
    (home / "series" / "one.flac").write_bytes(b"somebody else's")
    assert rendered() == (1, "0 rendered, 1 unchanged.")  # it is not ours to replace
    (home / "series" / "one.flac").unlink()
    assert rendered() == (0, "1 rendered, 1 unchanged.")
    (home / "series" / "two.flac").unlink()
    assert rendered() == (0, "1 rendered, 1 unchanged.")
    assert main(["series", "render", str(path), "--all"]) == 0 and "2 rendered" in capsys.readouterr().out
    assert main(["ledger", "list", "two"]) == 0 and "Small (two)" in capsys.readouterr().out


def test_one_call_sheet_and_one_check_for_all(home, alone, capsys):
    path = write(home, {"name": "one"}, {"name": "es", "language": "es", "loudness": -18})
    assert main(["series", "callsheet", str(path), "-o", str(home / "sheet.csv")]) == 0
    rows = list(csv.DictReader((home / "sheet.csv").open(encoding="utf-8")))
    assert {row["language"] for row in rows} == {"en", "es"}
    assert main(["series", "words", str(path), "-o", str(home / "w.csv")]) == 0 and (home / "w.csv").exists()
    capsys.readouterr()
    assert main(["series", "check", str(path)]) == ExitCode.FOUND
    out = capsys.readouterr().out
    assert "one: must" in out and "not equally loud: -18 (1), -16 (1) LUFS" in out and "2 variants are called" in out


def test_a_series_is_written_as_it_is_read(home):
    series = Series(session="base.nafas", variants=(Variant(name="a", length=Fraction(600), rounds={"long": 4}),))
    save_series(series, home / "s.nafas-series")
    assert load_series(home / "s.nafas-series") == series
    many = Series(session="base.nafas", variants=tuple(Variant(name=f"{n}", length=100 + n) for n in range(200)))
    assert all(each.session is not None for each in planned(many, home))
    assert load_session(home / "base.nafas") == SESSION


def test_words_go_out_as_a_message_catalogue_and_come_back(home):
    path = write(home, {"name": "es", "language": "es", "words": "es.po"})
    assert main(["series", "words", str(path), "-o", str(home / "es.po"), "--language", "es"]) == 0
    read = (
        subprocess.run(["msgfmt", "--check", "-o", "/dev/null", str(home / "es.po")], capture_output=True)
        if (shutil.which("msgfmt"))
        else None
    )
    assert read is None or read.returncode == 0, read.stderr
    catalogue = polib.pofile(str(home / "es.po"))
    assert [entry.msgid for entry in catalogue][:2] == ["Sit where the deck is quiet.", "Breathe as you like."]
    catalogue[0].msgstr, catalogue[1].msgstr = "Siéntate.", "Respira."
    catalogue[1].flags.append("fuzzy")  # the translator is not sure of it
    catalogue.save(str(home / "es.po"))
    assert read_words(home / "es.po") == {"Sit where the deck is quiet.": "Siéntate."}
    (made,) = planned(load_series(path), home)
    assert "not translated: Breathe as you like." in made.notes
    (home / "es.po").write_bytes(b'msgid "a"\nmsgstr "b\n\xff')
    with pytest.raises(InputError, match="message catalogue"):
        read_words(home / "es.po")


def test_another_take_or_sound_changes_what_uses_it_and_nothing_else(home):
    copy_demo(home)
    session = load_session(home / "demo.nafas")
    spoken = change(session, blocks=session.blocks[:1], target_length=None)
    counted = change(session, blocks=session.blocks[3:4], target_length=None)
    before = [MadeOf()(each, home) for each in (spoken, counted)]
    index = json.loads((home / "takes" / "takes.json").read_text())
    take = next(take for take in index["takes"] if take["text"] == "three")
    take["gain"] = take.get("gain", 0) + 1
    (home / "takes" / "takes.json").write_text(json.dumps(index))
    after = [MadeOf()(each, home) for each in (spoken, counted)]
    assert after[0] == before[0] and after[1] != before[1]
    (home / "engine.wav").write_bytes(b"one")
    humming = change(counted, bed=FileBed(file=Asset(path="engine.wav")))
    one = MadeOf()(humming, home)
    (home / "engine.wav").write_bytes(b"two")
    assert MadeOf()(humming, home) != one
    (home / "engine.wav").unlink()
    assert MadeOf()(counted, home) == after[1]


def test_a_series_is_delivered_again_where_it_changed_and_replaces_nothing_of_others(home, alone, capsys):
    save_session(change(SESSION, blocks=(read_block("2-3 x1", "long"),), title="Small"), home / "base.nafas")
    path = write(home, {"name": "one"}, {"name": "two", "rounds": {"long": 2}})

    def delivered(*more):
        command = ["series", "deliver", str(path), "-o", str(home / "out"), "--for", "class", "--anyway", *more]
        return main(command), capsys.readouterr().out.splitlines()[-1]

    assert delivered() == (0, "2 delivered, 0 unchanged.")
    names = {each.name for each in (home / "out" / "one").iterdir()}
    assert {"Small.mp3", "Small sheet.pdf", "Small transcript.txt"} <= names
    assert delivered() == (0, "0 delivered, 2 unchanged.")
    assert main(["series", "deliver", str(path), "-o", str(home / "out"), "--for", "podcast", "--anyway"]) == 0
    assert "2 delivered, 0 unchanged" in capsys.readouterr().out and (home / "out" / "one" / "Small.srt").exists()
    before = (home / "out" / "two" / "Small.mp3").read_bytes()
    write(home, {"name": "one"}, {"name": "two", "rounds": {"long": 3}})
    assert delivered() == (0, "1 delivered, 1 unchanged.")
    assert (home / "out" / "two" / "Small.mp3").read_bytes() != before
    (home / "out" / "two" / "Small transcript.txt").write_text("a note of mine")
    write(home, {"name": "one"}, {"name": "two", "rounds": {"long": 4}})
    assert delivered() == (1, "0 delivered, 1 unchanged.")
    assert (home / "out" / "two" / "Small transcript.txt").read_text() == "a note of mine"


def test_every_variant_is_written_as_a_session_that_renders_by_itself(home, capsys):
    save_session(change(SESSION, bed=FileBed(file=Asset(path="engine.wav"))), home / "base.nafas")
    (home / "engine.wav").write_bytes(b"a sound")
    path = write(home, {"name": "slow", "count_length": "1.25"}, {"name": "bad", "rounds": {"nobody": 1}})
    out = home / "sessions"
    assert main(["series", "sessions", str(path), "-o", str(out)]) == 1  # one of them cannot be
    made = load_session(out / "slow.nafas")
    assert made.count_length == Fraction(5, 4) and (out / made.bed.file.path).resolve() == home / "engine.wav"
    assert main(["series", "sessions", str(path), "-o", str(out)]) == 1 and "already" in capsys.readouterr().err


# -- many at once


def _job(item, note):
    """What a worker does here: the item that it gets."""
    if item == "refused":
        raise InputError("a place", "is wrong", "fix it")
    if item == "fault":
        raise ZeroDivisionError
    if item == "killed":
        os.kill(os.getpid(), signal.SIGKILL)
    if item == "long":
        for step in range(2000):
            note("working", step / 2000)
            time.sleep(0.01)
    note("working", 0.5)
    return item, os.getpid()


def test_many_at_once_and_one_that_fails_stops_no_other(home):
    seen = []
    ended = in_processes(_job, ["a", "refused", "fault", "b"], 2, lambda *each: seen.append(each))
    assert [each.made and each.made[0] for each in ended] == ["a", None, None, "b"]
    assert os.getpid() not in [each.made[1] for each in ended if each.made]
    assert ended[1].trouble == "a place: is wrong; fix it" and "ZeroDivisionError" in ended[2].trouble
    assert (0, "working", 0.5) in seen
    alone = in_processes(_job, ["a"], 2)
    assert alone[0].made == ("a", os.getpid()) and in_processes(_job, [], 2) == []


def test_a_process_that_is_killed_is_told_and_a_stop_stops_them_all(home):
    ended = in_processes(_job, ["a", "killed", "b", "c"], 2)
    assert "ended from outside" in ended[1].trouble
    assert [each.made and each.made[0] for each in ended] == ["a", None, "b", "c"]
    begun = []
    ended = in_processes(_job, ["long", "long", "long"], 2, lambda *each: begun.append(each), lambda: len(begun) > 20)
    assert all(each.cancelled for each in ended)


def copy_demo(home):
    """The demo's session and takes next to the series."""
    session = load_session(DEMO)
    shutil.copytree(DEMO.parent / session.voice.take_book.path, home / "takes")
    save_session(
        change(session, voice=session.voice.model_copy(update={"take_book": Asset(path="takes")})), home / "demo.nafas"
    )
