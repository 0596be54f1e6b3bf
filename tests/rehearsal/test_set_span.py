"""The set that is gone over again and again is the one in which one stands, at its very start too."""

from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from nafas.rehearsal.guide import set_span
from nafas.script import Session, read_block
from nafas.timing import compile_session, paced


@given(st.lists(st.fractions(Fraction(1, 2), Fraction(3, 2), max_denominator=2205), min_size=2, max_size=6))
def test_a_start_that_was_rounded_is_in_its_own_set(counts):
    blocks = tuple(read_block("3-4 x1", f"s{n}").model_copy(update={"count_length": c}) for n, c in enumerate(counts))
    timeline = compile_session(Session(opening=2, blocks=blocks), paced())
    for timed in timeline.blocks:
        assert set_span(timeline, float(timed.start)) == (float(timed.start), float(timed.end))
    assert set_span(timeline, 0.0)[0] == 2.0
