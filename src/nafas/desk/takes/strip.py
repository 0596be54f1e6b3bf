"""One take as a waveform: what is kept between its trims, where its beat is felt, where the next word comes, and where
a breath or a plosive is heard."""

from contextlib import suppress
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from nafas.desk.widgets.labels import set_tip
from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.drawing.theme import font, theme
from nafas.voice.audition import outline
from nafas.voice.clip import Samples
from nafas.voice.level import sounding
from nafas.voice.recording.take_sound import take_sound
from nafas.voice.takebook.book import Take
from nafas.voice.takebook.editor import with_beat, with_trim

HEIGHT = 108
_HEAD, _FOOT, _SIDE = 24, 18, 12
_GRIP = 7
_KNEE = 0.35  # quiet parts are drawn taller than they are: a beginning must be seen


class TakeStrip(QWidget):
    """Signals: chosen; changed: the take with its beat or a trim moved, and what was done."""

    chosen = Signal()
    changed = Signal(object, str)

    def __init__(self, take: Take, sound: tuple[Samples, int] | None, room: float | None, span: float) -> None:
        """Args: take; its file's samples and rate, or None where it cannot be read; seconds from its beat to the next
        word, or None; seconds the strip is wide, the same for all takes of a line."""
        super().__init__()
        self.take, self.room, self.span = take, room, max(span, 0.05)
        self._sound = sound
        self._drawn: tuple[int, np.ndarray] | None = None
        self._noises: list[tuple[float, str]] | None = None
        self._drag: str | None = None
        self._shown = take
        self._over: dict[tuple[float, float], float] = {}
        self._marked = False
        self._playhead: float | None = None
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.setAccessibleName(f"Take {take.file}: {self.facts()}")
        set_tip(
            self, "Drag the flag to where the word is felt, the ends to trim. ← → move the beat, [ ] the beginning."
        )

    def sizeHint(self) -> QSize:
        return QSize(400, HEIGHT)

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds in it: its beginning, felt beat and end, in seconds of the file; each can be
        moved."""
        take = self._shown
        places = {"begin": take.trim[0], "beat": take.trim[0] + take.beat, "end": take.trim[1]}
        return [
            SpokenPart(
                f"{_SPOKEN[name]}, {at:.3f} s", f"{at:.3f}", choose=self.chosen.emit, change=partial(self._typed, name)
            )
            for name, at in places.items()
        ]

    def _typed(self, name: str, text: str) -> None:
        with suppress(ValueError):
            self.changed.emit(self._moved(name, float(text.replace(",", "."))), _DONE[name])

    @property
    def file_seconds(self) -> float:
        return len(self._sound[0]) / self._sound[1] if self._sound else 0.0

    @property
    def after_beat(self) -> float:
        """Seconds from the beat to where the word is over, without its quiet tail."""
        take = self._shown
        if self._sound is None:
            return take.after_beat
        if take.trim not in self._over:
            samples, rate = self._sound
            begin, end = (int(t * rate) for t in take.trim)
            self._over[take.trim] = sounding(samples[begin:end], rate) / rate
        return self._over[take.trim] - take.beat

    @property
    def over(self) -> float:
        """Seconds by which it is too long; 0 where it fits."""
        return max(0.0, self.after_beat - self.room) if self.room is not None else 0.0

    @property
    def doubtful_beat(self) -> bool:
        """Whether its felt beat matters and is not sure; talk is on no beat."""
        return self.room is not None and not self._shown.beat_sure

    def facts(self) -> str:
        """What there is to say of it in a line."""
        take = self._shown
        facts = [f"{take.seconds:.2f} s"]
        beat = f"beat at {take.beat:.3f} s"
        if take.beat_confidence is not None:
            beat += f", {take.beat_confidence:.0%} sure" + (": listen to it" if self.doubtful_beat else "")
        facts.append(beat if take.beat_confidence is not None else f"{beat}, by ear")
        if take.confidence is not None:
            facts.append(f"matched, {take.confidence:.0%} sure")
        facts += [f"a {name} at {at:.2f} s" for at, name in self.marks()[:1]]
        if self.over:
            facts.append(f"{self.over:.2f} s too long")
        return "  ·  ".join(facts)

    def mark(self, marked: bool) -> None:
        """Show it as the one that is chosen."""
        self._marked = marked
        self.update()

    def show_playhead(self, seconds: float | None) -> None:
        """Seconds from the trim's start, or None."""
        self._playhead = seconds
        self.update()

    # -- places

    def _x(self, seconds: float) -> float:
        return _SIDE + seconds / self.span * (self.width() - 2 * _SIDE)

    def _seconds(self, x: float) -> float:
        return (x - _SIDE) / (self.width() - 2 * _SIDE) * self.span

    def places(self) -> dict[str, float]:
        """Where the begin, the end and the beat are, in pixels."""
        take = self._shown
        begin, end = take.trim
        return {"beat": self._x(begin + take.beat), "begin": self._x(begin), "end": self._x(end)}

    def _grip(self, x: float) -> str | None:
        near = {name: abs(index - x) for name, index in self.places().items()}
        name = min(near, key=lambda each: near[each])
        return name if near[name] <= _GRIP else None

    # -- moving

    def _moved(self, name: str, at: float) -> Take:
        begin, end = self.take.trim
        if name == "beat":
            return with_beat(self.take, at - begin)
        return with_trim(self.take, *((at, end) if name == "begin" else (begin, at)), self.file_seconds)

    def nudge(self, name: str, by: float) -> None:
        """Move the beat, the begin or the end by some seconds."""
        begin, end = self.take.trim
        at = {"beat": begin + self.take.beat, "begin": begin, "end": end}[name]
        if self._sound is not None:
            self.changed.emit(self._moved(name, at + by), _DONE[name])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.chosen.emit()
        if event.button() == Qt.MouseButton.LeftButton and self._sound is not None:
            self._drag = self._grip(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        if self._drag is None:
            over = self._sound is not None and self._grip(x)
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            return
        self._shown = self._moved(self._drag, self._seconds(x))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        name, self._drag = self._drag, None
        shown, self._shown = self._shown, self.take
        if name is not None and shown != self.take:
            self.changed.emit(shown, _DONE[name])
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.chosen.emit()

    # -- drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        t, take = theme(), self._shown
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setPen(QPen(t.accent if self._marked else t.rule, 2 if self._marked else 1))
        painter.setBrush(t.page)
        painter.drawRoundedRect(frame, 6, 6)
        self._head(painter)
        wave = QRectF(_SIDE, _HEAD, self.width() - 2 * _SIDE, HEIGHT - _HEAD - _FOOT)
        if self._sound is None:
            painter.setPen(t.warning)
            painter.drawText(wave, Qt.AlignmentFlag.AlignCenter, "This take's file cannot be read")
            return
        places = self.places()
        kept = QRectF(places["begin"], wave.top(), places["end"] - places["begin"], wave.height())
        painter.fillRect(kept, t.chosen)
        self._room(painter, wave)
        self._wave(painter, wave, kept)
        self._heard(painter, wave)
        self._ruler(painter, wave)
        for name in ("begin", "end"):
            painter.fillRect(QRectF(places[name] - 1.5, wave.top(), 3, wave.height()), t.muted)
            painter.fillRect(QRectF(places[name] - 3.5, wave.center().y() - 8, 7, 16), t.muted)
        beat = places["beat"]
        painter.fillRect(QRectF(beat - 1, wave.top() - 2, 2, wave.height() + 2), t.accent)
        painter.setBrush(t.accent)
        painter.setPen(Qt.PenStyle.NoPen)
        flag = [
            QPointF(beat - 1, wave.top() - 4),
            QPointF(beat + 11, wave.top() + 1),
            QPointF(beat - 1, wave.top() + 7),
        ]
        painter.drawPolygon(QPolygonF(flag))
        if self._playhead is not None:
            x = self._x(take.trim[0] + self._playhead)
            painter.fillRect(QRectF(x - 0.5, wave.top(), 1, wave.height()), t.ink)

    def _head(self, painter: QPainter) -> None:
        t, take = theme(), self._shown
        row = QRectF(_SIDE, 3, self.width() - 2 * _SIDE, _HEAD - 4)
        painter.setFont(font(10, bold=True))
        painter.setPen(t.muted if take.aside else t.ink)
        name = take.file + ("  (set aside)" if take.aside else "")
        metrics = QFontMetricsF(painter.font())
        name = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, row.width() * 0.42)
        painter.drawText(row, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)
        worry = not take.sure or self.doubtful_beat or self.over > 0
        painter.setFont(font(9.5))
        painter.setPen(t.warning if worry else t.muted)
        painter.drawText(row, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self.facts())

    def _wave(self, painter: QPainter, wave: QRectF, kept: QRectF) -> None:
        assert self._sound is not None
        samples, _ = self._sound
        columns = max(1, int(self.file_seconds / self.span * wave.width()))
        if self._drawn is None or self._drawn[0] != columns:
            shape = outline(samples, columns)
            shape = shape / max(1e-6, float(np.abs(shape).max()))
            self._drawn = (columns, np.sign(shape) * np.abs(shape) ** (1 - _KNEE))
        middle, half = wave.center().y(), wave.height() / 2 - 2
        faded, ink = QColor(theme().muted), QColor(theme().muted if self._shown.aside else theme().ink)
        faded.setAlpha(110)
        for column, (low, high) in enumerate(self._drawn[1]):
            x = wave.left() + column + 0.5
            painter.setPen(ink if kept.left() <= x <= kept.right() else faded)
            painter.drawLine(
                QPointF(x, middle - half * float(high) - 0.5), QPointF(x, middle - half * float(low) + 0.5)
            )

    def marks(self) -> list[tuple[float, str]]:
        """Breaths and plosives of the file, in order: seconds, and what it is."""
        if self._sound is None:
            return []
        if self._noises is None:
            sound = take_sound(*self._sound)
            noises = [(at, "breath") for at in sound.breaths] + [(at, "pop") for at in sound.plosives]
            self._noises = sorted(noises)
        return self._noises

    def _heard(self, painter: QPainter, wave: QRectF) -> None:
        """Where a breath or a plosive is heard, by name at the foot of the wave."""
        t, free = theme(), -1.0
        painter.setFont(font(8.5))
        metrics = QFontMetricsF(painter.font())
        for at, name in self.marks():
            x = self._x(at)
            painter.fillRect(QRectF(x - 0.5, wave.bottom() - 12, 1, 12), t.warning)
            if x > free:
                painter.setPen(t.warning)
                painter.drawText(QPointF(x + 3, wave.bottom() - 2), name)
                free = x + metrics.horizontalAdvance(name) + 6

    def _room(self, painter: QPainter, wave: QRectF) -> None:
        """Where the next word comes; hatched where this one reaches into it."""
        if self.room is None:
            return
        t, take = theme(), self._shown
        next_word = self._x(take.trim[0] + take.beat + self.room)
        if next_word > wave.right() + 2:
            return
        end = self._x(take.trim[0] + take.beat + self.after_beat)
        if end > next_word:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.fillRect(QRectF(next_word, wave.top(), end - next_word, wave.height()), _hatch(t.warning))
        painter.setPen(QPen(t.warning if end > next_word else t.muted, 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(next_word, wave.top()), QPointF(next_word, wave.bottom()))
        painter.setFont(font(8.5, italic=True))
        metrics = QFontMetricsF(painter.font())
        if next_word + metrics.horizontalAdvance("next word") + 6 < wave.right():
            painter.drawText(QPointF(next_word + 4, wave.top() + 11), "next word")

    def _ruler(self, painter: QPainter, wave: QRectF) -> None:
        t = theme()
        step = next((s for s in (0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10) if self._x(s) - self._x(0) >= 44), 20)
        painter.setFont(font(8.5))
        painter.setPen(t.muted)
        for n in range(int(self.span / step) + 1):
            x = self._x(n * step)
            painter.drawLine(QPointF(x, wave.bottom()), QPointF(x, wave.bottom() + 3))
            text = f"{n * step:.2f}".rstrip("0").rstrip(".") + (" s" if n == 0 else "")
            box = QRectF(x - 20, wave.bottom() + 2, 40, _FOOT - 3)
            if n == 0:
                painter.drawText(
                    box.translated(16, 0), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text
                )
            elif box.right() < self.width():
                painter.drawText(box, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter, text)


_SPOKEN = {"begin": "beginning", "beat": "felt beat", "end": "end"}
_DONE = {"beat": "move a beat", "begin": "trim a beginning", "end": "trim an end"}


def _hatch(colour: QColor) -> object:
    from PySide6.QtGui import QBrush

    shade = QColor(colour)
    shade.setAlpha(120)
    return QBrush(shade, Qt.BrushStyle.BDiagPattern)
