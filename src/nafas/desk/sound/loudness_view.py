"""The session's loudness from end to end, as measured: momentary, short-term, target, and the bed's planned level."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from nafas.desk.sound.measuring import Findings
from nafas.desk.theme import font, theme
from nafas.sound.ducking import SILENT
from nafas.sound.loudness import sliding
from nafas.timing.clock import clock

_LEFT, _RIGHT, _TOP, _FOOT = 42, 12, 12, 22
_LOW, _HIGH = -60.0, -5.0
_BED = 56  # pixels of the lane in which the bed's level is drawn


class LoudnessView(QWidget):
    """Signals: seek: seconds."""

    seek = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(170)
        self.setAccessibleName("Loudness over the session")
        self._findings: Findings | None = None
        self._curves: tuple[np.ndarray, np.ndarray] = (np.zeros(0), np.zeros(0))
        self._playhead = 0.0

    def show_findings(self, findings: Findings | None) -> None:
        """Draw what was measured."""
        self._findings = findings
        if findings is not None:
            fine = findings.measured.fine
            self._curves = (sliding(fine, 0.4), sliding(fine, 3.0))
        self.update()

    def set_playhead(self, seconds: float) -> None:
        self._playhead = seconds
        self.update()

    @property
    def seconds(self) -> float:
        return self._findings.mix.length / self._findings.mix.rate if self._findings else 0.0

    def _x(self, seconds: float) -> float:
        return _LEFT + seconds / max(self.seconds, 1e-9) * (self.width() - _LEFT - _RIGHT)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._findings is not None:
            share = (event.position().x() - _LEFT) / (self.width() - _LEFT - _RIGHT)
            self.seek.emit(min(max(0.0, share), 1.0) * self.seconds)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        page = QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _FOOT - _BED - 8)
        lane = QRectF(page.left(), page.bottom() + 8, page.width(), _BED)
        for box in (page, lane):
            painter.fillRect(box, t.page)
        painter.setFont(font(9))
        if self._findings is None:
            painter.setPen(t.muted)
            painter.drawText(page, Qt.AlignmentFlag.AlignCenter, "Being measured…")
            return
        self._grid(painter, page, lane)
        momentary, short = self._curves
        faint = QColor(t.muted)
        faint.setAlpha(150)
        self._curve(painter, page, momentary, 0.4, QPen(faint, 1))
        self._curve(painter, page, short, 3.0, QPen(t.ink, 1.8))
        self._legend(painter, page, faint)
        self._bed(painter, lane)
        x = self._x(self._playhead)
        painter.fillRect(QRectF(x - 0.75, page.top(), 1.5, lane.bottom() - page.top()), t.accent)

    def _y(self, page: QRectF, level: float) -> float:
        level = min(max(level, _LOW), _HIGH)
        return page.bottom() - (level - _LOW) / (_HIGH - _LOW) * page.height()

    def _grid(self, painter: QPainter, page: QRectF, lane: QRectF) -> None:
        assert self._findings is not None
        t = theme()
        for level in range(-60, 0, 10):
            y = self._y(page, level)
            painter.setPen(QPen(t.rule, 0.7))
            painter.drawLine(QPointF(page.left(), y), QPointF(page.right(), y))
            painter.setPen(t.muted)
            side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 9, _LEFT - 6, 18), side, f"{level}".replace("-", "\N{MINUS SIGN}"))
        target = self._findings.mix.cast.timeline.session.master.loudness
        y = self._y(page, target)
        painter.setPen(QPen(t.accent, 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(page.left(), y), QPointF(page.right(), y))
        step = next((s for s in (10, 30, 60, 120, 300, 600, 1800) if self._x(s) - self._x(0) >= 56), 3600)
        painter.setPen(t.muted)
        for n in range(int(self.seconds / step) + 1):
            x = self._x(n * step)
            box = QRectF(x - 28, lane.bottom() + 2, 56, _FOOT - 4)
            if box.right() <= self.width():
                painter.drawText(box, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter, clock(n * step))

    def _legend(self, painter: QPainter, page: QRectF, faint: QColor) -> None:
        """What each line is, at the foot of the page, where no programme is that soft."""
        t = theme()
        at = page.right() - 312
        for text, pen, width in (
            ("target", QPen(t.accent, 1.4, Qt.PenStyle.DashLine), 82),
            ("short-term, 3 s", QPen(t.ink, 1.8), 128),
            ("momentary", QPen(faint, 1), 90),
        ):
            painter.setPen(pen)
            painter.drawLine(QPointF(at, page.bottom() - 12), QPointF(at + 22, page.bottom() - 12))
            painter.setPen(t.muted)
            painter.drawText(QPointF(at + 27, page.bottom() - 8), text)
            at += width

    def _curve(self, painter: QPainter, page: QRectF, levels: np.ndarray, window: float, pen: QPen) -> None:
        """The highest level of each pixel, at the end of its window, as a meter would show it."""
        if not len(levels):
            return
        columns = max(1, min(int(page.width()), len(levels)))
        edges = np.linspace(0, len(levels), columns + 1).astype(int)[:-1]
        highest = np.maximum.reduceat(np.maximum(levels, _LOW), edges)
        path = QPainterPath()
        for place, level in zip(edges, highest):
            point = QPointF(self._x(place * 0.02 + window), self._y(page, float(level)))
            if path.elementCount():
                path.lineTo(point)
            else:
                path.moveTo(point)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen)
        painter.drawPath(path)

    def _bed(self, painter: QPainter, lane: QRectF) -> None:
        """The bed's planned level under the voice, and where the voice speaks."""
        assert self._findings is not None
        t, mix = theme(), self._findings.mix
        for placement in mix.cast.placements:
            begin, end = self._x(placement.start / mix.rate), self._x(placement.said / mix.rate)
            painter.fillRect(QRectF(begin, lane.bottom() - 7, max(1.0, end - begin), 5), t.ink)
        painter.setPen(t.muted)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
        painter.drawText(QRectF(0, lane.top(), _LEFT - 6, 18), side, "bed")
        painter.drawText(QRectF(0, lane.bottom() - 16, _LEFT - 6, 18), side, "voice")
        if mix.bed is None:
            painter.drawText(lane.adjusted(6, 4, 0, 0), Qt.AlignmentFlag.AlignLeft, "no bed")
            return
        places = np.linspace(0, mix.length, int(lane.width())).astype(np.int64)
        levels = mix.bed.level_at(places)
        heard = levels[levels > SILENT]
        levels = np.maximum(levels, float(heard.min(initial=0.0)) - 3)
        low, high = float(levels.min()) - 3, float(levels.max()) + 2
        path = QPainterPath()
        for n, level in enumerate(levels):
            y = lane.top() + 4 + (high - float(level)) / (high - low) * (lane.height() - 18)
            point = QPointF(lane.left() + n, y)
            if n:
                path.lineTo(point)
            else:
                path.moveTo(point)
        painter.setPen(QPen(t.accent, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
