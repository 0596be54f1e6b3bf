"""What is kept in memory and on the disk stays within its bytes."""

import os
import sys

import numpy as np
from helpers import breath

from nafas.bounded_cache import bounded_cache
from nafas.script import Session
from nafas.script.edits.session_edits import change_block
from nafas.script.model.voice import Voice
from nafas.state.disk_cache import sweep
from nafas.timing import compile_session, paced
from nafas.timing.timeline import size_of_body
from nafas.voice import Narrator
from nafas.voice.engines.cache import CachedEngine


def test_what_was_used_last_is_kept_within_its_bytes():
    asked = []

    @bounded_cache(1000, len)
    def letters(n):
        asked.append(n)
        return b"a" * n

    for n in (400, 500, 400, 300, 400, 500, 2000, 2000):
        assert len(letters(n)) == n
    assert asked == [400, 500, 300, 500, 2000, 2000]  # 500 made room for 300; what is too large is not kept


def test_a_body_is_counted_for_what_it_takes():
    session = Session(blocks=(breath("4-2-8", 200),))
    body = compile_session(session, paced()).blocks[0].body
    least = sum(sys.getsizeof(event) for event in body.events)
    assert least < size_of_body(body) < 3 * least
    again = compile_session(change_block(session, 0, title="Named"), paced())
    assert compile_session(session, paced()).blocks[0].body is body and again.length == session.written_length


def test_what_was_read_for_one_session_is_there_for_the_next(folder):
    class Reader:
        name = "reader"
        readings = 1

        def read(self, text, voice, pace, reading=0):
            return np.sin(np.arange(8000, dtype=np.float32)) / 4, 8000

    def clips(text, place, pace=105):
        return Narrator(Voice(pace=pace), "en", folder, CachedEngine(Reader(), folder / place)).clips(text)

    once = clips("and out", "a")
    assert clips("and out", "a") is once
    others = clips("and in", "a"), clips("and out", "a", 90), clips("and out", "b")
    assert all(other is not once for other in others)


def test_lines_on_the_disk_are_swept(folder):
    class Reader:
        name = "reader"

        readings = 1

        def read(self, text, voice, pace, reading=0):
            return np.zeros(1000, np.float32), 8000

    engine = CachedEngine(Reader(), folder)
    for n in range(6):
        engine.read(f"line {n}", "en", 100)
    files = sorted((folder / "lines").glob("*/*.kept"))
    for age, path in enumerate(files):
        os.utime(path, (1e9 + age, 1e9 + age))
    left = files[0].parent / "x.part"
    left.touch()
    os.utime(left, (1e9, 1e9))
    sweep(folder / "lines", 2 * files[0].stat().st_size + 1)
    assert sorted((folder / "lines").glob("*/*")) == files[-2:]
    size = sum(path.stat().st_size for path in files[-2:])
    sweep(folder / "lines", size)
    sweep(folder / "nowhere")
    assert sorted((folder / "lines").glob("*/*")) == files[-2:]
