"""Beats against counts, and a bed with a beat in a session."""

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile
from helpers import breath
from hypothesis import given
from hypothesis import strategies as st

from nafas.script import Rest, Session
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FASTEST, SLOWEST, BeatGrid, FileBed
from nafas.sound import build_mix
from nafas.sound.beat.beat_grid import PlayingBeatGrid, agreements, beat_of, beat_offsets, beat_offsets_heard
from nafas.sound.bed.file_bed import RecordedBed
from nafas.sound.bed.following import pace_steps
from nafas.timing import compile_session, paced
from nafas.voice.casting import Cast

RATE = 48_000


@given(st.floats(20, 300), st.fractions(Fraction(1, 5), 6, max_denominator=1000), st.integers(1, 8))
def test_every_way_that_is_offered_brings_count_and_beat_together(bpm, count, bar):
    pulse = BeatGrid(bpm=bpm, bar=bar)
    for way in agreements(pulse, count):
        assert abs(float(way.count) - way.beats * pulse.seconds) <= 0.000005
        if way.pace is not None:
            assert SLOWEST <= round(way.pace, 9) <= FASTEST
            assert way.beats * pulse.seconds / way.pace == pytest.approx(float(count))


def test_the_ways_of_a_usual_bed():
    ways = agreements(BeatGrid(bpm=62), Fraction(1))
    assert [way.name for way in ways] == ["one count a beat", "one count every two beats", "one count a bar of 4"]
    assert ways[0].count == Fraction(96774, 100_000) and ways[0].pace == pytest.approx(60 / 62)
    assert ways[1].pace is None  # a bed at twice its pace would be heard to be
    assert [way.beats for way in agreements(BeatGrid(bpm=20), Fraction(1))] == [
        1,
        2,
    ]  # a bar of 12 s is not a possible count


@given(st.floats(0.25, 3), st.floats(0, 3), st.floats(0, 60), st.integers(1, 6))
def test_a_bar_begins_where_it_is_wanted(seconds, first, at, bar):
    beat = PlayingBeatGrid(seconds, first, bar)
    offset = beat.offset(at)
    assert 0 <= offset < seconds * bar + 1e-9
    place = (at + offset - first) / (seconds * bar)
    assert abs(place - round(place)) < 1e-6
    assert beat_offsets([at], beat, offset).worst < 1e-6


def test_counts_that_keep_the_beat_and_counts_that_do_not():
    beat = PlayingBeatGrid(0.5, 0.0, 4)
    even = beat_offsets(np.arange(0, 60, 1.0), beat, 0.0)
    assert even.worst == 0 and even.agreeing == 1
    slow = beat_offsets(np.arange(0, 60, 1.01), beat, 0.0)
    assert slow.worst == pytest.approx(0.25, abs=0.011) and slow.agreeing < 0.3
    assert beat_offsets([], beat, 0.0).worst == 0 and beat_offsets([], beat, 0.0).agreeing == 0


@given(st.lists(st.floats(0, 100), max_size=20), st.lists(st.floats(0, 100), min_size=1, max_size=30))
def test_counts_are_held_to_the_nearest_of_the_beats_that_are_heard(counts, beats):
    found = beat_offsets_heard(sorted(counts), np.sort(beats))
    for at, off in zip(sorted(counts), found.off):
        assert abs(off) == pytest.approx(min(abs(at - beat) for beat in beats))
    assert len(beat_offsets_heard(counts, np.zeros(0)).at) == 0


def test_beats_of_a_recording_come_round_with_its_loop(folder):
    clicks(folder / "b.wav", 60, 12.5, 0.25)
    bed = RecordedBed(
        folder / "b.wav", FileBed(file=Asset(path="b.wav"), pulse=BeatGrid(bpm=60, first=0.25), pace=1.05), RATE
    )
    beats = 0.25 + np.arange(12) + 0.1 * np.sin(np.arange(12))  # as if they wandered
    heard = bed.heard(beats, 3.0, 40.0)
    assert (np.diff(heard) > 0).all() and heard[0] >= 3 and heard[-1] < 40
    lasts = bed.period / RATE
    first = heard[heard < lasts]
    again = heard[(heard >= lasts + 3) & (heard < 2 * lasts)] - lasts
    assert np.allclose(first, again) and np.allclose(first * 1.05, beats[(beats >= 3.15) & (beats < lasts * 1.05)])


def clicks(path, bpm, seconds, first, rate=RATE):
    sound = 0.02 * np.random.default_rng(2).standard_normal(int(seconds * rate))
    for place in np.arange(first, seconds - 0.1, 60 / bpm):
        u = np.arange(int(0.03 * rate)) / rate
        sound[int(place * rate) :][: len(u)] += 0.8 * np.sin(2 * np.pi * 1500 * u) * np.exp(-u / 0.006)
    soundfile.write(path, np.clip(sound, -1, 1), rate)


def onsets(sound, near, rate=RATE, reach=0.06):
    """Where sound is strongest near each place, in seconds after it."""
    return [
        int(np.abs(sound[int((at - reach) * rate) : int((at + reach) * rate)]).argmax()) / rate - reach for at in near
    ]


