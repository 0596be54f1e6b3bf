"""Calls of a set: each ends with the round before the one it is about, talks over nothing, and what finds no room is
reported."""

import pytest
from hypothesis import given, settings
from strategies import paced_sets

from nafas.errors import InputError
from nafas.script import Session, read_block
from nafas.script.notation.block import block_notation
from nafas.timing import EventKind, compile_session, paced


def moments(notation, **fields):
    return compile_session(Session(blocks=(read_block(notation, "a"),), **fields), paced()).moments


def calls(notation, **fields):
    """(round, words, seconds from the end of the round) of each call."""
    found = moments(notation, **fields)
    ends = {m.round: m.at + m.length for m in found if m.kind is EventKind.ROUND}
    return [(m.round, m.text, float(ends[m.round] - m.at)) for m in found if m.kind is EventKind.CALL]


def test_calls_stand_before_the_round_they_are_about_and_take_the_counts_they_need():
    said = calls("4-6 x8 say last announce round 2 left 3 2 half")
    assert [(one, text) for one, text, _ in said] == [
        (1, "round two"), (3, "round four"), (4, "halfway"), (5, "three more"), (6, "two more"), (7, "last one"),
    ]  # fmt: skip
    assert all(seconds in (1, 2) for *_, seconds in said)


@pytest.mark.parametrize(
    ("notation", "one"), [("4-6 x12", 7), ("4-4-4-4 x10 @ 1.1s", 7), ("in 4, hold 20s, out 6 x4", 3)]
)
def test_a_minute_is_called_on_the_count_nearest_to_it_and_never_on_a_cue(notation, one):
    found = moments(f"{notation} announce minute")
    end = max(m.at + m.length for m in found if m.kind is EventKind.ROUND)
    (call,) = [m for m in found if m.kind is EventKind.CALL]
    assert abs(float(end - call.at) - 60) <= 1.5 and call.count > 1
    assert (call.text, call.round) == ("one minute left", one)


def test_a_short_set_and_a_silent_one_have_no_minute_and_the_middle_counts_the_ease():
    assert not calls("4-6 x7 announce minute") and not calls("4-6 x12 fade silent announce minute half")
    assert [one for one, *_ in calls("4-6 x2 step 1 to 8 ease 60s announce half")] == [
        3
    ]  # of six rounds, with two minutes between


def test_phrases_go_round_or_are_said_once_after_the_cue():
    again = [m for m in moments('4-6 x5 announce phrases "I let go" "Calm"') if m.kind is EventKind.CALL]
    assert [m.text for m in again] == ["I let go", "Calm", "I let go", "Calm", "I let go"]
    assert {(m.phase, m.count) for m in again} == {(2, 2)}
    once = [m for m in moments('4-6 x5 announce phrases "I let go" "Calm" once on in') if m.kind is EventKind.CALL]
    assert [(m.text, m.round, m.phase) for m in once] == [("I let go", 1, 1), ("Calm", 2, 1)]
    faded = [m for m in moments('4-6 x4 fade full 1 cues 1 chimes announce phrases "Calm" round') if m.text]
    said = [(m.round, m.text) for m in faded if m.kind is EventKind.CALL]
    assert said == [(1, "Calm"), (1, "round two"), (2, "Calm"), (2, "round three"), (3, "round four")]


def test_what_finds_no_room_is_reported_and_not_said():
    found = moments('2-2 x2 announce phrases "I am here now, and the sea is calm"')
    assert not [m for m in found if m.kind is EventKind.CALL and m.round == 1 and "calm" in m.text]
    assert [m.text for m in found if m.kind is EventKind.COVERED] == ["I am here now, and the sea is calm"] * 2


@settings(max_examples=60, deadline=None)
@given(paced_sets())
def test_nothing_is_said_while_a_call_is(block):
    session = Session(blocks=(block,))
    found = compile_session(session, paced()).moments
    said = [m for m in found if m.text and m.kind is not EventKind.COVERED]
    for call in (m for m in said if m.kind is EventKind.CALL and m.text != "last one"):
        others = [m for m in said if m is not call and call.at <= m.at < call.at + call.length]
        assert all(m.text == "last one" for m in others), (call, others)


@pytest.mark.parametrize(
    "words", ["round", "round 5", "left 9 3 2", "half minute", 'phrases "a b" "c" once on hold-full']
)
def test_it_is_written_as_it_was_read(words):
    block = read_block(f"4-6 x12 announce {words}")
    assert block_notation(block) == f"4-6 x12 announce {words}" and read_block(block_notation(block)) == block


@pytest.mark.parametrize(
    ("words", "problem"),
    [("", "what is called is missing"), ("left", "rounds left missing"), ("left 2 3", "most to the fewest"),
     ("left 1", "not allowed"), ("half half", "said twice"), ("phrases", "phrase missing"),
     ('phrases "a" on belly', "phase is missing"), ("round 0", "not allowed")],
)  # fmt: skip
def test_what_is_wrong_in_it_is_named(words, problem):
    with pytest.raises(InputError, match=problem):
        read_block(f"4-6 x12 announce {words}")


def test_a_language_without_the_words_says_so_and_wording_gives_them():
    with pytest.raises(ValueError, match="no words for 'half'"):
        Session(blocks=(read_block("4-6 x4 announce half"),), language="ru")
    spanish = moments("4-6 x12 announce round 5 minute", language="es")
    assert {m.text for m in spanish if m.kind is EventKind.CALL} == {"ronda cinco", "ronda diez", "queda un minuto"}
