"""Blocks typed in one line."""

import pytest

from nafas.script import NotationError, Rest, read_block


@pytest.mark.parametrize(
    ("typed", "column", "expects"),
    [
        ("rapid 40 @ 300/min", 11, "4 to 240"),
        ("rapid 0", 6, "1 to 600"),
        ("rapid 40 @ 60/hour", 14, "60/min"),
        ("bellows 40 loudly", 11, "every 10"),
        ("rest 0", 5, "1 to 3600"),
        ("rest 30s x2", 9, "end the line"),
    ],
)
def test_errors_point_at_the_character(typed, column, expects):
    with pytest.raises(NotationError) as caught:
        read_block(typed)
    assert (caught.value.column, expects in caught.value.remedy) == (column, True), str(caught.value)


def test_strokes_last_what_the_trade_says():
    """40 strokes at 50 a minute are 48 s; 10 at a learner's 10 a minute are a minute (common practice, no source)."""
    assert read_block("bellows 40 @ 50/min").stroke_seconds == 48
    assert read_block("rapid 10 @ 10/min").stroke_seconds == 60
    assert read_block("rapid 10 @ 120/min demo 2 @ 10/min rest 30s").seconds == 18 + 5 + 30


def test_natural_breath_can_be_typed():
    assert read_block("rest 30s", "r") == Rest(id="r", seconds=30)
