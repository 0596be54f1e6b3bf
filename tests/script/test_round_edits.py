"""Edits made on the page: what is seen in a round is turned back into what is written."""

import pytest
from helpers import breath
from hypothesis import given
from hypothesis import strategies as st
from strategies import paced_sets

from nafas.errors import InputError
from nafas.script import Rest, Session, Talk, block_notation, expand, read_block
from nafas.script.edits.round_edits import (
    with_counts,
    with_ease_words,
    with_more_rounds,
    with_phase,
    with_sentence,
    with_word,
    word_target,
)
from nafas.script.edits.session_edits import find_text, move_blocks, remove_blocks


def session_of(*notations):
    return Session(blocks=tuple(read_block(text, f"s{n}") for n, text in enumerate(notations)))


def written(session, index=0):
    return block_notation(session.blocks[index])


@given(paced_sets(), st.data())
def test_a_phase_becomes_as_long_as_it_was_dragged_to(block, data):
    session = Session(blocks=(block,))
    rounds = expand(block, session.count_length_of(block))
    one = data.draw(st.sampled_from(rounds))
    place = data.draw(st.integers(0, len(one.phases) - 1))
    counts = data.draw(st.integers(max(1, one.phases[place].counts - 2), one.phases[place].counts + 3))
    try:
        changed = with_counts(session, 0, one.number, one.numbers[place], counts)
    except (ValueError, InputError):
        return  # out of bounds, or it follows from a ladder
    new = expand(changed.blocks[0], changed.count_length_of(changed.blocks[0]))
    if one.number <= len(new):
        after = dict(zip(new[one.number - 1].numbers, new[one.number - 1].phases))[one.numbers[place]]
        if new[one.number - 1].step == one.step:  # with other steps, this round may be another's
            assert after.size == counts


def test_counts_are_changed_in_the_step_they_are_seen_in():
    session = session_of("4-4-4-4 x2 step 1 to 8", "4-6 x1; 5-8 x2", "3-3 x1 ladder 1 2", "in 4, hold 30s, out 4")
    assert written(with_counts(session, 0, 3, 1, 7)) == "6-4-4-4 x2 step 1 to 8"
    assert written(with_counts(session, 1, 2, 2, 9), 1) == "4-6 x1; 5-9 x2"
    assert written(with_counts(session, 2, 2, 1, 4), 2) == "4-3 x1 ladder 1 2"
    assert written(with_counts(session, 3, 1, 2, 45), 3) == "in 4, hold 45s, out 4 x1"
    with pytest.raises(InputError, match="ladder's ratios"):
        with_counts(session, 2, 2, 2, 9)
    with pytest.raises(ValueError, match="0 to 60"):
        with_counts(session, 0, 1, 1, 999)


def test_rounds_are_added_at_the_foot():
    session = session_of("4-6 x3", "4-6 x1; 5-8 x2", "rapid 10")
    assert (
        written(with_more_rounds(session, 0, 2)) == "4-6 x5" and written(with_more_rounds(session, 0, -9)) == "4-6 x1"
    )
    assert written(with_more_rounds(session, 1, 1), 1) == "4-6 x1; 5-8 x3"
    assert with_more_rounds(session, 2, 10).blocks[2].strokes == 20


def test_sentences_are_retyped_and_taken_out():
    session = Session(blocks=(Talk(id="t", paragraphs=("One. Two.", "Three.")),))
    paragraphs = lambda n, text: with_sentence(session, 0, n, text).blocks[0].paragraphs  # noqa: E731
    assert paragraphs(2, " Second  one. ") == ("One. Second one.", "Three.")
    assert paragraphs(3, "") == ("One. Two.",) and paragraphs(1, "") == ("Two.", "Three.")
    eased = breath("4-4", 2, ease=10, ease_words="Relax. Breathe.", pacing={"kind": "step-up", "limit": 6})
    assert with_ease_words(Session(blocks=(eased,)), 0, 4, "Rest.").blocks[0].ease_words == "Relax. Rest."


def test_a_word_of_a_round_is_its_cue_its_part_or_its_call():
    session = session_of("in 2+2 (belly, chest), out 4", "in 2, hold 20s calls 5 half release, out 4", "2-2")
    first, held, plain = (expand(block, 1)[0] for block in session.blocks)
    retyped = lambda index, target, text: written(with_word(session, index, 1, target, text), index)  # noqa: E731
    assert retyped(0, word_target(first, 1, 3, None), "ribs") == "in 2+2 (belly, ribs), out 4 x1"
    assert retyped(0, word_target(first, 1, 1, None), "low") == "in 2+2 (low, chest), out 4 x1"
    assert 'half "half way"' in retyped(1, word_target(held, 2, 11, 0), "half way")  # half comes before five
    assert 'release "let go"' in retyped(1, word_target(held, 3, 1, None), "let go")
    assert retyped(2, word_target(plain, 2, 1, None), "let go") == 'in 2, out 2 "let go" x1'
    assert word_target(plain, 1, 2, None) is None and word_target(held, 2, 20, 2) is None
    with pytest.raises(ValueError, match="quotes"):
        with_word(session, 2, 1, word_target(plain, 2, 1, None), 'say "out"')
    assert written(with_phase(session, 2, 1, 1, side="L"), 2) == "in L 2, out 2 x1"


def test_blocks_move_together_and_loans_are_paid_back_when_a_lender_leaves():
    session = Session(blocks=(read_block("4-6 @ 1.5s", "a"), Rest(id="r", seconds=5), read_block("4-6 @ as a", "b")))
    assert [b.id for b in move_blocks(session, [0, 1], 3).blocks] == ["b", "a", "r"]
    assert move_blocks(session, [0, 1], 3).blocks[0].count_length == session.blocks[0].count_length
    left = remove_blocks(session, [0])
    assert (left.blocks[1].count_from, left.blocks[1].count_length) == (None, session.blocks[0].count_length)
    assert find_text(session, "AS A") == [2] and find_text(session, "natural") == [1] and find_text(session, " ") == []
