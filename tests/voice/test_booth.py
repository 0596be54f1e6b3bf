"""Recording line by line from the practice microphone, whose truth is known; and listening for the end of a line."""

import errno
import os
from pathlib import Path

import numpy as np
import pytest

from nafas.errors import InputError
from nafas.script import Session, Talk, read_block
from nafas.timing import compile_session, paced
from nafas.voice import TakeBook
from nafas.voice.call_sheet import call_sheet
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.recording.booth import Booth, best_reading
from nafas.voice.recording.line_endpointer import LineEndpointer
from nafas.voice.recording.practice import Manners
from nafas.voice.recording.practice_microphone import PracticeMicrophone
from nafas.voice.segmentation.unlisted import unlisted
from nafas.voice.takebook.editor import TakeBookEditor

ENGINE = CachedEngine(Espeak())
TALK = Talk(id="t", paragraphs=("Feel the deck under you, and let your back be long.", "Thank you, deck crew."))
LINES = call_sheet([compile_session(Session(blocks=(read_block("7-4-8 x2"), TALK)), paced())])


def heard(microphone, text):
    """What the microphone gives while a line is asked for, and where in it the line was said last, if it was."""
    begin, mark = microphone._at / microphone.rate, len(microphone.truth)
    microphone.ask(text)
    hearing = LineEndpointer(microphone.rate, 1.2)
    while microphone.speaking or not hearing.seconds > 1.0:
        hearing.feed(microphone.read(600))
    for _ in range(60):
        hearing.feed(microphone.read(600))
    said = [spoken for words, spoken in microphone.truth[mark:] if words is not None]
    return hearing, (said[-1].start - begin, said[-1].end - begin) if said else None


@pytest.mark.parametrize("voice", ["en-us", "en+f2", "en+m5"])
def test_each_line_is_found_whatever_comes_before_it(folder, voice):
    """Coughs, breaths, clicks and second tries at 25 dB: the last reading is the one that is kept."""
    ways = Manners(voice=voice, snr=25, cough=0.4, breath=0.4, click=0.2, retake=0.4, skip=0.0)
    microphone = PracticeMicrophone(ENGINE, ways, seed=2)
    right = 0
    for line in LINES:
        hearing, said = heard(microphone, line.text)
        assert hearing.over
        reading = best_reading(hearing.sound(), microphone.rate, line, ENGINE)
        right += abs(reading.start - said[0]) < 0.05 and abs(reading.end - said[1]) < 0.15
    assert right >= len(LINES) - 1


def test_takes_are_shelved_one_by_one(folder):
    microphone = PracticeMicrophone(ENGINE, Manners(skip=0, cough=0, retake=0), seed=1)
    booth = Booth(LINES, TakeBookEditor(folder / "book", "Crossing"), ENGINE)
    assert booth.wanting() == list(range(len(LINES)))
    line = LINES[0]
    for many in range(1, 4):
        kept = booth.record(line, heard(microphone, line.text)[0].sound(), microphone.rate)
        assert len(TakeBook(folder / "book").takes(line.text, "en")) == many  # on the disk, not only in memory
    assert kept.remarks == () and 0 not in booth.wanting()
    clip = TakeBook(folder / "book").clip(kept.take)
    assert 0.2 < float(clip.seconds) < 1.2 and 0 < clip.beat < 0.5
    booth.drop(kept.take)
    assert 0 in booth.wanting() and (folder / "book" / kept.take.file).exists()


def test_what_is_wrong_is_said_at_once(folder):
    microphone = PracticeMicrophone(ENGINE, Manners(skip=0, cough=0, retake=0), seed=1)
    booth = Booth(LINES, TakeBookEditor(folder / "book"), ENGINE)
    sound = heard(microphone, "two")[0].sound()
    two = next(line for line in LINES if line.text == "two")
    assert "clipped" in booth.record(two, np.clip(sound * 40, -1, 1), microphone.rate).remarks[0]
    talk = LINES[-1]
    doubted = booth.record(talk, sound, microphone.rate)  # "two" where a sentence was asked for
    assert not doubted.take.sure and "does not sound like" in doubted.remarks[-1]
    tight = booth.record(two.__class__(**{**vars(two), "room": 0.1}), sound, microphone.rate)
    assert any("too long" in remark for remark in tight.remarks)


def test_silence_and_a_full_disk_change_nothing(folder, monkeypatch):
    microphone = PracticeMicrophone(ENGINE, Manners(skip=1.0, cough=0, breath=0, click=0), seed=1)
    booth = Booth(LINES, TakeBookEditor(folder / "book"), ENGINE)
    with pytest.raises(InputError, match="heard nothing"):
        booth.record(LINES[0], heard(microphone, "one")[0].sound(), microphone.rate)
    with pytest.raises(InputError, match="heard nothing"):
        booth.record(LINES[0], np.zeros(0, np.float32), microphone.rate)
    talking = PracticeMicrophone(ENGINE, Manners(skip=0, cough=0), seed=1)
    sound = heard(talking, LINES[0].text)[0].sound()
    booth.record(LINES[0], sound, talking.rate)

    def full(descriptor):
        if "takes.json" in str(Path(f"/proc/self/fd/{descriptor}").readlink()):  # the clip is written, the index is not
            raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(InputError, match="No space"):
        booth.record(LINES[0], sound, talking.rate)
    monkeypatch.undo()
    book = TakeBook(folder / "book")
    # What was said is on the disk already: it is not thrown away with the line of the index that did not fit.
    assert len(book.index.takes) == 1 and [path.name for path in unlisted(book)] == ["two-2.flac"]


def test_the_practice_microphone_repeats_itself():
    one, two = (PracticeMicrophone(ENGINE, Manners(), seed=7) for _ in range(2))
    for each in (one, two):
        each.ask("three")
    assert (np.concatenate([one.read(500) for _ in range(40)]) == two.read(20_000)).all()
    assert one.read(0).shape == (0,)


def test_a_line_is_over_when_it_is_quiet_again():
    """A click is no line; a pause inside one does not end it."""
    rate = 16_000
    noise = np.random.default_rng(1).standard_normal(10 * rate).astype(np.float32) * 1e-3
    hearing = LineEndpointer(rate, pause=0.8)
    hearing.feed(noise[: rate // 2])
    click = noise[: rate // 2].copy()
    click[100:180] += 0.5
    hearing.feed(click)
    assert not hearing.speaking and not hearing.clipped
    word = noise[:rate].copy()
    word[: rate // 2] += 0.3 * np.sin(np.arange(rate // 2) * 0.3).astype(np.float32)
    hearing.feed(word)
    assert hearing.speaking and not hearing.over
    hearing.feed(word)
    hearing.feed(noise[: rate // 2])
    assert hearing.over and hearing.seconds == pytest.approx(3.5)
    assert hearing.noise == pytest.approx(-60, abs=2) and hearing.peak == pytest.approx(-6, abs=0.5)
    empty = LineEndpointer(rate)
    empty.feed(np.zeros(0, np.float32))
    assert not empty.over and len(empty.sound()) == 0
