"""Casting: beats on their samples, rotation, and misfits that name what does not fit."""

import json
from itertools import pairwise

import numpy as np
import pytest
import soundfile
from helpers import breath

from nafas.errors import InputError
from nafas.languages import LANGUAGES
from nafas.script import Rest, Session
from nafas.script.words.lexicon import count_word
from nafas.timing import EventKind, compile_session
from nafas.voice import Narrator, cast_timeline
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.takebook.book import TakeBook

from shelves import book_of  # isort: skip


class Hum:
    """An engine whose every line lasts as many tenths of a second as it has letters."""

    name = "hum"

    def __init__(self):
        self.read_lines = []

    readings = 1

    def read(self, text, voice, pace, reading=0):
        self.read_lines.append(text)
        t = np.arange(len(text) * 2205) / 22_050
        return (0.2 * np.sin(2 * np.pi * 900 * t)).astype(np.float32), 22_050


def cast_of(*blocks, engine=None, **fields):
    session = Session(blocks=blocks, bed=None, **fields)
    narrator = Narrator(session.voice, session.language, None, engine or Hum())
    return cast_timeline(compile_session(session, narrator.spoken_length), narrator)


def test_every_beat_is_on_its_sample():
    cast = cast_of(breath("4-2-8", 3, count_length="20/21"), opening="10/3")
    for placement in cast.placements:
        assert placement.target == placement.moment.sample(48_000)
        assert placement.target - placement.start == round(placement.clip.beat * 48_000)
    assert len(cast.placements) == 3 * 14


def test_a_word_longer_than_its_count_is_reported_with_what_it_needs():
    cast = cast_of(breath("7-7", 1, count_length="0.33"))
    over = {misfit.placement.moment.text for misfit in cast.misfits}
    assert "inhale" in over and "two" not in over  # six letters hum 0.6 s, three 0.3 s: less than there is
    assert "needs" in str(cast.misfits[0]) and "longer count" in str(cast.misfits[0])


class Fading(Hum):
    """A hum of 0.3 s whose tail, 40 dB under it, goes on for half a second more."""

    readings = 1

    def read(self, text, voice, pace, reading=0):
        sound = np.concatenate([np.full(6615, 0.2), np.full(11_025, 0.002)])
        return (sound * np.sin(np.arange(len(sound)) / 4)).astype(np.float32), 22_050


def test_a_quiet_tail_may_lie_under_the_next_word():
    assert not cast_of(breath("4-4", 2, count_length="0.5"), engine=Fading()).misfits
    assert cast_of(breath("4-4", 2, count_length="0.25"), engine=Fading()).misfits


def test_what_falls_off_either_end_is_reported():
    early = cast_of(breath("2-2", 1), opening=0, engine=Late())
    assert any("longer opening" in str(m) for m in early.misfits)
    late = cast_of(Rest(id="r", seconds=1, paragraphs=("a" * 40,)), closing=0)
    assert any("longer closing" in str(m) for m in late.misfits)


class Late(Hum):
    """Lines that are felt late: half a second of rising tone."""

    readings = 1

    def read(self, text, voice, pace, reading=0):
        t = np.arange(11_025) / 22_050
        return (0.4 * t * np.sin(2 * np.pi * 900 * t)).astype(np.float32), 22_050


def test_takes_rotate_without_repeating_and_always_alike(demo_cast):
    by_line = {}
    for placement in demo_cast.placements:
        if placement.moment.kind is EventKind.COUNT:
            by_line.setdefault(placement.moment.text, []).append(placement.clip.name)
    assert all(a != b for names in by_line.values() for a, b in pairwise(names))
    assert len(set(by_line["two"])) == 3


@pytest.fixture(scope="module")
def demo_cast():
    from nafas.demo import FOLDER, SESSION
    from nafas.script import load_session

    session = load_session(SESSION)
    narrator = Narrator(session.voice, "en", FOLDER)
    return cast_timeline(compile_session(session, narrator.spoken_length), narrator)


def test_the_demo_is_all_takes_and_everything_fits(demo_cast):
    assert demo_cast.stand_ins == 0 and demo_cast.misfits == ()
    begin, end = demo_cast.longest_silence
    assert 15 < (end - begin) / demo_cast.rate < 40


