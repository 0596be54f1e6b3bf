"""What is heard while working: parts of the mix, clicks on its counts, a stretch over and over."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas.sound import build_mix
from nafas.sound.mix.monitor import LoopRegion, Parts, StemMonitor, count_places
from nafas.timing import EventKind, compile_session
from nafas.voice import Narrator, cast_timeline

RATE = 48_000


@pytest.fixture
def mix(short):
    narrator = Narrator(short.voice, short.language, Path())
    return build_mix(cast_timeline(compile_session(short, narrator.spoken_length), narrator, RATE))


def test_parts_sum_to_the_whole_and_each_can_be_heard_alone(mix):
    whole = mix.read(0, mix.length)
    alone = [StemMonitor(mix, Parts().alone(name)).read(0, mix.length) for name in ("voice", "chimes", "bed")]
    assert all(np.abs(part).max() > 0.001 for part in alone)
    assert np.abs(sum(alone) - whole).max() < 1e-6
    assert np.array_equal(StemMonitor(mix, Parts()).read(5, 1000), mix.read(5, 1000))
    assert not StemMonitor(mix, Parts(False, False, False)).read(0, mix.length).any()
    assert Parts().toggled("bed") == Parts(bed=False) and Parts().alone("bed").alone("bed") == Parts()


def test_clicks_stand_on_every_count_to_the_sample(mix):
    heard = StemMonitor(mix, Parts(False, False, False, clicks=True)).read(0, mix.length)[0]
    counts = [m.sample(RATE) for m in mix.cast.timeline.moments if m.kind is EventKind.COUNT]
    assert count_places(mix.cast.timeline, RATE) == counts and len(counts) == 10
    begins = [n for n in np.flatnonzero(heard) if not heard[n - 100 : n].any()]
    assert [n - 1 for n in begins] == counts  # a sine begins with nothing
    part = StemMonitor(mix, Parts(False, False, False, clicks=True)).read(counts[3] + 20, 500)[0]
    assert np.array_equal(part, heard[counts[3] + 20 : counts[3] + 520])


class Ramp:
    """Each sample is its own place."""

    rate, length = RATE, 100_000

    def read(self, start, frames):
        return np.array([np.arange(start, start + frames)] * 2, np.float32)


@settings(max_examples=40)
@given(st.integers(0, 9000), st.integers(1, 9000), st.lists(st.integers(1, 12_000), min_size=1, max_size=6))
def test_a_stretch_turns_round_in_blocks_of_any_size(begin, length, sizes):
    turning = LoopRegion(Ramp(), begin, begin + length)
    whole, at = turning.read(begin, sum(sizes)), begin
    for size in sizes:
        assert np.array_equal(turning.read(at, size), whole[:, at - begin : at - begin + size])
        at += size
    places = [turning.place(begin + n) for n in range(sum(sizes))]
    assert min(places) >= begin and max(places) < begin + length
    straight = np.array(places[: min(length, len(places))], np.float32)
    assert np.array_equal(whole[0, : len(straight)], straight)


def test_a_stretch_goes_over_into_its_beginning_without_a_jump(mix):
    turning = LoopRegion(mix, RATE, 3 * RATE)
    sound = turning.read(2 * RATE, 3 * RATE)
    usual = np.abs(np.diff(mix.read(RATE, 2 * RATE), axis=1)).max()
    assert np.abs(np.diff(sound, axis=1)).max() <= 1.05 * usual
