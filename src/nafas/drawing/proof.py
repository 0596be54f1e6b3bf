"""The picture of a proof, painted: errors with the half-sample band, what was not found, and the loudness."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from nafas.drawing.theme import Theme, font
from nafas.review.proof.picture import Mark, Picture

MARGIN = 8  # px to the left and to the right of the picture


def paint(painter: QPainter, drawn: Picture, t: Theme, at: Mark | None = None) -> None:
    """Paint a picture of a proof in the colours of a theme, with one of its marks pointed at."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(MARGIN, 0)
    low, high = drawn.band
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t.inhale)
    painter.drawRect(QRectF(0, low, drawn.width, high - low))
    wash = QColor(t.warning)
    wash.setAlpha(46)
    painter.setBrush(wash)
    for begin, end in drawn.spans:
        painter.drawRect(QRectF(begin, 18, max(2.0, end - begin), drawn.height - 40))
    painter.setPen(QPen(t.rule, 1))
    painter.drawLine(QPointF(0, (low + high) / 2), QPointF(drawn.width, (low + high) / 2))
    painter.setPen(QPen(t.accent, 1, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(0, drawn.target), QPointF(drawn.width, drawn.target))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(t.muted, 1.2))
    painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in drawn.loudness]))
    for mark in drawn.marks:
        _mark(painter, mark, 1.8 if mark is at else 1.0, t)
    painter.setFont(font(9))
    painter.setPen(t.muted)
    for x, y, text in drawn.words:
        wide = painter.fontMetrics().horizontalAdvance(text)
        painter.drawText(QPointF(min(x, drawn.width - wide), y), text)
    painter.translate(-MARGIN, 0)


def _mark(painter: QPainter, mark: Mark, size: float, t: Theme) -> None:
    colour = t.warning if mark.fault else t.accent
    where = QPointF(mark.x, mark.y)
    if mark.match.error is None:
        painter.setPen(QPen(colour, 1.8))
        for dy in (4 * size, -4 * size):
            painter.drawLine(where + QPointF(-4 * size, -dy), where + QPointF(4 * size, dy))
    elif mark.match.is_voice:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawEllipse(where, 2.4 * size, 2.4 * size)
    else:
        painter.setPen(QPen(colour, 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        corners = ((0, -4), (4, 0), (0, 4), (-4, 0))
        painter.drawPolygon(QPolygonF([where + QPointF(x * size, y * size) for x, y in corners]))
