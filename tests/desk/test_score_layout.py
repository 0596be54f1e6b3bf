"""The page: rounds on one scale, nothing overlapping, at none, one and very many."""

import itertools
from types import SimpleNamespace

import pytest
from helpers import breath
from hypothesis import given
from PySide6.QtGui import QFontMetricsF
from strategies import sessions

from nafas.drawing.page.lettering import opening_width
from nafas.drawing.page.word_painter import paint_said
from nafas.drawing.theme import font, theme
from nafas.score.layout import lay_out
from nafas.score.row import LEFT, RIGHT
from nafas.score.spoken_lines import figure, is_count
from nafas.script import Session, read_block
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


class Recorder:
    """VariantState in for a painter: keeps what is written, and where."""

    def __init__(self):
        self.texts, self.font = [], None

    def setFont(self, font):
        self.font = font

    def drawText(self, place, text):
        width = QFontMetricsF(self.font).horizontalAdvance(text)
        self.texts.append((round(place.y()), place.x(), place.x() + width, text))

    def __getattr__(self, name):
        return lambda *given: None


@pytest.mark.parametrize("width", [420, 700, 1400])
@pytest.mark.parametrize(
    ("notation", "style", "language"),
    [
        ("4-4-4-4 x1 step 1 to 8", {}, "en"),
        ("4-7-8 x2", {"long_forms": True}, "en"),
        ("in L 4, hold 4, out R 8, hold 4 x2", {}, "en"),
        ("in 2+2+2 (belly, ribs, chest), out 8 x2", {}, "en"),
        ("4-6 x2", {"carrier": "sea"}, "en"),
        ("4-6 x2", {"cue": "ahead"}, "fr"),
        ("4-4-6 x2", {}, "de"),
        ("12-12-20 x1", {}, "en"),
    ],
)
def test_every_opening_and_every_count_is_written_and_none_upon_another(window, width, notation, style, language):
    block = read_block(notation)
    block = type(block).model_validate({**block.model_dump(), "style": {**block.style.model_dump(), **style}})
    timeline = compile_session(Session(blocks=(block,), language=language), paced())
    layout = lay_out(timeline, None, width, words_per_line, measure=opening_width)
    page = SimpleNamespace(
        layout=layout, theme=theme(), language=language, small=font(8.5), word=font(9.5), strong=font(9.5, bold=True),
        slanted=font(9.5, italic=True),
    )  # fmt: skip
    for row in layout.rows:
        if row.kind != "round":
            continue
        painter = Recorder()
        paint_said(page, painter, row)
        said = [event for event in row.events if event.kind in (EventKind.COUNT, EventKind.CUE) and event.text]
        counts = [event for event in said if is_count(event, language)]
        written = sorted(text for *_, text in painter.texts if text != "\N{MIDDLE DOT}")
        either = [{event.text, figure(event.text, language)} for event in counts]
        assert sum(any(text in ways for ways in either) for text in written) == len(counts)
        openings = sorted(event.text for event in said if not is_count(event, language))
        assert [text for text in written if text in openings] == openings  # whole: none is cut short
        for line in {y for y, *_ in painter.texts}:
            spans = sorted((x0, x1) for y, x0, x1, _ in painter.texts if y == line)
            assert all(end <= begin + 0.5 for (_, end), (begin, _) in itertools.pairwise(spans)), spans
            assert row.y < line < row.y + row.height
