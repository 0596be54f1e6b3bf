"""The prompter: in very large type what to say now and what comes next, with a line that fills to the beat."""

from bisect import bisect_right

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from nafas.drawing.theme import NIGHT, font
from nafas.script.model.blocks import BreathSet
from nafas.timing.clock import clock
from nafas.timing.timeline import EventKind, Moment, Timeline

_NOW, _NEXT, _LINE = 0.42, 0.78, 0.62
"""Of the height: the middle of what is said now, of what comes next, and the line to the beat."""
_LARGEST, _SMALLEST = 0.34, 0.07
_LONGEST_LINE = 8.0
"""Seconds before a beat from which its line fills."""


class Prompter(QWidget):
    """Shows a session's words by their time, dark, mirrored for a glass where that is wanted."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Prompter")
        self.setMinimumSize(400, 260)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.mirrored = False
        self.seconds = 0.0
        self._due: list[Moment] = []
        self._times: list[float] = []
        self._rounds: dict[str, int] = {}
        self._words = ""

    def show_timeline(self, timeline: Timeline) -> None:
        """Show another session, or the same one changed."""
        self._due = list(timeline.spoken)
        self._times = [float(moment.at) for moment in self._due]
        self._rounds = {t.block.id: len(t.rounds) for t in timeline.blocks if isinstance(t.block, BreathSet)}
        self.update()

    def show_time(self, seconds: float, words: str = "") -> None:
        """Show a time of the session; `words` stand above: a countdown, or that it is recorded."""
        self.seconds, self._words = seconds, words
        self.update()

    def now(self) -> tuple[Moment | None, Moment | None, float]:
        """What is to be said now, what next, and how much of the way to the next beat has gone, 0 to 1."""
        index = bisect_right(self._times, self.seconds + 1e-6) - 1
        current = self._due[index] if index >= 0 else None
        after = self._due[index + 1] if index + 1 < len(self._due) else None
        if after is None:
            return current, None, 1.0
        due = self._times[index + 1]
        begin = max(due - _LONGEST_LINE, self._times[index] if index >= 0 else due - _LONGEST_LINE)
        share = (self.seconds - begin) / max(1e-6, due - begin)
        return current, after, min(1.0, max(0.0, share))

    def paintEvent(self, event: QPaintEvent) -> None:
        t, painter = NIGHT, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t.paper)
        width, height = self.width(), self.height()
        if self.mirrored:
            painter.translate(width, 0)
            painter.scale(-1, 1)
        current, after, share = self.now()
        painter.setPen(t.muted)
        painter.setFont(self._letters(0.045))
        where = ""
        if current is not None and current.round and current.block in self._rounds:
            where = f"round {current.round} of {self._rounds[current.block]}"
        painter.drawText(QRectF(24, 12, width - 48, height * 0.09), Qt.AlignmentFlag.AlignLeft, where)
        painter.setPen(t.warning if self._words else t.muted)
        message = self._words or clock(max(0.0, self.seconds))
        painter.drawText(QRectF(24, 12, width - 48, height * 0.09), Qt.AlignmentFlag.AlignRight, message)
        painter.setPen(t.ink)
        self._fit(painter, current.text if current is not None else "", _NOW, 0.5)
        y, side = height * _LINE, width * 0.06
        painter.fillRect(QRectF(side, y, width - 2 * side, height * 0.012), t.rule)
        painter.fillRect(QRectF(side, y, (width - 2 * side) * share, height * 0.012), t.accent)
        painter.setPen(t.accent if share > 0.7 else t.muted)
        self._fit(painter, after.text if after is not None else "the end", _NEXT, 0.26)

    def _letters(self, part: float) -> QFont:
        made = QFont(font(10, bold=part > 0.1))
        made.setPixelSize(max(10, round(self.height() * part)))
        return made

    def _fit(self, painter: QPainter, text: str, middle: float, room: float) -> None:
        """Text as large as it fits."""
        height = self.height()
        box = QRectF(self.width() * 0.05, height * (middle - room / 2), self.width() * 0.9, height * room)
        flags = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap)
        part = _LARGEST * room / 0.5
        while part > _SMALLEST:
            needed = QFontMetricsF(self._letters(part)).boundingRect(box, flags, text)
            if needed.height() <= box.height() and needed.width() <= box.width():
                break
            part *= 0.85
        painter.setFont(self._letters(part))
        painter.drawText(box, flags, text)


def sayings(timeline: Timeline, begin: float) -> int:
    """How many words and sentences are due from a time on."""
    return sum(float(moment.at) >= begin for moment in timeline.spoken if moment.kind is not EventKind.COVERED)
