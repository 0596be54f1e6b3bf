"""A recording's outline and the loop that is made of it: its ends are dragged, crossfade and beats are seen."""

import math
from contextlib import suppress
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from nafas.desk.sound.study import Studied
from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.drawing.theme import font, theme
from nafas.script.model.beds import BeatGrid
from nafas.sound.bed.loop_points import LoopPoints
from nafas.timing.clock import clock

_SIDE, _FOOT = 8, 18
_NEAR = 7  # pixels within which an end is taken hold of
_LEAST = 0.5  # seconds between the ends
_BEATS = 5  # pixels between beats under which they are not drawn


class BedWave(QWidget):
    """Signals: used: from and to, in seconds of the recording, once an end has been dragged there."""

    used = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(76)
        self.setMouseTracking(True)
        self.setAccessibleName("The recording and its loop")
        self._studied: Studied | None = None
        self._seam: LoopPoints | None = None
        self._pulse: BeatGrid | None = None
        self._begin, self._end = 0.0, 0.0
        self._held: str | None = None

    def show_bed(
        self,
        studied: Studied | None,
        begin: float,
        end: float | None,
        loop_points: LoopPoints | None,
        pulse: BeatGrid | None,
    ) -> None:
        """Draw a recording, the part of it that is used, its loop and its beats."""
        self._studied, self._seam, self._pulse = studied, loop_points, pulse
        if studied is not None and self._held is None:
            self._begin, self._end = begin, studied.seconds if end is None else min(end, studied.seconds)
        self.update()

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds in it: where the used part begins and ends, which can be changed, and its loop."""
        if self._studied is None:
            return []
        parts = [
            SpokenPart(f"{name}s at {at:.2f} s", f"{at:.2f}", change=partial(self._typed, name))
            for name, at in (("begin", self._begin), ("end", self._end))
        ]
        loop = self._seam
        if loop is not None:
            parts.append(
                SpokenPart(f"loop from {loop.begin:.2f} to {loop.end:.2f} s, crossfade {loop.crossfade:.2f} s")
            )
        return [*parts, SpokenPart(f"the recording is {self._studied.seconds:.2f} s long")]

    def _typed(self, name: str, text: str) -> None:
        """Take an end as it is typed, in seconds, between its bounds."""
        with suppress(ValueError):
            at = float(text.replace(",", "."))
            if math.isfinite(at):
                self._move(name, at)
                self.used.emit(self._begin, self._end)

    def _move(self, name: str, at: float) -> None:
        assert self._studied is not None
        if name == "begin":
            self._begin = max(0.0, min(at, self._end - _LEAST))
        else:
            self._end = min(max(at, self._begin + _LEAST), self._studied.seconds)
        self.update()

    def _x(self, seconds: float) -> float:
        assert self._studied is not None
        return _SIDE + seconds / self._studied.seconds * (self.width() - 2 * _SIDE)

    def _seconds(self, x: float) -> float:
        assert self._studied is not None
        share = (x - _SIDE) / (self.width() - 2 * _SIDE)
        return min(max(0.0, share), 1.0) * self._studied.seconds

    # -- the ends, dragged

    def _end_at(self, x: float) -> str | None:
        if self._studied is None:
            return None
        near = {"begin": abs(x - self._x(self._begin)), "end": abs(x - self._x(self._end))}
        name = min(near, key=lambda each: near[each])
        return name if near[name] <= _NEAR else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = self._end_at(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        if self._held is None:
            over = self._end_at(x) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            return
        self._move(self._held, round(self._seconds(x), 2))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held = None
            self.used.emit(self._begin, self._end)

    # -- drawn

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        page = QRectF(_SIDE, 0, self.width() - 2 * _SIDE, self.height() - _FOOT)
        painter.fillRect(page, t.page)
        painter.setFont(font(8.5))
        if self._studied is None:
            painter.setPen(t.muted)
            painter.drawText(page, Qt.AlignmentFlag.AlignCenter, "Reading the recording…")
            return
        self._outline(painter, page)
        outside = QColor(t.paper)
        outside.setAlpha(200)
        left, right = self._x(self._begin), self._x(self._end)
        painter.fillRect(QRectF(page.left(), page.top(), left - page.left(), page.height()), outside)
        painter.fillRect(QRectF(right, page.top(), page.right() - right, page.height()), outside)
        if self._seam is not None and self._held is None:
            self._loop(painter, page, self._seam)
        if self._pulse is not None:
            self._beats(painter, page, self._pulse)
        for x in (left, right):
            painter.fillRect(QRectF(x - 1, page.top(), 2, page.height()), t.accent)
            painter.fillRect(QRectF(x - 3.5, page.top(), 7, 9), t.accent)
        painter.setPen(t.muted)
        foot = QRectF(page.left(), page.bottom() + 1, page.width(), _FOOT - 2)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, clock(self._begin, tenths=True))
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, clock(self._end, tenths=True))

    def _outline(self, painter: QPainter, page: QRectF) -> None:
        assert self._studied is not None
        shape = self._studied.outline
        most = float(np.abs(shape).max(initial=0.0)) or 1.0
        middle, half = page.center().y(), page.height() / 2 - 3
        xs = np.linspace(page.left(), page.right(), len(shape))
        upper = [QPointF(x, middle - high / most * half) for x, high in zip(xs, shape[:, 1])]
        lower = [QPointF(x, middle - low / most * half) for x, low in zip(xs, shape[:, 0])]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().muted)
        painter.drawPolygon(QPolygonF([*upper, *reversed(lower)]))

    def _loop(self, painter: QPainter, page: QRectF, loop_points: LoopPoints) -> None:
        """The stretches that go over into each other, and where the loop ends."""
        t = theme()
        tint = QColor(t.accent)
        tint.setAlpha(120)
        for begin in (loop_points.begin, loop_points.end - loop_points.crossfade):
            x0, x1 = self._x(begin), self._x(begin + loop_points.crossfade)
            painter.fillRect(
                QRectF(x0, page.top(), max(2.0, x1 - x0), page.height()), QBrush(tint, Qt.BrushStyle.BDiagPattern)
            )
        painter.setPen(QPen(t.accent, 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(
            QPointF(self._x(loop_points.end), page.top()), QPointF(self._x(loop_points.end), page.bottom())
        )

    def _beats(self, painter: QPainter, page: QRectF, pulse: BeatGrid) -> None:
        apart = self._x(pulse.seconds) - self._x(0.0)
        every = 1 if apart >= _BEATS else pulse.bar
        if apart * every < _BEATS:
            return
        painter.setPen(QPen(theme().ink, 1))
        step = pulse.seconds * every
        first = pulse.first + math.ceil((self._begin - pulse.first) / step) * step
        for number in range(int((self._end - first) / step) + 1):
            x = self._x(first + number * step)
            painter.drawLine(QPointF(x, page.bottom() - 6), QPointF(x, page.bottom()))
