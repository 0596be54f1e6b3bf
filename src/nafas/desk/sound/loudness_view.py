"""The session's loudness from end to end, as measured: momentary, short-term, target, and the bed's planned level."""

import math
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from nafas.desk.sound.measuring import Findings
from nafas.desk.widgets.labels import set_tip
from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.drawing.theme import font, theme
from nafas.script.edits.session_edits import block_name
from nafas.sound.bed.ducking import SILENT
from nafas.sound.meters.loudness import sliding
from nafas.timing.clock import clock

_LEFT, _RIGHT, _TOP, _FOOT = 42, 12, 12, 22
_LOW, _HIGH = -60.0, -5.0
_SHORTEST = 5.0  # seconds that are shown at least
_BED = 56  # pixels of the lane in which the bed's level is drawn


class LoudnessView(QWidget):
    """The whole session, or a stretch of it: the wheel shows less and more of it, a double click all of it;
    so do +, - and 0.

    Signals: seek: seconds.
    """

    seek = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(170)
        self.setAccessibleName("Loudness over the session")
        set_tip(self, "Wheel or + and -: a shorter stretch or a longer one; double click or 0: the whole session")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._findings: Findings | None = None
        self._curves: tuple[np.ndarray, np.ndarray] = (np.zeros(0), np.zeros(0))
        self._playhead = 0.0
        self._span: tuple[float, float] | None = None

    @property
    def span(self) -> tuple[float, float]:
        """From and to, in seconds, of what is shown."""
        return self._span or (0.0, max(self.seconds, 1e-9))

    def show_span(self, span: tuple[float, float] | None) -> None:
        """Show a stretch, in seconds; None: all of it."""
        if span is not None:
            begin, end = max(0.0, span[0]), min(self.seconds, span[1])
            span = None if end - begin >= self.seconds or end - begin < _SHORTEST else (begin, end)
        self._span = span
        self.update()

    def show_findings(self, findings: Findings | None) -> None:
        """Draw what was measured."""
        self._findings = findings
        if findings is not None:
            fine = findings.measured.fine
            self._curves = (sliding(fine, 0.4), sliding(fine, 3.0))
            self.show_span(self._span)  # the session may have become shorter
        self.update()

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds in it: how loud each block is over three seconds, and its bed."""
        if self._findings is None:
            return []
        mix, short = self._findings.mix, self._curves[1]
        parts = []
        for block in mix.cast.timeline.blocks:
            begin, end = float(block.start), float(block.end)
            levels = short[max(0, round((begin - 3.0) * 50)) : max(0, round((end - 3.0) * 50))]
            levels = levels[levels > _LOW]
            words = [clock(block.start), block_name(block.block)]
            if len(levels):
                words.append(f"loudest {levels.max():.1f} LUFS, softest {levels.min():.1f}".replace("-", "minus "))
            else:
                words.append("nearly silent")
            if mix.bed is not None:
                bed = float(mix.bed.level_at(np.array([round((begin + end) / 2 * mix.rate)]))[0])
                words.append(f"bed at {bed:.0f} dB".replace("-", "minus ") if bed > SILENT else "no bed")
            parts.append(SpokenPart(", ".join(words), choose=partial(self.seek.emit, begin)))
        return parts

    def set_playhead(self, seconds: float) -> None:
        self._playhead = seconds
        self.update()

    @property
    def seconds(self) -> float:
        return self._findings.mix.length / self._findings.mix.rate if self._findings else 0.0

    def _x(self, seconds: float) -> float:
        begin, end = self.span
        return _LEFT + (seconds - begin) / (end - begin) * (self.width() - _LEFT - _RIGHT)

    def _seconds_at(self, x: float) -> float:
        begin, end = self.span
        share = (x - _LEFT) / (self.width() - _LEFT - _RIGHT)
        return begin + min(max(0.0, share), 1.0) * (end - begin)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._findings is not None:
            self.seek.emit(self._seconds_at(event.position().x()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.show_span(None)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(self._seconds_at(event.position().x()), 0.8 ** (event.angleDelta().y() / 120))
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        scale = {Qt.Key.Key_Plus: 0.64, Qt.Key.Key_Equal: 0.64, Qt.Key.Key_Minus: 1 / 0.64}.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_0:
            self.show_span(None)
        elif scale is not None:
            self._zoom(min(max(self._playhead, self.span[0]), self.span[1]), scale)
        else:
            super().keyPressEvent(event)

    def _zoom(self, around: float, scale: float) -> None:
        begin, end = self.span
        if self._findings is not None and (end - begin) * scale >= _SHORTEST:
            self.show_span((around - (around - begin) * scale, around + (end - around) * scale))

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
        if page.left() <= x <= page.right():
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
        step = next((s for s in (1, 2, 5, 10, 30, 60, 120, 300, 600, 1800) if self._x(s) - self._x(0) >= 56), 3600)
        painter.setPen(t.muted)
        begin, end = self.span
        for n in range(math.ceil(begin / step), int(end / step) + 1):
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
        begin, end = (round((second - window) * 50) for second in self.span)
        first, last = max(0, begin), min(len(levels), max(end, 0))
        if first >= last:
            return
        levels = levels[first:last]
        columns = max(1, min(int(page.width()), len(levels)))
        edges = np.linspace(0, len(levels), columns + 1).astype(int)[:-1]
        highest = np.maximum.reduceat(np.maximum(levels, _LOW), edges)
        path = QPainterPath()
        for index, level in zip(edges, highest):
            point = QPointF(self._x((first + index) * 0.02 + window), self._y(page, float(level)))
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
            begin, end = max(begin, lane.left()), min(end, lane.right())
            if begin <= end:
                painter.fillRect(QRectF(begin, lane.bottom() - 7, max(1.0, end - begin), 5), t.ink)
        painter.setPen(t.muted)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
        painter.drawText(QRectF(0, lane.top(), _LEFT - 6, 18), side, "bed")
        painter.drawText(QRectF(0, lane.bottom() - 16, _LEFT - 6, 18), side, "voice")
        if mix.bed is None:
            painter.drawText(lane.adjusted(6, 4, 0, 0), Qt.AlignmentFlag.AlignLeft, "no bed")
            return
        begin, end = self.span
        places = np.linspace(begin * mix.rate, end * mix.rate, int(lane.width())).astype(np.int64)
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
