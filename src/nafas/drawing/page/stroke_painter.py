"""Strokes as a comb: a tooth each, a tall one with its number where it is counted aloud."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from nafas.drawing.page.lettering import RIGHT_MIDDLE, width_of
from nafas.drawing.page.surface import Page
from nafas.score.breath_line import span
from nafas.score.row import LEFT, MARGIN, Row
from nafas.score.spoken_lines import figures_of
from nafas.script import PhaseKind, Strokes
from nafas.script.model.exact import decimal_text
from nafas.timing import EventKind
from nafas.timing.clock import clock

_NARROW = 43.0  # px a stroke, under which its number is written as a figure


def paint_comb(page: Page, painter: QPainter, row: Row) -> None:
    """Paint one row of strokes."""
    block = row.block.block
    assert isinstance(block, Strokes)
    strokes = [event for event in row.events if event.kind is EventKind.STROKE]
    counted = {event.count: event.text for event in row.events if event.kind is EventKind.COUNT}
    cues = [event for event in row.events if event.kind is EventKind.CUE]
    painter.setFont(page.strong)
    painter.setPen(page.theme.ink)
    label = "slowly" if row.round == 1 else f"{strokes[0].count}–{strokes[-1].count}"
    painter.drawText(QRectF(MARGIN - 8, row.y + 4, LEFT - MARGIN - 4, 18), RIGHT_MIDDLE, label)
    painter.setFont(page.small)
    painter.setPen(page.theme.muted)
    painter.drawText(QRectF(MARGIN, row.y + 21, LEFT - MARGIN - 12, 16), RIGHT_MIDDLE, clock(row.start))
    base, figures = row.y + 34.0, figures_of(row.block.language)
    begin = page.layout.x_of(row, row.begin)
    end = page.layout.x_of(row, row.begin + row.seconds)
    painter.setPen(QPen(page.theme.ink, 1.2))
    painter.drawLine(QPointF(begin, base), QPointF(end, base))
    written_to = 0.0
    for event in strokes:
        x0, x1 = span(page.layout, row, event)
        word = counted.get(event.count, "")
        tall = bool(word) or row.round == 1
        painter.setPen(QPen(page.theme.ink, 2.2 if tall else 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        top = base - (24 if tall else 17)
        painter.drawLine(QPointF(x0 + 1, base), QPointF(x0 + 1, top))
        if block.form == "bellows":  # the way back: as active, drawn below the line
            middle = (x0 + x1) / 2
            painter.drawLine(QPointF(middle, base), QPointF(middle, base + 8))
        word = figures.get(word, word) if x1 - x0 < _NARROW else word
        if word and x0 >= written_to:
            painter.setFont(page.strong)
            painter.setPen(page.theme.ink)
            painter.drawText(QPointF(x0, base + 19), word)
            written_to = x0 + width_of(word, True) + 3
    painter.setPen(page.theme.ink)
    metrics = QFontMetricsF(page.small)
    painter.setFont(page.small)
    for event in cues:  # in next to the tooth, out below the line
        x = span(page.layout, row, event)[0]
        inward = event.phase_kind is PhaseKind.INHALE
        room = (end - begin) / len(strokes) - 10
        text = metrics.elidedText(event.text, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(x + 6, base - 9) if inward else QPointF(x, base + 19), text)
    painter.setFont(page.small)
    painter.setPen(page.theme.muted)
    rate = block.demonstration_per_minute if row.round == 1 else block.per_minute
    painter.drawText(QPointF(end + 9, row.y + 21), f"{decimal_text(rate)}/min")
