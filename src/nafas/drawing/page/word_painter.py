"""What is said in a round: a word on every count, calls inside a hold, chimes and ticks."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen

from nafas.drawing.page.lettering import width_of
from nafas.drawing.page.surface import Page
from nafas.score.breath_line import BOTTOM, TOP, Piece, pieces, span
from nafas.score.row import Row
from nafas.score.spoken_lines import COUNT_LINE, CUE_LINE, LINE, figure, is_count, opening_lines
from nafas.script import Level
from nafas.timing import Event, EventKind


def paint_said(page: Page, painter: QPainter, row: Row) -> None:
    """Paint the counts of a row, what is said on them, calls and chimes."""
    baseline = row.y + BOTTOM + 4
    words: list[tuple[float, Event]] = []
    calls: list[tuple[float, Event]] = []
    for event in row.events:
        x = span(page.layout, row, event)[0]
        if event.kind is EventKind.CHIME:
            _chime(page, painter, x, row.y + 7)
        elif event.kind is EventKind.COUNT:
            long = event.count == 1
            painter.setPen(QPen(page.theme.ink if long else page.theme.muted, 1.4 if long else 1))
            painter.drawLine(QPointF(x, baseline - (7 if long else 4)), QPointF(x, baseline + 1))
            words.append((x, event))
        elif event.kind is EventKind.TICK:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(page.theme.muted)
            painter.drawEllipse(QPointF(x, _count_line(row) - 4), 2.2, 2.2)
        elif event.kind is EventKind.CALL and event.phase_kind is not None and event.phase_kind.is_hold:
            calls.append((x, event))
        elif event.kind in (EventKind.CUE, EventKind.CALL):
            words.append((x, event))
    _words(page, painter, row, words)
    _calls(page, painter, row, calls)


def _calls(page: Page, painter: QPainter, row: Row, calls: list[tuple[float, Event]]) -> None:
    """Calls inside their hold, each next to a mark at its time, on whichever of two lines has room for it."""
    if not calls:
        return
    holds = {piece.event.phase: piece for piece in pieces(page.layout, row)}
    metrics = QFontMetricsF(page.slanted)
    painter.setFont(page.slanted)
    taken: list[tuple[float, float, float]] = []
    for x, event in calls:
        hold = holds[event.phase]
        # Whole next to its mark, before it or after it; where it has no room, as much as there is room for.
        cut = metrics.elidedText(event.text, Qt.TextElideMode.ElideRight, max(0.0, hold.x1 - x - 3))
        for text, side in ((event.text, 1), (event.text, -1), (cut, 1)):
            width = metrics.horizontalAdvance(text)
            left = x + 3 if side > 0 else x - 3 - width
            free = [
                y
                for y in _call_lines(row, hold)
                if all(y != other or left > end or left + width < begin for other, begin, end in taken)
            ]
            if free and hold.x0 + 2 <= left and left + width <= hold.x1:
                y = free[0]
                taken.append((y, left - 4, left + width + 4))
                painter.setPen(QPen(page.theme.accent, 1))
                painter.drawLine(QPointF(x, y - 7), QPointF(x, y + 3))
                painter.drawText(QPointF(left, y), text)
                break


def _words(page: Page, painter: QPainter, row: Row, words: list[tuple[float, Event]]) -> None:
    above = [(x, event) for x, event in words if not is_count(event, row.block.language)]
    below = [(x, event) for x, event in words if is_count(event, row.block.language)]
    _counts(page, painter, row, below)
    lines = opening_lines([(x, event.text) for x, event in above], lambda words: width_of(words, True))
    for number, ((x, event), line) in enumerate(zip(above, lines)):
        after = [at for (at, _), other in zip(above[number + 1 :], lines[number + 1 :]) if other == line]
        call = event.kind is EventKind.CALL
        used = page.slanted if call else page.strong
        painter.setFont(used)
        painter.setPen(page.theme.accent if call else page.theme.ink)
        room = min(after, default=page.layout.width) - x - 3
        shown = QFontMetricsF(used).elidedText(event.text, Qt.TextElideMode.ElideRight, max(room, 7.0))
        painter.drawText(QPointF(x - 1, row.y + CUE_LINE + LINE * min(line, row.opening_lines - 1)), shown)


def _count_line(row: Row) -> int:
    return row.y + COUNT_LINE + LINE * (row.opening_lines - 1)


def _counts(page: Page, painter: QPainter, row: Row, counts: list[tuple[float, Event]]) -> None:
    """A word on every count where all of a row have room; figures where they have not; never one on another."""
    column = page.layout.scale * float(row.one.count_length if row.one is not None else 1)
    silent = row.one is None or row.one.level is Level.FULL
    ticks = {event.tick for event in row.events if event.kind is EventKind.TICK}
    texts = [event.text for _, event in counts]
    widest = max((width_of(text, False) for text in texts if text), default=0.0)
    if widest > column - 4:
        texts = [figure(text, row.block.language) or text for text in texts]
        widest = max((width_of(text, False) for text in texts if text), default=0.0)
    painter.setFont(page.word)
    # Where even figures are too wide, every second or third is written, back from the last of each phase.
    step = 1 if widest <= column - 1 else int(widest // max(column, 1.0)) + 1
    last = {event.phase: event.count for _, event in counts if event.text}
    for (x, event), text in zip(counts, texts):
        if text and (last[event.phase] - event.count) % step:
            continue
        if not text and (not silent or event.tick in ticks):
            continue
        painter.setPen(page.theme.ink if text else page.theme.muted)
        painter.drawText(QPointF(x - 1, _count_line(row)), text or "\N{MIDDLE DOT}")


def _chime(page: Page, painter: QPainter, x: float, y: float) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(page.theme.accent)
    mark = QPainterPath(QPointF(x, y - 4))
    for dx, dy in ((3.5, 0), (0, 4), (-3.5, 0)):
        mark.lineTo(x + dx, y + dy)
    painter.drawPath(mark)


# -- strokes


def _call_lines(row: Row, hold: Piece) -> tuple[float, float]:
    """Two baselines for calls, clear of the hold's own line."""
    depth = hold.y0 - row.y
    if depth <= TOP + 2:  # full: both below it
        return row.y + TOP + 15, row.y + TOP + 28
    if depth >= BOTTOM - 2:  # empty: both above it
        return row.y + BOTTOM - 20, row.y + BOTTOM - 7
    return hold.y0 + 13, hold.y0 - 6
