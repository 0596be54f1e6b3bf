"""A few thousand wrong inputs for every reader: each is read, or refused in one clear line, in bounded time."""

import json
import random
import time

import numpy as np
import pytest
import soundfile
from faults.mangling import mangled_bytes, mangled_json, mangled_line, refused_or_read

from nafas.audio_files import AudioReader
from nafas.demo import FOLDER, SESSION
from nafas.library.own import read_entry, shipped, write_entry
from nafas.script import Session, Talk, load_session, read_block, save_session
from nafas.script.edits.clipboard import read_json
from nafas.script.file import parse_session, session_text
from nafas.script.text.reading import read_script
from nafas.state.folder import state_folder
from nafas.state.recent_files import recent_files
from nafas.state.recovery import find_recoverable, keep_for_recovery
from nafas.voice.segmentation.labels import read_labels
from nafas.voice.takebook.book import INDEX, TakeBook


def test_session_files():
    raw, rng, taken = json.loads(SESSION.read_bytes()), random.Random(1), 0
    for _ in range(1500):
        text = mangled_json(raw, rng)

        def read(text: str = text) -> None:
            session = parse_session(text.encode("utf-8", "surrogatepass"), "x.nafas")
            assert parse_session(session_text(session), "again") == session  # what can be opened can be saved

        taken += refused_or_read(read)
    assert 20 < taken < 1400
    data = SESSION.read_bytes()
    for _ in range(500):
        refused_or_read(lambda: parse_session(mangled_bytes(data, rng), "x.nafas"))


def test_notation_and_the_clipboard():
    rng = random.Random(2)
    for _ in range(3000):
        line = mangled_line(rng)
        refused_or_read(lambda line=line: read_block(line))
    for _ in range(300):
        text = "\n".join(mangled_line(rng) for _ in range(rng.randrange(12)))
        refused_or_read(lambda text=text: read_script(text))
        refused_or_read(lambda text=text: read_json(text))


@pytest.mark.parametrize(
    "text",
    [
        "4-" * 240_000, '"' * 480_000, "in 2+2 (" + " " * 480_000, "in 2+2 (" + "a," * 200_000, "(" * 480_000,
        "4-6 x2;" * 60_000, "9" * 480_000, "in 4 " * 96_000, "é" * 480_000,
    ],
)  # fmt: skip
def test_a_huge_line_is_refused_at_once(text):
    began = time.monotonic()
    assert not refused_or_read(lambda: read_block(text))
    assert time.monotonic() - began < 10  # it took 37 s once: reading was quadratic


def test_take_books_library_entries_and_labels(tmp_path):
    rng = random.Random(3)
    raw = json.loads((FOLDER / "takes" / INDEX).read_text())
    raw["takes"] = raw["takes"][:6]
    write_entry(shipped()[0].entry, tmp_path / "e.nafas-entry")
    entry = json.loads((tmp_path / "e.nafas-entry").read_text())
    labels = b"0.5\t1.25\tone\n1.5\t2.0\ttwo\n"
    captions = b"1\n00:00:01,000 --> 00:00:02,500\none\n\n2\n00:00:03,000 --> 00:00:04,000\ntwo\n"
    for _ in range(500):
        (tmp_path / INDEX).write_bytes(mangled_json(raw, rng).encode("utf-8", "surrogatepass"))
        refused_or_read(lambda: TakeBook(tmp_path))
        (tmp_path / "e.nafas-entry").write_bytes(mangled_json(entry, rng).encode("utf-8", "surrogatepass"))
        refused_or_read(lambda: read_entry(tmp_path / "e.nafas-entry"))
        (tmp_path / "l.txt").write_bytes(mangled_bytes(rng.choice((labels, captions)), rng))
        refused_or_read(lambda: read_labels(tmp_path / "l.txt"))


@pytest.mark.parametrize(
    "line", ["inf\t1\tx", "0\tinf\tx", "nan\t1\tx", "-1\t1\tx", f"{'9' * 5000}\t1\tx", "1e99\t1e100\tx", "3\t1\tx"]
)
def test_labels_with_times_that_are_none_are_refused(tmp_path, line):
    (tmp_path / "l.txt").write_text(line)
    assert not refused_or_read(lambda: read_labels(tmp_path / "l.txt"))


@pytest.mark.parametrize(
    "fields",
    ['"trim": [0, Infinity]', '"trim": [NaN, 1]', '"trim": [Infinity, 1]', '"trim": [0, 1], "gain": -Infinity'],
)
def test_takes_with_numbers_that_are_none_are_refused(tmp_path, fields):
    (tmp_path / INDEX).write_text(f'{{"format": 2, "takes": [{{"file": "a.flac", "text": "two", {fields}}}]}}')
    assert not refused_or_read(lambda: TakeBook(tmp_path))


def test_what_could_not_be_opened_again_is_not_saved(tmp_path, monkeypatch):
    path = tmp_path / "a.nafas"
    save_session(Session(title="old"), path)
    monkeypatch.setattr("nafas.script.file.MAX_FILE_BYTES", 4000)
    talk = Talk(id="t", paragraphs=("x" * 4000,))
    assert not refused_or_read(lambda: save_session(Session(blocks=(talk,)), path))
    assert load_session(path).title == "old"


def test_state_that_is_broken_never_stops_the_program():
    rng = random.Random(4)
    keep_for_recovery(Session(), None, state_folder(), "w")
    kept = state_folder() / "recovery" / "w.json"
    good = kept.read_bytes()
    for _ in range(300):
        kept.write_bytes(mangled_bytes(good, rng))
        find_recoverable()
        (state_folder() / "recent.json").write_bytes(mangled_bytes(b'["/a.nafas", "/b.nafas"]', rng))
        recent_files()


@pytest.mark.parametrize("kind", ["WAV", "FLAC", "OGG", "MP3", "AIFF", "OPUS"])
def test_sound_files(tmp_path, kind):
    """Whatever is read of a broken file has the length it says, and takes no more memory than the file is worth."""
    rng, path = random.Random(5), tmp_path / "x"
    noise = (np.random.default_rng(6).standard_normal((24_000, 2)) * 0.1).astype(np.float32)
    container, subtype = ("OGG", "OPUS") if kind == "OPUS" else (kind, None)
    soundfile.write(path, noise, 48_000, format=container, subtype=subtype)
    data = path.read_bytes()
    for _ in range(120):
        path.write_bytes(mangled_bytes(data, rng))

        def read() -> None:
            reader = AudioReader(path)
            for at in (0, reader.frames // 2, max(0, reader.frames - 1000)):
                assert len(reader.read(at, 48_000)) == min(48_000, reader.frames - at)

        refused_or_read(read)
