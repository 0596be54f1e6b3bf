"""Breathing along by keys, with lags and early releases planted."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.rehearsal.breathing import Press, against_guide, breaths_of, summary_of
from nafas.script import Session, read_block
from nafas.script.model.phase import PhaseKind
from nafas.timing import EventKind, compile_session, paced

TIMELINE = compile_session(Session(opening=4, blocks=(read_block("4-4-6-2 x8", "s"),)), paced())
PHASES = [m for m in TIMELINE.moments if m.kind is EventKind.PHASE]
END = float(TIMELINE.length)


def pressed(lag=0.0, without=(), early=None, jitter=0.0, two=True):
    """Keys of a breather who is late by `lag`, gives up some rounds, and releases the hold full of a round early."""
    draw, found = np.random.default_rng(1), []
    for place, moment in enumerate(PHASES):
        kind, off = moment.phase_kind, lag + jitter * draw.standard_normal()
        if moment.round in without or kind.is_hold or (kind is PhaseKind.EXHALE and not two):
            continue
        begin, end = float(moment.at) + off, float(moment.at + moment.length) + off
        if early is not None and moment.round == early[0] and kind is PhaseKind.EXHALE:
            begin -= early[1] + off
        if not two and place + 1 < len(PHASES) and PHASES[place + 1].phase_kind is PhaseKind.HOLD_FULL:
            end = float(PHASES[place + 1].at + PHASES[place + 1].length) + off
        inward = kind is PhaseKind.INHALE
        found += [Press(begin, inward, True), Press(end, inward, False)]
    return sorted(found, key=lambda press: press.at)


@given(st.floats(-0.4, 0.9))
def test_a_lag_is_recovered(lag):
    summary = summary_of(against_guide(TIMELINE, pressed(lag), 0.0, END))
    assert summary.lag == pytest.approx(lag, abs=0.01) and summary.spread < 0.01 and abs(summary.drift) < 0.01
    assert summary.breathed == 16 and not summary.given_up


def test_a_lag_of_eighty_milliseconds_in_an_unsteady_hand():
    summary = summary_of(against_guide(TIMELINE, pressed(0.08, jitter=0.02), 0.0, END))
    assert summary.lag == pytest.approx(0.08, abs=0.01) and summary.spread == pytest.approx(0.02, abs=0.01)


def test_a_hold_released_three_seconds_early_and_rounds_given_up():
    timings = against_guide(TIMELINE, pressed(0.08, without=(5, 6), early=(3, 3.0)), 0.0, END)
    summary = summary_of(timings)
    ((block, round_, seconds),) = summary.released
    assert (block, round_) == ("s", 3) and seconds == pytest.approx(3.0, abs=0.01)
    assert summary.given_up == (("s", 5), ("s", 6)) and summary.breathed == 12
    assert not summary_of(against_guide(TIMELINE, pressed(0.08), 0.0, END)).released


def test_one_key_says_in_and_out_and_nothing_of_a_hold_full():
    timings = against_guide(TIMELINE, pressed(0.05, two=False), 0.0, END)
    assert all(each.start is None for each in timings if each.kind is PhaseKind.HOLD_FULL)
    lags = [each.lag for each in timings if not each.kind.is_hold]
    assert lags == pytest.approx([0.05] * 16, abs=0.01)
    quick = pressed(0.0, two=False)
    at = next(k for k, press in enumerate(quick) if press.down and press.at > 30)
    quick[at] = Press(quick[at].at - 1.5, True, True)  # in again before the hold empty is over
    ((_, _, seconds),) = summary_of(against_guide(TIMELINE, quick, 0.0, END)).released
    assert seconds == pytest.approx(1.5, abs=0.01)


def test_nothing_one_key_held_for_ever_and_a_part_of_a_session():
    empty = summary_of(against_guide(TIMELINE, [], 0.0, END))
    assert empty.lag is None and empty.breathed == 0 and len(empty.given_up) == 8
    assert summary_of([]).phases == 0
    assert [b.end for b in breaths_of([Press(5.0, True, True)], 9.0)] == [9.0]
    part = against_guide(TIMELINE, pressed(), 4.0 + 16, 4.0 + 32)
    assert {each.round for each in part} == {2}
