"""Performances with planted offsets, by the practice microphone, held against the grid and made takes."""

import numpy as np
import pytest
import soundfile

from nafas.errors import Cancelled, InputError
from nafas.rehearsal.as_spoken import as_spoken
from nafas.rehearsal.performance import judge_performance
from nafas.rehearsal.performance_takes import performance_takes, worth
from nafas.script import Session, read_block
from nafas.script.model.blocks import Talk
from nafas.sound.files.recording import Recording
from nafas.sound.master.render import render
from nafas.sound.mix.mix import build_mix
from nafas.timing import EventKind, compile_session, paced
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.casting import cast_session
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.recording.practice import RATE, Manners
from nafas.voice.recording.practice_performance import practice_performance
from nafas.voice.segmentation.source import Source
from nafas.voice.takebook.book import TakeBook

BLOCKS = (
    Talk(id="hello", paragraphs=("Sit where the deck is quiet, and let your back be long.",)),
    read_block("4-6 x4", "waves"),
)
TIMELINE = compile_session(Session(opening=3, blocks=BLOCKS), paced())


def performed(folder, timeline=TIMELINE, begin=-1.0, skip=0.0, spread=0.06, snr=30.0, language="en"):
    manners = Manners(snr=snr, skip=skip, voice=language)
    made = practice_performance(
        CachedEngine(Espeak()), timeline, begin, float(timeline.length), manners, 3, spread=spread, lag=0.15
    )
    soundfile.write(folder / "p.wav", made.samples, RATE)
    return made, Source(folder / "p.wav")


def errors(made, found):
    late = {
        round(float(word.moment.at), 3): word.late for word in found.words if word.moment.kind is not EventKind.TALK
    }
    pairs = [(late[round(at, 3)], by) for at, by, _ in made.truth]
    off = np.array([measured - planted for measured, planted in pairs if measured is not None])
    assert abs(np.median(off)) < 0.03  # what is taken off as constant is the middle of all words
    return off - np.median(off), pairs


@pytest.mark.parametrize(("language", "snr"), [("en", 40.0), ("en", 20.0), ("es", 30.0)])
def test_planted_offsets_are_measured_within_ten_milliseconds(folder, language, snr):
    timeline = compile_session(Session(opening=3, language=language, blocks=BLOCKS), paced())
    made, source = performed(folder, timeline, snr=snr, language=language)
    found = judge_performance(source, timeline, -1.0)
    off, pairs = errors(made, found)
    assert len(off) == len(pairs) == 40 and not found.missing
    share = 0.9 if language == "en" else 0.8  # "inhala" may be felt on either of its vowels
    assert np.quantile(np.abs(off), share) < 0.010 and found.lag == pytest.approx(0.15, abs=0.03)
    assert found.spread == pytest.approx(np.std([by for _, by, _ in made.truth]), abs=0.02)
    assert len(found.by_round()) == 4
    talk = found.words[0]
    assert talk.moment.kind is EventKind.TALK and talk.start == pytest.approx(4.15, abs=0.15)


def test_words_that_were_left_out_are_missing_and_their_fellows_stand(folder):
    made, source = performed(folder, skip=0.2)
    found = judge_performance(source, TIMELINE, -1.0)
    due = {round(float(m.at), 3) for m in TIMELINE.spoken if m.kind is not EventKind.TALK}
    left_out = due - {round(at, 3) for at, _, _ in made.truth}
    missing = {round(float(w.moment.at), 3) for w in found.missing if w.moment.kind is not EventKind.TALK}
    assert left_out and missing == left_out
    assert np.quantile(np.abs(errors(made, found)[0]), 0.9) < 0.010


def test_a_performance_punched_in_is_held_against_its_part(folder):
    begin = float(TIMELINE.blocks[1].start) + 20 - 0.5  # before round 3
    made, source = performed(folder, begin=begin)
    found = judge_performance(source, TIMELINE, begin)
    assert {word.moment.round for word in found.words} == {3, 4} and len(made.truth) == 20
    assert np.quantile(np.abs(errors(made, found)[0]), 0.9) < 0.010


def test_the_best_takes_are_in_use_and_the_rest_kept_aside(folder):
    _, source = performed(folder, spread=0.1)
    found = judge_performance(source, TIMELINE, -1.0)
    used, aside = performance_takes(source, TIMELINE, found, folder / "book", "Waves")
    book = TakeBook(folder / "book")
    assert len(book.index.takes) == 41 and {take.file for take in book.index.takes if take.aside} == {
        take.file for take in aside
    }
    late = {worth(word): word for word in found.words}
    twos = [take for take in used if take.text == "two"]
    rest = [take for take in aside if take.text == "two"]
    assert len(twos) + len(rest) == 8 and min(t.confidence for t in twos) >= max(t.confidence for t in rest)
    assert abs(late[twos[0].confidence].late) < 0.2 and all(take.sure for take in used)


def test_as_spoken_every_word_stays_where_it_was_said(folder):
    """In the written file each word's beat lies off its count by what was planted; before the performance the
    session's own voice speaks."""
    begin = float(TIMELINE.blocks[1].start) + 20 - 0.5
    made, source = performed(folder, begin=begin)
    found = judge_performance(source, TIMELINE, begin)
    cast = cast_session(TIMELINE.session, folder)
    shift = cast.timeline.blocks[1].start - TIMELINE.blocks[1].start  # talk lasts as long as it is read
    mix = build_mix(cast)
    spoken = as_spoken(mix, Recording(folder / "p.wav", mix.rate), found, begin + float(shift))
    path = render(spoken, folder / "spoken.wav", anyway=True).path
    samples, rate = soundfile.read(path)
    late = []
    for due, by, _ in made.truth:
        at = due + float(shift)
        part = samples[int((at - 0.3) * rate) : int((at + 0.6) * rate)].mean(axis=1)
        late.append((find_beat(part.astype(np.float32), rate).seconds - 0.3, by))
    off = np.array([measured - planted for measured, planted in late])
    assert np.quantile(np.abs(off - np.median(off)), 0.8) < 0.02 and abs(np.median(off)) < 0.04  # heard over the sea
    first = int((float(cast.timeline.blocks[1].start) + 1) * rate)
    assert np.abs(samples[first : first + rate]).max() > 0.01


def test_silence_another_place_and_stopping_half_way(folder):
    soundfile.write(folder / "s.wav", np.zeros(RATE * 10), RATE)
    found = judge_performance(Source(folder / "s.wav"), TIMELINE, 0.0)
    assert len(found.missing) == len(found.words) and not found.counted and found.spread == 0
    with pytest.raises(InputError, match="was due"):
        judge_performance(Source(folder / "s.wav"), TIMELINE, 5000.0)

    def stop(done):
        raise Cancelled

    with pytest.raises(Cancelled):
        judge_performance(Source(folder / "s.wav"), TIMELINE, 0.0, stop)
