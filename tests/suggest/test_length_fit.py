"""Fitting a session to a length: never a broken lock, never a cut round, and true where it says so."""

from fractions import Fraction

import numpy as np
import pytest
import soundfile
from helpers import breath
from hypothesis import given, settings
from hypothesis import strategies as st
from strategies import REST, STROKES, TALK, paced_sets, seconds, sessions

from nafas.errors import InputError
from nafas.script import BreathSet, Rest, Session, Talk, expand, read_block
from nafas.script.edits.session_edits import change
from nafas.script.expansion import set_seconds
from nafas.script.model.session import BELL_RINGS
from nafas.sound.files.recording import recording_length
from nafas.suggest.length_fit import best_fit, fit
from nafas.suggest.slack import SHORTEST_REST
from nafas.timing import compile_session, paced
from nafas.timing.compile import SessionLengths

PACED = paced()


def length_of(session):
    return compile_session(session, PACED).length


def session_of(*blocks, **fields):
    return Session(opening=0, closing=10, end_bell=False, blocks=blocks, **fields)


def ways(session, target):
    return {option.kind: option for option in fit(session, PACED, Fraction(target)).options}


@settings(max_examples=120)
@given(sessions(TALK, REST, paced_sets(), STROKES), seconds("1/2", 2), st.integers(-300, 900))
def test_what_holds_for_any_fit(session, share, more):
    now = length_of(session)
    target = max(Fraction(1), min(Fraction(14_400), now * share + more))
    found = fit(session, PACED, target)
    first = best_fit(session, PACED, target).options
    if any(option.exact for option in found.options):  # the least that lands exactly is found without the others
        assert [(o.strain, o.exact) for o in first] == [(o.strain, o.exact) for o in found.options[:1]]
    else:
        assert first == found.options[:1]
    for option in found.options:
        made = option.session
        assert option.length == length_of(made) == SessionLengths(PACED)(made) and option.off == option.length - target
        assert option.exact == (option.length == target)
        assert abs(option.off) < abs(target - now) or option.kind == "rounds"
        for before, after in zip(session.blocks, made.blocks):
            if before.locked:
                assert after == before
            if isinstance(after, BreathSet):
                count = made.count_length_of(after)
                if before.locked:
                    assert count == session.count_length_of(before)
                rounds = expand(after, count)  # whole rounds, and nothing but them
                whole = sum((one.seconds for one in rounds), Fraction(0))
                rest = set_seconds(after, count) - whole
                eases = sum(one.opens_step for one in rounds) - 1
                assert rest == eases * after.ease + (
                    after.prepare.length(rounds[0].count_length) if after.prepare else 0
                )
            if isinstance(after, Rest) and after != before:
                assert after.seconds >= min(before.seconds, SHORTEST_REST)
    assert [o.exact for o in found.options] == sorted((o.exact for o in found.options), reverse=True)
    assert found.summary


def test_two_minutes_of_4_4_6_and_the_three_ways_out():
    """8.57 rounds: 8 (1:52), 9 (2:06), or a count of 2:00/(9 x 14) = 0.952 s (common practice, no source)."""
    session = Session(opening=0, closing=0, end_bell=False, blocks=(breath("4-4-6", 9),))
    found = fit(session, PACED, Fraction(120)).options
    by_title = {option.title: option for option in found}
    assert by_title["4-4-6 9 → 8 rounds"].length == 112
    slower = next(option for option in found if option.kind == "counts")
    assert slower.exact and slower.session.count_length == Fraction(20, 21) and "0.952 s" in slower.consequence
    eight = Session(opening=0, closing=0, end_bell=False, blocks=(breath("4-4-6", 8),))
    assert {o.title: o.length for o in fit(eight, PACED, Fraction(120)).options}["4-4-6 8 → 9 rounds"] == 126


def test_rests_stretch_within_their_bounds_and_in_proportion():
    rests = (
        Rest(id="a", seconds=20, longest=30),
        Rest(id="b", seconds=40, longest=70),
        Rest(id="c", seconds=9, locked=True),
    )
    session = session_of(breath("4-6", 6), *rests)
    option = ways(session, length_of(session) + 20)["rests"]
    lengths = [block.seconds for block in option.session.blocks[1:]]
    assert option.exact and lengths == [25, 55, 9]  # 10 and 30 s of room share 20
    far = ways(session, length_of(session) + 100)["rests"]
    assert [b.seconds for b in far.session.blocks[1:]] == [30, 70, 9] and far.off == -60
    words = Rest(id="w", seconds=60, paragraphs=("one " * 40,))
    near = ways(session_of(words), 20)["rests"]  # never shorter than what is said over it
    assert near.session.blocks[0].seconds == PACED("one " * 40)


