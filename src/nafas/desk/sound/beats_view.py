"""Counts and beats over the session: how far each count is from the nearest beat of the bed."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from nafas.drawing.theme import font, theme
from nafas.sound.beat.beat_grid import TOGETHER, CountsAgainstBeats

_LEFT, _RIGHT = 52, 12
_LEAST = 0.06  # seconds that are shown on either side, at least


class BeatsView(QWidget):
    """A mark a count, over the time of the session; those within the band are heard with the beat."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(64)
        self.setAccessibleName("Counts and beats")
        self._found: CountsAgainstBeats | None = None
        self._seconds = 1.0

    def show_counts(self, counts: CountsAgainstBeats | None, seconds: float) -> None:
        """Draw counts of a session that lasts so many seconds."""
        self._found, self._seconds = counts, max(seconds, 1e-9)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        page = QRectF(_LEFT, 0, self.width() - _LEFT - _RIGHT, self.height() - 2)
        painter.fillRect(page, t.page)
        if self._found is None:
            return
        most = max(_LEAST, self._found.worst * 1.1)

        def y(seconds: float) -> float:
            return page.center().y() - seconds / most * (page.height() / 2 - 6)

        band = QColor(t.accent)
        band.setAlpha(40)
        painter.fillRect(QRectF(page.left(), y(TOGETHER), page.width(), y(-TOGETHER) - y(TOGETHER)), band)
        painter.setPen(QPen(t.rule, 1))
        painter.drawLine(QPointF(page.left(), y(0)), QPointF(page.right(), y(0)))
        painter.setFont(font(8.5))
        painter.setPen(t.muted)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for value, words in ((most * 0.8, "late"), (0.0, "beat"), (-most * 0.8, "early")):
            painter.drawText(QRectF(0, y(value) - 9, _LEFT - 6, 18), side, words)
        apart = np.abs(self._found.off) > TOGETHER
        for at, off, far in zip(self._found.at, self._found.off, apart):
            x = page.left() + float(at) / self._seconds * page.width()
            painter.fillRect(QRectF(x - 1, y(float(off)) - 2, 2, 4), t.warning if far else t.ink)
