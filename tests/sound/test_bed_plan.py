"""Which bed sounds when, and how loud: blocks, changes, the breath, and what the producer sets of the ducking."""

from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from helpers import breath
from hypothesis import given
from hypothesis import strategies as st

from nafas.script import Rest, Session
from nafas.script.model.beds import BlockBed, Ducking, GeneratedBed, NightSea
from nafas.sound import build_mix
from nafas.sound.bed.ducking import SILENT, level_line, plan_ducking, plan_steps, plan_swell
from nafas.sound.bed.track import BedRegion, BedTrack
from nafas.timing import compile_session, paced
from nafas.timing.breath import breath_points
from nafas.timing.sheet import sheet_text
from nafas.voice.casting import Cast

RATE = 8_000


def rest(name, seconds=20, **bed):
    return Rest(id=name, seconds=seconds, bed=bed or None)


def bed_of(*blocks, rate=RATE, **fields):
    session = Session(opening=5, closing=5, end_bell=False, blocks=blocks, **{"bed": NightSea(lift=0), **fields})
    return build_mix(Cast(compile_session(session, paced()), rate, (), ()))


def level(sound):
    return 10 * np.log10((sound.astype(float) ** 2).mean() + 1e-20)


class Constant:
    def __init__(self, value):
        self.value = value

    def read(self, start, frames):
        return np.full((2, frames), self.value, np.float32)


class Noise:
    """The same noise from any place."""

    def __init__(self, seed):
        self.sound = np.random.default_rng(seed).standard_normal((2, 40 * RATE)).astype(np.float32)

    def read(self, start, frames):
        return self.sound[:, start : start + frames].copy()


def track(*sounds, over=RATE, each=10 * RATE):
    flat = level_line([(0, 0.0)])
    turns = [BedRegion(sound, flat, n * each) for n, sound in enumerate(sounds)]
    return BedTrack(turns, [over] * (len(sounds) - 1), 1, 1, len(sounds) * each)


def test_one_bed_goes_over_into_the_next_at_equal_power():
    """Two noises of one level: within 0.1 dB of it, in the mean over the crossfade and in each fifth of it."""
    made = track(Noise(1), Noise(2), over=3 * RATE)
    span = made.read(7 * RATE, 6 * RATE)
    assert level(span) == pytest.approx(0, abs=0.1)
    fifths = np.array_split(span, 5, axis=1)
    assert max(abs(level(part)) for part in fifths) < 0.2
    assert np.array_equal(made.read(0, 7 * RATE)[:, 1:], Noise(1).read(0, 7 * RATE)[:, 1:])
    assert np.array_equal(made.read(13 * RATE, RATE), Noise(2).read(13 * RATE, RATE))


