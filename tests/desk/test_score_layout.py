"""The page: rounds on one scale, nothing overlapping, at none, one and very many."""

import pytest
from helpers import breath
from hypothesis import given
from strategies import sessions

from nafas.score.layout import LEFT, RIGHT, lay_out
from nafas.script import Session
from nafas.timing import EventKind, compile_session, paced


def words_per_line(text, width):
    return [text[i : i + 60] for i in range(0, len(text), 60)] or [""]


def page(session, width=740):
    return lay_out(compile_session(session, paced()), None, width, words_per_line)


@given(sessions())
def test_rows_never_overlap_and_every_place_finds_its_row(session):
    timeline = compile_session(session, paced())
    layout = lay_out(timeline, None, 740, words_per_line)
    for before, after in zip(layout.rows, layout.rows[1:]):
        assert before.y + before.height <= after.y
    for row in layout.rows:
        assert layout.row_at(row.y) is row and layout.row_at(row.y + row.height - 1) is row
        assert row in layout.rows_between(row.y + 3, row.y + 4)
        assert layout.time_at(row, layout.x_of(row, row.begin + 1)) == pytest.approx(1)
    rounds = sum(len(block.rounds) for block in timeline.blocks)
    strokes = sum(getattr(block, "strokes", 0) + getattr(block, "demonstration", 0) for block in session.blocks)
    kinds = [event.kind for row in layout.rows if row.kind == "strokes" for event in row.events]
    assert sum(row.kind == "round" for row in layout.rows) == rounds and kinds.count(EventKind.STROKE) == strokes
    assert layout._begins == sorted(layout._begins)  # a playhead finds its row by bisection


def test_rounds_that_should_match_line_up_and_longer_ones_stick_out():
    session = Session(blocks=(breath("4-4", 2), breath("5-5", 1, id="b")))
    layout = page(session)
    first, second, longer = (row for row in layout.rows if row.kind == "round")
    ends = [layout.x_of(row, float(row.start) + row.seconds) for row in (first, second, longer)]
    assert ends[0] == ends[1] < ends[2] <= 740 - RIGHT
    assert layout.x_of(first, float(first.start)) == layout.x_of(longer, float(longer.start)) == LEFT


def test_a_thousand_rounds_show_only_what_is_in_sight():
    session = Session(blocks=(breath("4-4", 500), breath("4-4", 500, id="b")))
    layout = page(session)
    assert len(layout.rows) == 1004 and len(layout.rows_between(30_000, 30_500)) < 10
    assert page(Session()).rows == [] and page(Session()).row_at(5) is None
