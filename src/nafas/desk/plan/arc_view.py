"""The arc as a picture: blocks to scale, breaths a minute, and what leads the listener."""

from dataclasses import replace
from math import log2

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from nafas.desk.widgets.block_parts import block_parts
from nafas.desk.widgets.spoken_parts import SpokenPart, announce
from nafas.drawing.theme import font, theme
from nafas.script.edits.session_edits import block_name
from nafas.timing import Arc, Guidance, Timeline
from nafas.timing.clock import clock, tick_step

_LEFT, _RIGHT = 62, 14
_NAMES, _GAP, _BAND, _AXES = 30, 12, 26, 50
_LEAST_CHART = 70
_LEAST_BLOCK = 2.0  # px from the end of a block that is drawn to that of the next
_RATES = (2, 4, 8, 15, 30, 60, 120, 240)
_GUIDED = {Guidance.VOICE: "voice", Guidance.CUE: "cue words", Guidance.CHIME: "chimes", Guidance.SILENCE: "silence"}


class ArcView(QWidget):
    """Click a block to choose it; Left and Right choose the one before or after.

    Signals:
        chose: the place of a block.
    """

    chose = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(_NAMES + _LEAST_CHART + 2 * _GAP + _BAND + _AXES)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Arc of the session")
        self._timeline: Timeline | None = None
        self._arc: Arc | None = None
        self._chosen = -1

    def show_arc(self, timeline: Timeline, arc: Arc) -> None:
        self._timeline, self._arc = timeline, arc
        guided = {g: sum(float(s.end - s.start) for s in arc.spans if s.guidance is g) for g in Guidance}
        self.setAccessibleDescription(", ".join(f"{_GUIDED[g]} {clock(s)}" for g, s in guided.items()))
        self.update()

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds in it: each block with what is said in it."""
        if self._timeline is None or self._arc is None:
            return []
        parts = block_parts(self._timeline, self.chose.emit, self._chosen)
        for number, block in enumerate(self._timeline.blocks):
            spans = [s for s in self._arc.spans if block.start <= s.start < block.start + block.length]
            guided = dict.fromkeys(_GUIDED[span.guidance] for span in spans)
            parts[number] = replace(parts[number], name=", ".join([parts[number].name, *guided]))
        return parts

    def set_chosen(self, index: int) -> None:
        if index != self._chosen:
            self._chosen = index
            if self.hasFocus():
                announce(self, lambda: next((part.name for part in self.spoken_parts() if part.chosen), ""))
        self.update()

    @property
    def _chart(self) -> int:
        """Height of the chart: what is left."""
        return max(_LEAST_CHART, self.height() - _NAMES - 2 * _GAP - _BAND - _AXES)

    def sizeHint(self) -> QSize:
        return QSize(600, _NAMES + 132 + 2 * _GAP + _BAND + _AXES)

    def _x(self, seconds: float) -> float:
        assert self._timeline is not None
        return _LEFT + seconds / max(1e-6, float(self._timeline.length)) * (self.width() - _LEFT - _RIGHT)

    # -- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._timeline is None or self._arc is None or not self._timeline.blocks:
            painter.setPen(theme().muted)
            painter.setFont(font(11.5))
            hint = "Nothing is planned yet. Choose a purpose and a length below, and start from a whole session."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, hint)
            return
        self._blocks(painter)
        self._breaths(painter)
        self._guidance(painter)
        self._times(painter)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme().accent, 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def _blocks(self, painter: QPainter) -> None:
        metrics = QFontMetricsF(font(9))
        foot, drawn = _NAMES + self._chart + 2 * _GAP + _BAND, 0.0
        assert self._timeline is not None
        for block in self._timeline.blocks:
            begin, end = self._x(float(block.start)), self._x(float(block.end))
            chosen = block.index == self._chosen
            if end - drawn < _LEAST_BLOCK and not chosen and not block.block.locked:
                continue  # of thousands, as many as can be seen
            drawn = end
            if chosen:
                painter.fillRect(QRectF(begin, 4, end - begin, foot - 4), theme().chosen)
            painter.setPen(QPen(theme().rule, 1))
            painter.drawLine(QPointF(begin, 4), QPointF(begin, foot))
            painter.setFont(font(9, bold=chosen))
            painter.setPen(theme().ink)
            room = end - begin - 8
            if room > 18:
                name = metrics.elidedText(block_name(block.block), Qt.TextElideMode.ElideRight, room)
                painter.drawText(QPointF(begin + 4, 18), name)
            if block.block.locked:
                painter.fillRect(QRectF(begin + 1, _NAMES - 5, max(2.0, end - begin - 2), 2), theme().accent)

    def _y(self, rate: float, low: float, high: float) -> float:
        share = (log2(max(rate, low)) - log2(low)) / (log2(high) - log2(low))
        return _NAMES + self._chart - share * (self._chart - 12)

    def _breaths(self, painter: QPainter) -> None:
        assert self._arc is not None
        rates = [float(span.breaths) for span in self._arc.spans if span.breaths is not None]
        painter.setFont(font(8.5))
        if not rates:
            painter.setPen(theme().muted)
            area = QRectF(_LEFT, _NAMES, self.width() - _LEFT - _RIGHT, self._chart)
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, "no breath is led yet")
            return
        low = max((r for r in _RATES if r <= min(rates)), default=_RATES[0])
        high = next((r for r in _RATES if r >= max(rates)), _RATES[-1])
        high = max(high, 4 * low)
        for rate in _RATES:
            if low <= rate <= high:
                y = self._y(rate, low, high)
                painter.setPen(QPen(theme().rule, 1, Qt.PenStyle.DotLine))
                painter.drawLine(QPointF(_LEFT, y), QPointF(self.width() - _RIGHT, y))
                painter.setPen(theme().muted)
                painter.drawText(QRectF(0, y - 8, _LEFT - 8, 16), _RIGHT_MIDDLE, f"{rate}")
        painter.drawText(QRectF(0, _NAMES - 20, _LEFT - 8, 16), _RIGHT_MIDDLE, "a minute")
        path, before = QPainterPath(), None
        for span in self._arc.spans:
            if span.breaths is None:
                before = None
                continue
            y = self._y(float(span.breaths), low, high)
            begin, end = self._x(float(span.start)), self._x(float(span.end))
            tint = QRectF(begin, y, end - begin, _NAMES + self._chart - y)
            painter.fillRect(tint, theme().inhale)
            if before is None:
                path.moveTo(begin, y)
            else:
                path.lineTo(begin, y)
            path.lineTo(end, y)
            before = y
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme().ink, 2))
        painter.drawPath(path)

    def _guidance(self, painter: QPainter) -> None:
        top = _NAMES + self._chart + _GAP
        painter.setFont(font(8.5))
        painter.setPen(theme().muted)
        painter.drawText(QRectF(0, top, _LEFT - 8, _BAND), _RIGHT_MIDDLE, "led by")
        assert self._arc is not None
        for guidance, begin, end in _runs(self._arc):
            x = self._x(begin)
            paint_guidance(painter, guidance, QRectF(x, top, self._x(end) - x, _BAND))
        begin, end = (self._x(float(at)) for at in self._arc.silence)
        y = top + _BAND + 6
        painter.setPen(QPen(theme().warning, 1.4))
        painter.drawLine(QPointF(begin, y), QPointF(end, y))
        for x in (begin, end):
            painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))

    def _times(self, painter: QPainter) -> None:
        assert self._timeline is not None
        length = float(self._timeline.length)
        step = tick_step(length, 12)
        painter.setFont(font(8.5))
        painter.setPen(theme().muted)
        y = _NAMES + self._chart + 2 * _GAP + _BAND + 14
        at = 0
        while at <= length:
            painter.drawText(QRectF(self._x(at) - 30, y - 12, 60, 16), Qt.AlignmentFlag.AlignCenter, clock(at))
            at += step
        self._legend(painter, y + 10)

    def _legend(self, painter: QPainter, y: float) -> None:
        metrics = QFontMetricsF(font(8.5))
        words = [*_GUIDED.values(), "longest silence"]
        needed = sum(32 + metrics.horizontalAdvance(each) for each in words)
        gap = min(22.0, max(6.0, (self.width() - _LEFT - _RIGHT - needed) / (len(words) - 1)))
        x = float(_LEFT) if gap > 6 else max(4.0, self.width() - _RIGHT - needed - 6 * (len(words) - 1))
        for guidance, each in zip([*_GUIDED, None], words):
            if guidance is not None:
                paint_guidance(painter, guidance, QRectF(x, y, 26, 12))
            else:
                painter.setPen(QPen(theme().warning, 1.4))
                painter.drawLine(QPointF(x, y + 6), QPointF(x + 26, y + 6))
            painter.setPen(theme().muted)
            painter.drawText(QPointF(x + 32, y + 11), each)
            x += 32 + metrics.horizontalAdvance(each) + gap

    # -- mouse and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for block in self._timeline.blocks if self._timeline else ():
            if self._x(float(block.start)) <= event.position().x() < self._x(float(block.end)):
                self.chose.emit(block.index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if by is None or self._timeline is None or not self._timeline.blocks:
            super().keyPressEvent(event)
        else:
            self.chose.emit(min(max(0, self._chosen + by), len(self._timeline.blocks) - 1))


def _runs(arc: Arc) -> list[tuple[Guidance, float, float]]:
    """What leads, from and to in seconds, whatever the block."""
    runs: list[tuple[Guidance, float, float]] = []
    for span in arc.spans:
        begin = runs.pop()[1] if runs and runs[-1][0] is span.guidance else float(span.start)
        runs.append((span.guidance, begin, float(span.end)))
    return runs


def paint_guidance(painter: QPainter, guidance: Guidance, area: QRectF) -> None:
    """Fill an area as what leads there: full, slanted, dotted, or empty. Told apart without colour."""
    middle = area.center().y()
    if guidance is Guidance.VOICE:
        painter.fillRect(area, theme().accent)
    elif guidance is Guidance.CUE:
        painter.fillRect(area, theme().inhale)
        painter.fillRect(area, QBrush(theme().accent, Qt.BrushStyle.BDiagPattern))
    elif guidance is Guidance.CHIME:
        painter.fillRect(area, theme().page)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().accent)
        x = area.left() + 4
        while x < area.right() - 2:
            painter.drawEllipse(QPointF(x, middle), 1.8, 1.8)
            x += 7
    else:
        painter.setPen(QPen(theme().rule, 1.5))
        painter.drawLine(QPointF(area.left(), middle), QPointF(area.right(), middle))


_RIGHT_MIDDLE = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
