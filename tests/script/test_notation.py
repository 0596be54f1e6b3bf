"""Breath notation: printed back as read, and errors that point at the character."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from strategies import patterns

from nafas.script import NotationError, PhaseKind, format_set, parse_set
from nafas.script.notation import format_pattern, parse_pattern


@given(patterns(), st.integers(1, 500), st.none() | st.fractions("1/5", 6, max_denominator=1000))
def test_what_is_printed_reads_back_the_same(pattern, rounds, length):
    said = parse_set(format_set(pattern, rounds, length))
    assert (said.pattern, said.rounds, said.count_length) == (pattern, rounds, length)


@pytest.mark.parametrize(
    ("typed", "printed"),
    [
        ("4-2-8", "4-2-8"),
        (" 4 – 4-4-4 ", "4-4-4-4"),
        ("in 4, hold 7, out 8", "4-7-8"),
        ("inhale 4, exhale 6", "4-6"),
        ("IN 4, Hold 7 Silent, out 8 down", "in 4, hold 7 silent, out 8 down"),
        ("out 4, hold 2, in 4", "out 4, hold 2, in 4"),
        ('in 4 "sip the air", out 6', 'in 4 "sip the air", out 6'),
        ("4-0-6-0", "4-0-6-0"),
    ],
)
def test_one_way_of_writing(typed, printed):
    assert format_pattern(parse_pattern(typed)) == printed


def test_hold_is_full_after_an_inhale_and_empty_after_an_exhale():
    kinds = [phase.kind for phase in parse_pattern("in 4, hold 2, out 4, hold 2")]
    assert kinds == [PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE, PhaseKind.HOLD_EMPTY]


def test_rounds_and_count_length_in_either_order():
    assert parse_set("4-6 @ 1.2s x3") == parse_set("4-6 ×3 @1.2")


@pytest.mark.parametrize(
    ("typed", "column", "expects"),
    [
        ("", 0, "4-2-8"),
        ("4", 1, "4-4"),
        ("4-2-8-3-2", 8, "in words"),
        ("4-2-99", 4, "0 to 60"),
        ("4-2-", 4, "0 to 60"),
        ("in 4 hold", 5, "x6"),
        ("4-2-8 x0", 7, "1 to 500"),
        ("4-2-8 x501", 7, "1 to 500"),
        ("4-2-8 @ 0", 8, "0.2 to 6"),
        ("4-2-8 @ 1/0", 8, "0.2 to 6"),
        ("4-2-8 x6 x7", 9, "keep one"),
        ("4-%", 2, "4-2-8"),
        ("in 4, sigh 3", 6, "hold-full"),
        ("out 4, hold-full 3", 0, "hold-empty"),
        ("0-0", 0, "4-6"),
        ('in 4 "", out 4', 5, "1 to 80"),
        ("٤-٤ x" + "9" * 5000, 5, "1 to 500"),
    ],
)
def test_errors_point_at_the_character_and_say_what_to_write(typed, column, expects):
    with pytest.raises(NotationError) as caught:
        parse_set(typed)
    assert (caught.value.column, expects in caught.value.remedy) == (column, True), str(caught.value)


@given(st.text(max_size=40))
def test_anything_typed_is_read_or_refused_with_a_place(text):
    try:
        parse_set(text)
    except NotationError as error:
        assert 0 <= error.column <= len(text)