def test_the_embedded_engine_reads_every_language():
    for language in LANGUAGES:
        samples, rate = Espeak().read(count_word(3, language), language, 120)
        assert rate == 22_050 and len(samples) > rate / 10 and np.abs(samples).max() > 0.05
    with pytest.raises(InputError, match="no such voice"):
        Espeak().read("one", "nosuch", 120)


def test_a_line_sounds_the_same_whatever_was_read_before():
    alone, _ = Espeak().read("and out, slowly", "en", 126)
    for text, voice, pace in (("six", "es", 90), ("a longer sentence, with a comma", "en", 200), ("out", "de", 80)):
        Espeak().read(text, voice, pace)
        Espeak().phonemes(text, voice)
        assert np.array_equal(Espeak().read("and out, slowly", "en", 126)[0], alone)


def test_read_lines_are_remembered_and_a_broken_memory_is_read_again(folder):
    engine = Hum()
    cached = CachedEngine(engine, folder)
    first, _ = cached.read("one", "en", 120)
    again, rate = cached.read("one", "en", 120)
    assert engine.read_lines == ["one"] and rate == 22_050 and np.abs(first - again).max() < 1e-4
    (kept,) = folder.rglob("*.kept")
    for harm in (b"", b"broken", kept.read_bytes()[:-2], kept.read_bytes().replace(b"\0", b"\1")):
        kept.write_bytes(harm)
        assert np.abs(cached.read("one", "en", 120)[0] - again).max() < 1e-4
    assert engine.read_lines == ["one"] * 5


def test_finished_clips_are_kept_as_they_were_and_made_again_for_another_take(folder, monkeypatch):
    monkeypatch.setenv("NAFAS_CACHE", str(folder / "cache"))
    book = TakeBook(book_of(folder / "book", ("two.wav", "two", 0.4, {}), ("three.wav", "three", 0.5, {})))
    made = [book.clip(take) for take in book.index.takes]
    monkeypatch.setattr(TakeBook, "sound", None)  # nothing is read again
    for take, clip in zip(book.index.takes, made):
        again = book.clip(take)
        assert np.array_equal(again.samples, clip.samples)
        assert (again.text, again.name, again.beat, again.rate) == (clip.text, clip.name, clip.beat, clip.rate)
    with pytest.raises(TypeError):
        book.clip(book.index.takes[0].replace(gain=3.0))
    soundfile.write(folder / "book" / "two.wav", np.zeros(22_050) + 0.1, 22_050)  # another recording under its name
    with pytest.raises(TypeError):
        book.clip(book.index.takes[0])


def test_a_line_nobody_can_say_is_silence_not_an_error():
    assert cast_of(Rest(id="r", seconds=5, paragraphs=("…",)), engine=Mute()).placements[0].clip.samples.any() == 0


class Mute(Hum):
    readings = 1

    def read(self, text, voice, pace, reading=0):
        return np.zeros(0, np.float32), 22_050


def test_a_take_too_long_for_its_place_is_passed_over(folder):
    """Two takes of a line: where the counts are short, only the short one is used; with room, they take turns."""
    from nafas.script.model.assets import Asset
    from nafas.script.model.voice import Voice

    rate = 22_050
    takes = []
    for name, seconds, sure in (("long", 0.9, None), ("short", 0.4, 0.9), ("other", 0.3, 0.1)):
        t = np.arange(int(seconds * rate)) / rate
        soundfile.write(folder / f"{name}.wav", 0.2 * np.sin(2 * np.pi * 900 * t), rate)
        takes.append({"file": f"{name}.wav", "text": "two", "trim": [0, seconds], "beat": 0.1, "confidence": sure})
    (folder / "takes.json").write_text(json.dumps({"format": 2, "takes": takes}))
    voice = Voice(take_book=Asset(path="."))

    def used(count_length):
        session = Session(bed=None, voice=voice, blocks=(breath("3-3", 2, count_length=count_length),))
        narrator = Narrator(session.voice, "en", folder, Hum())
        cast = cast_timeline(compile_session(session, narrator.spoken_length), narrator)
        return [p.clip.name for p in cast.placements if p.moment.text == "two"]

    assert used("1.5") == ["long.wav", "short.wav"] * 2  # the unsure one is not used at all
    assert used("0.7") == ["short.wav"] * 4