@pytest.mark.parametrize(("bpm", "pace"), [(60.0, 1.0), (63.0, 60 / 63), (56.5, 60 / 56.5)])
def test_beats_of_a_bed_fall_on_the_counts_through_every_loop(folder, bpm, pace):
    """Fourteen seconds of clicks under a minute of counts: the bed comes round several times, a whole bar each."""
    clicks(folder / "b.wav", bpm, 14.3, 0.41)
    bed = FileBed(file=Asset(path="b.wav"), pulse=BeatGrid(bpm=bpm, first=0.41), pace=pace, crossfade=1.0, lift=0)
    session = Session(opening=Fraction("2.3"), closing=2, bed=bed, blocks=(breath("4-4", 7),))
    cast = Cast(compile_session(session, paced()), RATE, (), ())
    mix = build_mix(cast, folder)
    turn = mix.bed.turns[0]
    assert turn.sound.period / RATE % (240 / bpm / pace) == pytest.approx(0, abs=1e-4)
    assert mix.length > 3 * turn.sound.period
    counts = [float(moment.at) for moment in cast.timeline.counted]
    sound = turn.sound.read(turn.offset, mix.length).mean(axis=0)
    assert np.abs(onsets(sound, counts[:-1])).max() < 0.02
    assert beat_offsets(counts, turn.sound.beat, turn.offset / RATE).worst < 1e-3


def test_a_seam_of_beat_on_beat_is_no_louder(folder):
    """A loop whose two sides are the same sound: within half a decibel through its crossfade, where equal power alone
    would be 3 dB over."""
    t = np.arange(16 * RATE) / RATE
    soundfile.write(folder / "b.wav", 0.2 * np.sin(2 * np.pi * 220 * t) * (0.6 + 0.4 * np.sin(2 * np.pi * t)), RATE)
    bed = FileBed(file=Asset(path="b.wav"), pulse=BeatGrid(bpm=60), crossfade=4.0)
    made = RecordedBed(folder / "b.wav", bed, RATE)
    levels = [
        np.sqrt((made.read(at, RATE) ** 2).mean()) for at in range(made.period - RATE, made.period + 6 * RATE, RATE)
    ]
    assert 20 * np.log10(max(levels) / min(levels)) < 0.5


def test_a_bed_not_bound_to_the_counts_begins_as_recorded(folder):
    clicks(folder / "b.wav", 60, 14, 0.41)
    bed = FileBed(file=Asset(path="b.wav"), pulse=BeatGrid(bpm=60, first=0.41), on_counts=False)
    cast = Cast(compile_session(Session(bed=bed, blocks=(breath("4-4", 2),)), paced()), RATE, (), ())
    assert build_mix(cast, folder).bed.turns[0].offset == 0


def test_a_recording_shorter_than_a_bar_closes_on_a_beat(folder):
    clicks(folder / "b.wav", 60, 3.2, 0.1)
    bed = RecordedBed(Path(folder / "b.wav"), FileBed(file=Asset(path="b.wav"), pulse=BeatGrid(bpm=60)), RATE)
    assert bed.period % RATE == 0 and beat_of(BeatGrid(bpm=60, first=9.1), 1.0, 0.0).first == pytest.approx(1.1)


def test_a_bed_that_follows_slows_down_as_the_counts_do(folder):
    """Clicks of a second under counts that grow from 1 s to 1.07 s over seven rounds: each stays on its count."""
    clicks(folder / "b.wav", 60.0, 30.3, 0.41)
    bed = FileBed(file=Asset(path="b.wav"), pulse=BeatGrid(bpm=60, first=0.41), follows=True, crossfade=1.0, lift=0)
    slower = breath("4-4", 7, pacing={"kind": "glide", "to": "1.07"})
    session = Session(opening=Fraction("2.3"), closing=2, bed=bed, blocks=(slower,))
    cast = Cast(compile_session(session, paced()), RATE, (), ())
    counts = [float(moment.at) for moment in cast.timeline.counted][:-1]
    late = {}
    for name, choice in {"follows": bed, "steady": bed.replace(follows=False)}.items():
        mix = build_mix(Cast(compile_session(session.replace(bed=choice), paced()), RATE, (), ()), folder)
        turn = mix.bed.turns[0]
        sound = turn.sound.read(turn.offset, mix.length).mean(axis=0)
        late[name] = np.abs(onsets(sound, counts, reach=0.3 if name == "steady" else 0.06))
        assert mix.bed.keeps is choice.follows
    assert late["follows"].max() < 0.03 and np.median(late["follows"]) < 0.012
    assert late["steady"].max() > 0.2


def test_a_pace_that_follows_keeps_its_bounds_and_rests_keep_it(folder):
    blocks = (breath("4-4", 2, id="a"), Rest(id="r", seconds=20), breath("4-4", 2, id="b", count_length="1.5"))
    timeline = compile_session(Session(opening=2, blocks=blocks), paced())
    assert pace_steps(timeline, 1.0) == [(0.0, 1.0), (38.0, SLOWEST)]
    assert pace_steps(timeline, 1.0, begin=30.0) == [(0.0, 1.0)]
    assert pace_steps(compile_session(Session(), paced()), 1.05) == [(0.0, 1.05)]
