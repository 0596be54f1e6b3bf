"""The ribbon along the foot: the whole session with the breath in miniature over the bed's level."""

from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from nafas.desk.widgets.block_parts import block_parts
from nafas.desk.widgets.mark_shape import mark_shape
from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.drawing.theme import font, theme
from nafas.script import BreathSet, PhaseKind, Strokes
from nafas.script.edits.session_edits import block_name
from nafas.timing import EventKind, TimedBlock, Timeline
from nafas.timing.clock import clock, tick_step
from nafas.voice import Cast

if TYPE_CHECKING:
    from nafas.script.model.marks import Mark
    from nafas.sound import Mix

_SIDE, _FOOT = 14, 20
_HIGH, _LOW, _LIFT = 104, 56, 22  # px; in a low window without names and times
_LEAST_BLOCK = 2.0  # px from the end of a block that is drawn to that of the next
_LEAST_PHASE = 1.0  # px of a phase that can be drawn as a line


class Ribbon(QWidget):
    """The session from end to end. Click to move the playhead; arrow keys move it by five seconds.

    Signals:
        seek: to this second.
    """

    seek = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self._low = False
        self.setFixedHeight(_HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ribbon of the whole session")
        self._timeline: Timeline | None = None
        self._cast: Cast | None = None
        self._mix: Mix | None = None
        self._playhead = 0.0
        self._picture: QPixmap | None = None
        self._marks: list[float] = []

    def show_marks(self, marks: "list[tuple[float, Mark]]") -> None:
        """Show where something was marked in a rehearsal, and is not settled."""
        self._marks = [at for at, _ in marks]
        self.update()

    def show_session(self, timeline: Timeline, cast: Cast | None, mix: "Mix | None") -> None:
        self._timeline, self._cast, self._mix = timeline, cast, mix
        self._picture = None
        self.update()

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds in it: the blocks, and marks of a rehearsal."""
        if self._timeline is None:
            return []
        blocks = self._timeline.blocks
        parts = block_parts(self._timeline, lambda number: self.seek.emit(float(blocks[number].start)))
        return [*parts, *(SpokenPart(f"mark at {clock(at)}", choose=partial(self.seek.emit, at)) for at in self._marks)]

    def set_playhead(self, seconds: float) -> None:
        old, self._playhead = self._x(self._playhead), seconds
        new = self._x(seconds)
        if int(old) != int(new):
            self.update(int(min(old, new)) - 40, 0, int(abs(new - old)) + 80, self.height())

    def set_low(self, low: bool) -> None:
        """Take less height, without names and times, in a low window."""
        if low != self._low:
            self._low = low
            self.setFixedHeight(_LOW if low else _HIGH)
            self.repaint_theme()

    @property
    def _foot(self) -> int:
        return 4 if self._low else _FOOT

    def repaint_theme(self) -> None:
        self._picture = None
        self.update()

    # -- geometry

    def _length(self) -> float:
        return max(1e-6, float(self._timeline.length)) if self._timeline else 1.0

    def _x(self, seconds: float) -> float:
        return _SIDE + seconds / self._length() * (self.width() - 2 * _SIDE)

    # -- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._picture is None or self._picture.size() != self.size() * self.devicePixelRatioF():
            self._picture = self._draw()
        painter.drawPixmap(0, 0, self._picture)
        if self._timeline is not None and self._timeline.blocks:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme().warning)
            for at in self._marks:
                painter.drawPolygon(mark_shape(self._x(at), 4.0))
            x = self._x(self._playhead)
            painter.setPen(QPen(theme().accent, 2))
            painter.drawLine(QPointF(x, 4), QPointF(x, self.height() - self._foot + 2))
        if self.hasFocus():
            painter.setPen(QPen(theme().accent, 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def _draw(self) -> QPixmap:
        picture = QPixmap(self.size() * self.devicePixelRatioF())
        picture.setDevicePixelRatio(self.devicePixelRatioF())
        picture.fill(theme().paper)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        page = QRectF(_SIDE, 4, self.width() - 2 * _SIDE, self.height() - self._foot - 2)
        painter.setPen(QPen(theme().rule, 1))
        painter.setBrush(theme().page)
        painter.drawRoundedRect(page, 5, 5)
        if self._timeline is not None and self._timeline.blocks:
            painter.save()
            painter.setClipRect(page)
            self._draw_bed(painter)
            self._draw_silence(painter)
            if self._low:
                painter.translate(0, -_LIFT)
            drawn = 0.0
            for block in self._timeline.blocks:
                end = self._x(float(block.end))
                if end - drawn >= _LEAST_BLOCK:  # of thousands, as many as can be seen
                    self._draw_block(painter, block)
                    drawn = end
            painter.restore()
            if not self._low:
                self._draw_times(painter)
        painter.end()
        return picture

    def _draw_bed(self, painter: QPainter) -> None:
        if self._mix is None or self._mix.bed is None:
            return
        from nafas.sound.bed.ducking import SILENT  # there is a mix: what it needs is loaded

        bed, rate = self._mix.bed, self._mix.rate
        n = max(2, self.width() - 2 * _SIDE)
        places = np.linspace(0, self._mix.length, n).astype(np.int64)
        levels = bed.level_at(places)
        heights = bed.faded(places) * np.where(levels > SILENT, np.clip((levels + 60) / 60, 0.05, 1), 0) * 44
        foot = self.height() - self._foot - 3
        path = QPainterPath(QPointF(_SIDE, foot))
        for position, height in zip(places, heights):
            path.lineTo(self._x(position / rate), foot - height)
        path.lineTo(self._x(self._length()), foot)
        colour = theme().rest
        painter.fillPath(path, colour)

    def _draw_silence(self, painter: QPainter) -> None:
        if self._cast is None or not self._cast.placements:
            return
        begin, end = (index / self._cast.rate for index in self._cast.longest_silence)
        area = QRectF(self._x(begin), self.height() - self._foot - 8, self._x(end) - self._x(begin), 4)
        painter.fillRect(area, theme().muted)

    def _draw_block(self, painter: QPainter, block: TimedBlock) -> None:
        begin, end = self._x(float(block.start)), self._x(float(block.end))
        painter.setPen(QPen(theme().rule, 1))
        painter.drawLine(QPointF(begin, 5), QPointF(begin, _HIGH - _FOOT - 3))
        if end - begin > 34 and not self._low:
            painter.setFont(font(8.5))
            painter.setPen(theme().muted)
            room = int(end - begin - 8)
            name = painter.fontMetrics().elidedText(block_name(block.block), Qt.TextElideMode.ElideRight, room)
            painter.drawText(QPointF(begin + 4, 17), name)
        if isinstance(block.block, BreathSet):
            self._draw_breath(painter, block)
        elif isinstance(block.block, Strokes):
            self._draw_strokes(painter, block)
        if not isinstance(block.block, BreathSet):
            painter.setPen(QPen(theme().muted, 1))
            for event in block.body.events:
                if event.kind is EventKind.TALK:
                    at, length = float(block.at(event)), event.length / block.body.per_second
                    painter.drawLine(QPointF(self._x(at), 46), QPointF(self._x(at + length), 46))

    def _draw_strokes(self, painter: QPainter, block: TimedBlock) -> None:
        """A comb where there is room for its teeth, else a filled band."""
        painter.setPen(QPen(theme().ink, 1))
        for event in block.body.events:
            begin = self._x(float(block.at(event)))
            end = begin + self._x(event.length / block.body.per_second) - self._x(0)
            if event.kind is EventKind.STROKES and (end - begin) / max(1, event.count) < 3:
                painter.fillRect(QRectF(begin, 40, end - begin, 24), theme().hold)
            elif event.kind is EventKind.STROKE and end - begin >= 3:
                painter.drawLine(QPointF(begin, 42), QPointF(begin, 64))

    def _draw_breath(self, painter: QPainter, block: TimedBlock) -> None:
        high, low = 28.0, 64.0
        begin, end = self._x(float(block.start)), self._x(float(block.end))
        phases = sum(len(one.phases) for one in block.rounds[:1]) * len(block.rounds)
        if end - begin < _LEAST_PHASE * phases:  # too many for a line: a band, as of strokes
            painter.fillRect(QRectF(begin, high, max(1.0, end - begin), low - high), theme().hold)
            return
        path, begun = QPainterPath(), False
        for event in block.body.events:
            if event.kind is not EventKind.PHASE:
                continue
            at = float(block.at(event))
            begin, end = self._x(at), self._x(at + event.length / block.body.per_second)
            kind = event.phase_kind
            from_y = low if kind in (PhaseKind.INHALE, PhaseKind.HOLD_EMPTY) else high
            to_y = high if kind in (PhaseKind.INHALE, PhaseKind.HOLD_FULL) else low
            if begun:
                path.lineTo(begin, from_y)
            else:
                path.moveTo(begin, from_y)
            path.lineTo(end, to_y)
            begun = True
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme().ink, 1.2))
        painter.drawPath(path)

    def _draw_times(self, painter: QPainter) -> None:
        length = self._length()
        step = tick_step(length, 14)
        painter.setFont(font(8.5))
        painter.setPen(theme().muted)
        at = 0
        while at <= length:
            x = self._x(at)
            if x < self.width() - 130:
                painter.drawText(QPointF(x + (0 if at == 0 else -10), self.height() - 5), clock(at))
            at += step
        if self._cast is not None and self._cast.placements:
            begin, end = self._cast.longest_silence
            text = f"longest silence {(end - begin) / self._cast.rate:.0f} s"
            width = painter.fontMetrics().horizontalAdvance(text)
            painter.drawText(QPointF(self.width() - _SIDE - width, self.height() - 5), text)

    # -- mouse and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._seek_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._seek_to(event.position().x())

    def _seek_to(self, x: float) -> None:
        share = (x - _SIDE) / max(1, self.width() - 2 * _SIDE)
        self.seek.emit(min(max(0.0, share), 1.0) * self._length())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -5.0,
            Qt.Key.Key_Right: 5.0,
            Qt.Key.Key_PageUp: -30.0,
            Qt.Key.Key_PageDown: 30.0,
        }
        if event.key() in steps:
            self.seek.emit(min(max(0.0, self._playhead + steps[Qt.Key(event.key())]), self._length()))
        elif event.key() == Qt.Key.Key_Home:
            self.seek.emit(0.0)
        elif event.key() == Qt.Key.Key_End:
            self.seek.emit(self._length())
        else:
            super().keyPressEvent(event)