@given(st.integers(0, 29 * RATE), st.integers(1, RATE))
def test_a_block_of_several_beds_depends_on_its_place_alone(start, frames):
    made = track(Constant(0.1), None, Noise(3), over=RATE // 2)
    whole = made.read(start, frames + 1000)
    assert np.allclose(made.read(start, frames), whole[:, :frames], atol=1e-6)
    assert np.allclose(made.read(start + frames, 1000), whole[:, frames:], atol=1e-6)


def test_a_block_without_the_bed_is_silent_and_a_louder_one_is_louder():
    mix = bed_of(rest("a"), rest("b", on=False), rest("c", level=-6.0), ducking=Ducking(crossfade=2))
    second = [mix.read(at * RATE, RATE) for at in range(50, 64)]
    assert not mix.read(28 * RATE, 14 * RATE).any()  # the second block, from 25 to 45 s
    loud, soft = mix.bed.level_at(np.array([20, 55]) * RATE)
    assert soft == loud - 6 and all(part.any() for part in second)
    steps = np.abs(np.diff(mix.bed.level_at(np.arange(0, 70 * RATE, 80))))
    assert steps.max() <= 91 / 2 / 100 + 1e-6  # never faster than from nothing to all of it in the crossfade


def test_another_bed_from_a_block_on_and_none_before():
    rain = GeneratedBed(kind="rain", lift=0)
    mix = bed_of(rest("a"), rest("b", change=rain), rest("c"), bed=None, ducking=Ducking(crossfade=1))
    assert not mix.read(0, 24 * RATE).any() and mix.read(26 * RATE, RATE).any()
    assert mix.read(60 * RATE, RATE).any() and len(mix.bed.turns) == 2
    assert [turn.sound is None for turn in mix.bed.turns] == [True, False]
    assert bed_of(rest("a"), bed=None).bed is None


def test_a_bed_that_comes_back_is_made_once():
    kinds = ("rain", "sea", "drone", "bowls", "pad", "rain", "sea")
    mix = bed_of(*(rest(f"b{n}", 20, change=GeneratedBed(kind=kind, lift=n)) for n, kind in enumerate(kinds)))
    sounds = [turn.sound for turn in mix.bed.turns[1:]]
    assert sounds[5] is sounds[0] and sounds[6] is sounds[1] and len(set(map(id, sounds))) == 5


def test_very_many_changes_close_together_do_not_overlap():
    blocks = [rest(f"b{n}", 1, change=GeneratedBed(kind=("rain", "sea")[n % 2])) for n in range(12)]
    mix = bed_of(*blocks, ducking=Ducking(crossfade=60))
    sound = mix.read(0, mix.length)
    assert np.isfinite(sound).all() and np.abs(sound).max() < 1
    assert all(a.begin + over <= b.begin for a, b, over in zip(mix.bed.turns, mix.bed.turns[1:], mix.bed.over))


@given(st.lists(st.tuples(st.integers(1, 400), st.floats(-90, 12)), min_size=1, max_size=12), st.floats(0.1, 60))
def test_steps_reach_every_level_and_do_not_jump(steps, seconds):
    places = np.cumsum([gap * 100 for gap, _ in steps]).tolist()
    line = plan_steps([(place, level) for place, (_, level) in zip(places, steps)], 100, seconds)
    assert (np.diff(line.places) > 0).all()
    for place, (_, wanted), after in zip(places, steps, [*places[1:], places[-1] + 10**6]):
        held = place if place == places[0] else (place + after) // 2
        assert line.level_at(np.array([held]))[0] == pytest.approx(wanted, abs=1e-6)


def test_the_bed_swells_with_the_breath():
    """Full at the end of the inhale, least at the end of the exhale, and half-way between in the middle."""
    mix = bed_of(breath("4-8", 3, chimes=False), bed=NightSea(swell=6, lift=0))
    full, empty, middle = (mix.bed.level_at(np.array([at * RATE]))[0] for at in (9, 17, 7))
    assert full - empty == pytest.approx(6, abs=0.01) and (full + empty) / 2 == pytest.approx(middle, abs=0.01)
    levels = mix.bed.level_at(np.arange(0, mix.length, RATE // 10))
    assert np.abs(np.diff(levels)).max() < 0.3  # no jump, at either end of the set too


def test_a_breath_that_is_half_full_and_one_that_is_natural():
    points = breath_points(compile_session(Session(blocks=(breath("in 4 to 1/2, out 4, in 4, out 4", 1),)), paced()))
    assert [level for _, level in points] == [0, 0.5, 0, 1, 0, 0.5]
    assert all(a <= b for (a, _), (b, _) in pairwise(points))
    assert breath_points(compile_session(Session(blocks=(rest("a"),)), paced())) == []
    assert plan_swell([], RATE, 6).level_at(np.array([0]))[0] == 0


def test_what_is_set_of_the_ducking_is_what_happens():
    ducking = Ducking(lead=2, hold=1, release=4)
    line = plan_ducking([(1000, 1100), (1150, 1200), (1900, 2000)], 100, -14, -9, ducking)
    at = dict(zip(line.places.tolist()[1:], line.levels.tolist()[1:]))
    assert at == {800: -9, 1000: -14, 1200: -14, 1600: -9, 1700: -9, 1900: -14, 2000: -14, 2400: -9}
    assert plan_ducking([], 100, -14, -9, ducking).level_at(np.array([0, 9]))[1] == -9


@given(st.lists(st.tuples(st.integers(-50, 50), st.floats(-40, 12)), min_size=1, max_size=6, unique_by=lambda p: p[0]))
def test_two_lines_together_are_their_sum(points):
    one, other = level_line(sorted(points)), level_line([(-10, -3.0), (10, 4.0)])
    places = np.arange(-60, 60)
    both = one.plus(other).level_at(places)
    assert np.allclose(both, np.maximum(one.level_at(places) + other.level_at(places), SILENT), atol=1e-9)


def test_fractions_of_a_second_are_kept():
    mix = bed_of(rest("a", Fraction("7.3")), rest("b", Fraction("5.9"), change=GeneratedBed(kind="drone")))
    assert [turn.begin for turn in mix.bed.turns] == [0, round(12.3 * RATE)]


def test_what_a_block_does_with_the_bed_in_words():
    words = [BlockBed(), BlockBed(on=False, level=3), BlockBed(level=-3), BlockBed(change=NightSea(), level=2)]
    assert [each.words for each in words] == [
        "", "no bed", "bed \N{MINUS SIGN}3 dB", "bed +2 dB, sea at night from here on",
    ]  # fmt: skip
    session = Session(blocks=(rest("a", on=False), rest("b", change=GeneratedBed(kind="rain"))))
    told = sheet_text(compile_session(session, paced()))
    assert "no bed" in told and "rain from here on" in told