def test_talk_is_trimmed_to_its_words_and_no_further():
    talk = Talk(id="t", paragraphs=("One two three four five six seven.",), slot=20)
    option = ways(session_of(talk, breath("4-6", 2)), 20)["talk"]
    assert option.session.blocks[0].slot == PACED("One two three four five six seven.") + Fraction(1, 2)


def test_counts_that_are_shared_change_once_and_locked_sets_keep_theirs():
    free, held = breath("4-6", 6, id="free"), breath("4-6", 6, id="held", locked=True)
    alone = ways(session_of(free), 73)["counts"].session
    assert alone.count_length == Fraction(63, 60) and alone.blocks[0].count_length is None
    both = ways(session_of(free, held), 133)["counts"].session
    assert both.count_length == 1 and both.blocks[0].count_length == Fraction(63, 60)
    lender = breath("4-6", 6, id="lender")
    borrower = BreathSet.model_validate({**held.model_dump(), "count_from": "lender", "id": "borrower"})
    assert "counts" not in ways(session_of(lender, borrower), 133)  # the lock holds what it borrows from too


def test_practice_alone_keeps_its_rounds_when_counts_change():
    session = session_of(read_block("5-5-5 x2 fade full 2 chimes at-least 60s full 1"))
    option = ways(session, length_of(session) - 5)["counts"]
    before, after = (expand(s.blocks[0], s.count_length_of(s.blocks[0])) for s in (session, option.session))
    assert option.exact and [one.level for one in before] == [one.level for one in after]


def test_a_recording_is_met_to_its_last_sample(folder):
    soundfile.write(folder / "bed.wav", np.zeros(5_720_101, np.float32), 44_100)
    target = recording_length(folder / "bed.wav")
    session = session_of(breath("4-6", 10), Rest(id="r", seconds=30))
    for kind in ("rests", "counts", "rounds and rests", "rounds and closing"):
        option = ways(session, target)[kind]
        timeline = compile_session(option.session, PACED)
        assert option.exact and timeline.length == Fraction(5_720_101, 44_100)
        assert timeline.moments[-1].sample(44_100) == 5_720_101
    for path in (folder / "none.wav", folder):
        with pytest.raises(InputError, match=r"cannot be read|is a folder"):
            recording_length(path)


def test_what_cannot_be_met_is_said_with_what_is_nearest():
    locked = session_of(breath("4-6", 6, locked=True))
    found = fit(locked, PACED, Fraction(3600))
    assert "cannot be met" in found.summary and "1:10" not in found.summary and "2:00" in found.summary
    assert fit(locked, PACED, Fraction(70)).reached and fit(locked, PACED, Fraction(70)).options == ()
    for target in (0, 14_401):
        with pytest.raises(InputError, match="not allowed"):
            fit(locked, PACED, Fraction(target))


def test_an_empty_session_has_only_its_music():
    found = fit(Session(opening=0, closing=10), PACED, Fraction(30))
    assert [option.kind for option in found.options] == ["closing"]


def test_no_way_to_a_length_cuts_off_the_end_bell():
    session = Session(opening=0, closing=12, blocks=(read_block("4-6 x8", "a"), read_block("4-4 x6", "b")))
    for target in (135, 141, 120):
        options = fit(session, PACED, Fraction(target)).options
        assert options and all(option.session.closing >= BELL_RINGS for option in options)
    quiet = change(session, end_bell=False)
    assert any(option.session.closing < BELL_RINGS for option in fit(quiet, PACED, Fraction(133)).options)


def test_what_is_offered_is_what_a_person_would_choose():
    """More practice is spread over the sets; one of many is not made to carry it all; a single sigh stays single."""
    blocks = (read_block("4-6 x8", "a"), read_block("in 4, out 6 sigh x1", "b"), read_block("4-8 x6", "c"))
    session = Session(blocks=blocks, opening=5, closing=10)
    found = fit(session, paced(), compile_session(session, paced()).length + 240)
    for option in found.options:
        rounds = [block.rounds for block in option.session.blocks]
        assert rounds[1] == 1, option.title
        assert rounds == [8, 1, 6] or (rounds[0] > 8 and rounds[2] > 6), option.title
    assert any(option.exact for option in found.options)
    near = fit(session, paced(), compile_session(session, paced()).length + 30)
    assert any([b.rounds for b in option.session.blocks] == [11, 1, 6] for option in near.options)  # a few more in one
    alone = Session(blocks=blocks[1:2])
    assert any(o.session.blocks[0].rounds > 2 for o in fit(alone, paced(), 60).options)  # where there is no other
