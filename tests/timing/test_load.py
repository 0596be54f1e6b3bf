"""What a set asks of the breath, worked out by hand from its notation."""

from fractions import Fraction

import pytest

from nafas.script import Session, read_block
from nafas.timing import compile_session, paced
from nafas.timing.load import load_of, whole_load


def loads(*notations):
    blocks = tuple(read_block(notation, f"b{n}") for n, notation in enumerate(notations))
    timeline = compile_session(Session(blocks=blocks), paced())
    return [load_of(block) for block in timeline.blocks], whole_load(timeline)


@pytest.mark.parametrize(
    ("notation", "words"),
    [
        ("4-6 x8", "6 breaths a minute, exhale 1.5 times the inhale, no holds"),
        ("4-4-4-4 x5 @ 1.25s", "3 breaths a minute, exhale as long as the inhale, 50 s held, at most 5 s at once"),
        ("4-7-8 x4", "3.2 breaths a minute, exhale 2 times the inhale, 28 s held, at most 7 s at once"),
        ("in L 4, out R 4, in R 4, out L 4 x3", "7.5 breaths a minute, exhale as long as the inhale, no holds"),
        ("2-4 x2 step 1 on out to 6", "7.5 to 10 breaths a minute, exhale 2 to 3 times the inhale, no holds"),
        (
            "in 4, hold 30s, out 8 x2",
            "1.4 breaths a minute, exhale 2 times the inhale, 60 s held, at most 30 s at once",
        ),
        ("rapid 40 @ 60/min", "60 strokes a minute, no holds"),
    ],
)
def test_what_a_set_asks_in_words(notation, words):
    (load,), _ = loads(notation)
    assert load.words == words


def test_sets_together_and_what_has_no_led_breath():
    each, whole = loads("4-6 x8", "rest 30s", "4-2-8 x6", "rapid 30 @ 100/min")
    assert each[1] is None and each[3].rate == (100, 100)
    assert whole.rate == (Fraction(60, 14), 6) and whole.ratio == (Fraction(3, 2), 2)
    assert (whole.held, whole.longest) == (12, 2)
    assert loads("rest 30s")[1] is None and loads("rapid 30 @ 60/min")[1] is None
