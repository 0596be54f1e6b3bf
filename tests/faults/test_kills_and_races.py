"""Processes killed at random moments, disks that fill up, and two writers at once: nothing whole is ever lost."""

import errno
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile
from helpers import breath, produce

from nafas.errors import InputError
from nafas.files import file_digest, one_writer
from nafas.script import Session, load_session, save_session
from nafas.script.model.session import Tags
from nafas.sound.files.encode import AudioFile, publish
from nafas.voice import TakeBook
from nafas.voice.call_sheet import Line, LineKind
from nafas.voice.segmentation.unlisted import list_again, unlisted
from nafas.voice.takebook.book import TakeIndex
from nafas.voice.takebook.writing import begin_book, change_book, write_take

LINES = [
    Line(text=word, language="en", kind=LineKind.COUNT, uses=4, wanted=3, room=1.0, where="somewhere")
    for word in ("two", "three", "four")
]


def child(code: str, *arguments: object) -> "subprocess.Popen[str]":
    return subprocess.Popen(
        [sys.executable, "-c", code, *map(str, arguments)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    )


def killed(code: str, after: float, *arguments: object) -> None:
    """Run code in a process of its own, which says `ready` when it begins, and kill it so many seconds later."""
    process = child(code, *arguments)
    assert process.stdout is not None and process.stdout.readline() == "ready\n"
    time.sleep(after)
    process.kill()
    process.communicate()


SAVES = """
import sys
from pathlib import Path
from nafas.script import Session, save_session, Talk
path, n = Path(sys.argv[1]), 0
print("ready", flush=True)
while True:
    n += 1
    talk = Talk(id="t", paragraphs=("word " * 3000,) * 4)
    save_session(Session(title=f"version {n}", blocks=(talk,)), path)
"""


def test_a_save_that_is_killed_leaves_the_old_session_or_the_new(tmp_path):
    path, rng = tmp_path / "a.nafas", random.Random(1)
    save_session(Session(title="version 0"), path)
    for _ in range(5):
        killed(SAVES, rng.random() * 0.2, path)
        assert load_session(path).title.startswith("version ")
    save_session(Session(title="last"), path)
    assert [p.name for p in tmp_path.iterdir()] == ["a.nafas"]  # what the killed ones left is swept


IMPORTS = """
import sys
from pathlib import Path
import numpy as np
from nafas.voice.call_sheet import Line, LineKind
from nafas.voice.takebook.writing import begin_book, change_book, write_take
folder, word, many = Path(sys.argv[1]), sys.argv[2], int(sys.argv[3])
line = Line(text=word, language="en", kind=LineKind.COUNT, uses=4, wanted=3, room=1.0, where="x")
takes = []
begin_book(folder.parent / "warm", "x")
quiet = np.random.default_rng(1).standard_normal(9600).astype(np.float32)
write_take(folder.parent / "warm", quiet, 16_000, (0.1, 0.5), line, "what is imported once")
print("ready", flush=True)
begin_book(folder, "Night watch")
for n in range(many):
    sound = (np.random.default_rng(n + 100 * len(word)).standard_normal(9600) * 0.1).astype(np.float32)
    takes.append(write_take(folder, sound, 16_000, (0.1, 0.5), line, f"{word} {n}")[1])
    change_book(folder, lambda index: index.model_copy(update={"takes": (*index.takes, takes[-1])}))
print("done", flush=True)
"""


def test_two_imports_at_once_lose_no_take_and_mix_no_file(tmp_path):
    """Thirty of ninety takes were lost once, and some had another's file."""
    folder = tmp_path / "book"
    begin_book(folder, "Night watch")
    both = [child(IMPORTS, folder, "two", 12) for _ in range(2)] + [child(IMPORTS, folder, "three", 10)]
    for process in both:
        out, err = process.communicate(timeout=120)
        assert out == "ready\ndone\n", err
    book = TakeBook(folder)
    assert len(book.index.takes) == 34 and len({take.file for take in book.index.takes}) == 34
    for take in book.index.takes:
        assert file_digest(folder / take.file) == take.sha256
    assert unlisted(book) == []


def test_an_import_killed_at_any_moment_leaves_a_book_that_opens_and_recordings_that_are_offered_back(tmp_path):
    rng, folder = random.Random(2), tmp_path / "book"
    seen = 0
    for _ in range(3):
        killed(IMPORTS, 0.05 + rng.random() * 0.6, folder, "two", 2000)
        if not (folder / "takes.json").exists():
            continue
        book = TakeBook(folder)
        seen = len(book.index.takes)
        for take in book.index.takes:
            assert file_digest(folder / take.file) == take.sha256
        begin_book(folder, "Night watch")  # the next import is not blocked
    assert seen


def test_recordings_without_a_line_get_their_lines_again_where_they_lie(tmp_path, monkeypatch):
    from nafas.voice.engines.cache import CachedEngine
    from nafas.voice.engines.espeak import Espeak

    engine, folder = CachedEngine(Espeak()), tmp_path / "book"
    begin_book(folder, "Night watch")
    for line in LINES:
        sound, rate = engine.read(line.text, "en", 130)
        write_take(folder, sound, rate, (0.05, len(sound) / rate - 0.05), line, "an import that was killed")
    (folder / "notes.txt").write_text("not a recording")
    (folder / "broken.wav").write_bytes(b"RIFF")
    book = TakeBook(folder)
    assert [path.name for path in unlisted(book)] == ["broken.wav", "four-1.flac", "three-1.flac", "two-1.flac"]
    before = {path: path.read_bytes() for path in folder.glob("*.flac")}
    takes, left = list_again(folder, LINES, engine)
    assert {(take.file, take.text) for take in takes} == {(f"{line.text}-1.flac", line.text) for line in LINES}
    assert [path.name for path in left] == ["broken.wav"] and all(p.read_bytes() == b for p, b in before.items())
    book = TakeBook(folder)
    assert book.index.takes == tuple(takes) and [path.name for path in unlisted(book)] == ["broken.wav"]
    assert all(len(book.clip(take).samples) for take in takes)
    assert list_again(folder, LINES, engine)[0] == []  # nothing is listed twice
    (folder / "takes.json").write_text('{"format": 2}')

    def as_two_windows_would(folder: Path, change: object) -> None:
        change_book(folder, change)
        change_book(folder, change)

    monkeypatch.setattr("nafas.voice.segmentation.unlisted.change_book", as_two_windows_would)
    list_again(folder, LINES, engine)
    assert len(TakeBook(folder).index.takes) == 3


def test_one_writer_at_a_time_says_so(tmp_path):
    with one_writer(tmp_path), pytest.raises(InputError, match="another Nafas"), one_writer(tmp_path, wait=0.1):
        pass
    with one_writer(tmp_path, wait=0):
        pass


def test_files_are_never_taken_away_once_the_index_names_them(tmp_path, monkeypatch):
    """An interrupt just after the index was renamed deleted what it names."""
    from nafas.voice.segmentation import add_takes as adding
    from nafas.voice.segmentation.segment import Cut, Segmentation
    from nafas.voice.segmentation.source import Source

    soundfile.write(tmp_path / "r.wav", np.random.default_rng(1).standard_normal(32_000) * 0.1, 16_000)
    source = Source(tmp_path / "r.wav")
    found = Segmentation(tuple(LINES), (Cut(0, 0.3, 0.7, 0.9), Cut(1, 1.0, 1.5, 0.9)), (), ())

    def interrupted(folder: Path, change: object) -> TakeIndex:
        change_book(folder, change)
        raise KeyboardInterrupt

    monkeypatch.setattr(adding, "change_book", interrupted)
    with pytest.raises(KeyboardInterrupt):
        adding.add_takes(source, found, tmp_path / "book", "x")
    book = TakeBook(tmp_path / "book")
    assert len(book.index.takes) == 2 and not book.absent


def test_an_import_that_is_stopped_leaves_the_book_to_another_that_has_begun(tmp_path):
    from nafas.errors import Cancelled
    from nafas.voice.segmentation import add_takes as adding
    from nafas.voice.segmentation.segment import Cut, Segmentation
    from nafas.voice.segmentation.source import Source

    soundfile.write(tmp_path / "r.wav", np.random.default_rng(1).standard_normal(32_000) * 0.1, 16_000)
    found = Segmentation(tuple(LINES), (Cut(0, 0.3, 0.7, 0.9),), (), ())

    def stopped(stage: str, done: float) -> None:
        (tmp_path / "book" / "three-1.flac").write_bytes(b"the other's, not in the index yet")
        raise Cancelled

    with pytest.raises(Cancelled):
        adding.add_takes(Source(tmp_path / "r.wav"), found, tmp_path / "book", "x", stopped)
    assert [path.name for path in unlisted(TakeBook(tmp_path / "book"))] == ["three-1.flac"]


# -- renders


def test_outputs_of_one_render_appear_together_or_not_at_all(tmp_path, short, monkeypatch):
    (tmp_path / "m.flac").write_text("the old master")
    also = [tmp_path / "m.mp3", tmp_path / "m.ogg"]
    replace, seen = Path.replace, []

    def third_fails(self, target):
        if self.name.endswith(".part") and Path(target).suffix in (".flac", ".mp3", ".ogg", ".wav"):
            seen.append(target)
            if len(seen) == 5:
                raise OSError(errno.EIO, "Input/output error")
        return replace(self, target)

    monkeypatch.setattr(Path, "replace", third_fails)
    with pytest.raises(InputError, match="Input/output"):
        produce(short, tmp_path, tmp_path / "m.flac", tmp_path / "stems", also=also)
    assert (tmp_path / "m.flac").read_text() == "the old master"
    assert [path.name for path in tmp_path.rglob("*")] == ["m.flac"]


def test_a_disk_that_fills_in_the_last_file_leaves_none(tmp_path, monkeypatch):
    files = [AudioFile(tmp_path / name, 48_000, 2, 4800) for name in ("a.wav", "b.wav")]
    for file in files:
        file.write(np.zeros((2, 4800), np.float32))
    fsync, calls = os.fsync, []

    def full(handle: int) -> None:
        calls.append(handle)
        if len(calls) == 2:
            raise OSError(errno.ENOSPC, "No space left on device")
        fsync(handle)

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(InputError, match="No space left"):
        publish(files)
    for file in files:
        file.abandon()
    assert list(tmp_path.iterdir()) == []


def full_disk(path: Path) -> bool:
    """A small file system of our own, where that is allowed."""
    path.mkdir()
    if os.geteuid() or not shutil.which("mount"):
        return False
    return (
        subprocess.run(["mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", str(path)], capture_output=True).returncode
        == 0
    )


def test_a_really_full_disk_loses_nothing(tmp_path):
    disk = tmp_path / "disk"
    if not full_disk(disk):
        pytest.skip("no file system can be mounted here; the same is tested with an injected error")
    try:
        save_session(Session(title="kept"), disk / "a.nafas")
        (disk / "filling").write_bytes(bytes(2_950_000))
        big = Session(title="new", tags=Tags(comment="x" * 500), blocks=(breath(),))
        with pytest.raises(InputError, match="space"):
            for n in range(400):
                save_session(big, disk / f"b{n}.nafas")
        assert load_session(disk / "a.nafas").title == "kept"
        assert not [p for p in disk.iterdir() if ".part" in p.name]
        with pytest.raises(InputError):
            produce(Session(blocks=(breath("2-2", 2),)), tmp_path, disk / "m.wav", disk / "stems")
        assert not (disk / "m.wav").exists() and not (disk / "stems").exists()
    finally:
        subprocess.run(["umount", str(disk)], check=True)


RENDERS = """
import sys
from pathlib import Path
from nafas.script import load_session
from nafas.tasks.render import RenderRequest, produce
session = load_session(Path(sys.argv[1]))
print("ready", flush=True)
while True:
    out = Path(sys.argv[2])
    produce(RenderRequest(session, Path(sys.argv[1]).parent, out, also=(out.with_suffix(".ogg"),)))
"""


def test_a_render_that_is_killed_leaves_whole_files_and_its_leftovers_are_swept(tmp_path, short):
    save_session(short, tmp_path / "a.nafas")
    rng, out = random.Random(3), tmp_path / "out"
    out.mkdir()
    for _ in range(3):
        killed(RENDERS, 0.3 + rng.random() * 1.5, tmp_path / "a.nafas", out / "m.wav")
        for path in (out / "m.wav", out / "m.ogg"):
            assert not path.exists() or len(soundfile.read(path)[0]) == soundfile.info(path).frames
    produce(short, tmp_path, out / "m.wav")
    names = {path.name for path in out.iterdir()}
    assert names <= {"m.wav", "m.ogg", "m.wav.proof.json", "m.ogg.proof.json"}


def test_ctrl_c_at_any_moment_is_one_line_and_exit_code_130(tmp_path, short):
    save_session(short, tmp_path / "a.nafas")
    rng, seen = random.Random(4), set()
    for n in range(8):
        process = subprocess.Popen(
            [sys.executable, "-m", "nafas", "render", str(tmp_path / "a.nafas"), "-o", str(tmp_path / "m.wav")],
            stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        time.sleep(0.15 + n * 0.2 + rng.random() * 0.1)
        process.send_signal(signal.SIGINT)
        _, err = process.communicate(timeout=60)
        seen.add(process.returncode)
        if process.returncode != 0 and "Traceback" not in err:
            assert process.returncode in (130, -signal.SIGINT) and len(err.strip().splitlines()) <= 1, err
        # Before Nafas has begun to run, Python itself answers; from then on there is one line.
        assert "Traceback" not in err or "nafas" not in err.replace(str(tmp_path), ""), err
    assert 130 in seen and not [p for p in tmp_path.iterdir() if p.name == "m.wav.part"]


def test_the_index_of_a_book_is_json_of_now(tmp_path):
    begin_book(tmp_path / "book", "Night watch")
    assert json.loads((tmp_path / "book" / "takes.json").read_text())["format"] == 2


def test_a_ctrl_c_that_falls_into_a_callback_is_not_lost(tmp_path):
    """Python drops what is raised in a callback of its own: it is raised again, and no traceback is printed."""
    script = """
import os, signal, time, weakref
from nafas import interruption
class Thing: pass
interruption.watch()
thing = Thing()
ref = weakref.ref(thing, lambda _: os.kill(os.getpid(), signal.SIGINT) or sum(range(1000)))
try:
    del thing
    time.sleep(5)
except KeyboardInterrupt:
    print("stopped", interruption.happened())
"""
    found = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=30)
    assert found.stdout.strip() == "stopped True" and found.stderr == ""
