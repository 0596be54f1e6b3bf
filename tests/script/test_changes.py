"""A chosen block changed in words."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.script.notation.block import block_notation, read_block
from nafas.script.notation.typed.changes import changed
from nafas.script.notation.typed.vocabulary import known_words


@pytest.mark.parametrize(
    "block, said, becomes",
    [
        ("4-6 x8", "a little slower", "4-6 x8 @ 1.1s"),
        ("4-6 x8 @ 1.1s", "faster", "4-6 x8 @ 1s"),
        ("4-6 x8", "two more rounds", "4-6 x10"),
        ("4-6 x8", "3 fewer rounds", "4-6 x5"),
        ("4-6 x8", "x12", "4-6 x12"),
        ("4-6 x8", "for five minutes", "4-6 x30"),
        ("4-6 x8", "one minute longer", "4-6 x14"),
        ("4-6 x8", "at 1.2 s", "4-6 x8 @ 1.2s"),
        ("4-6 x8", "out 8 instead of 6", "4-8 x8"),
        ("4-6 x8", "in 5, out 7", "5-7 x8"),
        ("4-2-8 x6", "no hold", "4-8 x6"),
        ("4-2-8 x6", "hold 2 more", "4-4-8 x6"),
        ("in L 4, out R 4 x6", "swap the sides", "in R 4, out L 4 x6"),
        ("4-6 x8", "count down", "4-6 x8 say down"),
        ("rest 30s", "20 seconds longer", "rest 50s"),
        ("rest 30s", "1 min", "rest 60s"),
        ("rapid 30", "slower", "rapid 30 @ 600/11/min every 10 rest 45s"),
        ("rapid 30", "40", "rapid 40 @ 60/min every 10 rest 45s"),
        ("4-6 x8", "zwei Runden mehr", "4-6 x10"),
        ("4-6 x8", "aus 8 statt 6", "4-8 x8"),
        ("4-6 x8", "langsamer", "4-6 x8 @ 1.1s"),
        ("4-2-8 x6", "sans apnée", "4-8 x6"),
        ("4-6 x8", "expire 8 au lieu de 6", "4-8 x8"),
        ("4-6 x8", "menos 2 rondas", "4-6 x6"),
        ("4-6 x8", "espira 8 invece di 6", "4-8 x8"),
        ("4-6 x8", "медленнее", "4-6 x8 @ 1.1s"),
    ],
)
def test_a_set_is_changed_as_it_is_said(block, said, becomes):
    new = changed(read_block(block), said)
    assert new is not None and block_notation(new) == block_notation(read_block(becomes))


@pytest.mark.parametrize("said", ["", "4-8", "hello", "box", "make it nicer", "rest 30s", "no hold"])
def test_other_lines_change_nothing(said):
    assert changed(read_block("4-6 x8"), said) is None


@given(st.lists(st.sampled_from([*known_words(), "2", "6", "x", ","]), max_size=6).map(" ".join))
def test_any_words_change_the_block_or_say_why_not(said):
    for block in ("4-2-8 x6", "rest 30s", "rapid 30"):
        try:
            new = changed(read_block(block), said)
        except ValueError:
            continue
        assert new is None or new.kind == read_block(block).kind


def test_calls_are_added_to_a_chosen_set_in_words():
    block = read_block('4-6 x20 announce round 2 phrases "I let go" "I am here"')
    after = changed(block, "announce every five rounds and the last one")
    assert block_notation(after) == '4-6 x20 say last announce round 5 phrases "I let go" "I am here"'
    assert block_notation(changed(read_block("4-6 x8"), "Hälfte ansagen")) == "4-6 x8 announce half"
    assert changed(read_block("4-6 x8"), "announce") is None
