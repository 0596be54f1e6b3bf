"""A performance as rounds: each a line on one scale of seconds, its words where they were felt, its count at the right.

Over the words stands the even count that most rounds have; at the right a curve says how the count went.
"""

from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from nafas.drawing.theme import Theme, font
from nafas.plain_text import pluralize
from nafas.script.performed import PerformedPhase, PerformedSet
from nafas.timing.clock import clock

_LEFT, _CURVE, _ROW, _HEAD = 74, 132, 34, 30
_TOP = 13
_CURVE_LEAST = 0.08
"""Of a count that the curve shows to either side, at least."""


class RoundsDrawing:
    """Rounds drawn at a width, in the colours of a theme.

    Attributes:
        height: of all of it.
    """

    def __init__(
        self, sets: tuple[PerformedSet, ...], faults: tuple[float, ...], width: int, colours: Theme, first: int = 1
    ) -> None:
        self._sets, self._faults, self.width, self._theme, self._first = sets, faults, width, colours, first
        lengths = [end - begin for one in sets for begin, end in map(_span, one.rounds)]
        self._longest = max(lengths, default=1.0)
        self.height = sum(_HEAD + _ROW * len(one.rounds) for one in sets) + 12

    def _page(self) -> QRectF:
        return QRectF(_LEFT, 0, max(80, self.width - _LEFT - _CURVE), self.height)

    def _x(self, seconds: float) -> float:
        page = self._page()
        return page.left() + 8 + seconds / self._longest * (page.width() - 40)

    def _rows(self) -> list[tuple[float, PerformedSet, int]]:
        """The top of each round's row, with its set and number."""
        rows, at = [], 0.0
        for one in self._sets:
            at += _HEAD
            for number in range(len(one.rounds)):
                rows.append((at, one, number))
                at += _ROW
        return rows

    def time_at(self, at: QPointF) -> float | None:
        """The time of the recording at a place; None between rounds."""
        for top, one, number in self._rows():
            if top <= at.y() < top + _ROW:
                begin, end = _span(one.rounds[number])
                share = (at.x() - self._x(0)) / max(1.0, self._x(self._longest) - self._x(0))
                return min(end, max(begin, begin + share * self._longest))
        return None

    def paint(self, painter: QPainter) -> None:
        t = self._theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        at = 0.0
        for number, one in enumerate(self._sets, self._first):
            painter.setFont(font(10, bold=True))
            painter.setPen(t.ink)
            painter.drawText(QPointF(4, at + 20), f"Set {number}: {_pattern(one)}")
            rows = [(top, k) for top, each, k in self._rows() if each is one]
            for top, k in rows:
                self._round(painter, one, k, top)
            self._curve(painter, one, rows)
            at += _HEAD + _ROW * len(one.rounds)

    def _round(self, painter: QPainter, one: PerformedSet, number: int, top: float) -> None:
        t, phases = self._theme, one.rounds[number]
        begin, end = _span(phases)
        middle = top + _TOP + 8
        painter.setFont(font(9))
        painter.setPen(t.muted)
        box = QRectF(4, top, _LEFT - 10, _ROW)
        painter.drawText(
            box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{number + 1}   {clock(begin)}"
        )
        painter.setPen(QPen(t.rule, 1))
        painter.drawLine(QPointF(self._x(0), middle), QPointF(self._x(end - begin), middle))
        count = one.count_length
        if count:
            for tick in range(int((end - begin) / count) + 1):
                x = self._x(tick * count)
                painter.drawLine(QPointF(x, middle - 3), QPointF(x, middle + 3))
        right = -1.0
        for phase in phases:
            for word in phase.words:
                x = self._x(word.beat - begin)
                wrong = any(abs(word.beat - fault) < 0.02 for fault in self._faults)
                painter.fillRect(
                    QRectF(x - 1.5, middle - 6, 3, 12), t.warning if wrong else t.accent if word.kind else t.ink
                )
                painter.setFont(font(9, bold=wrong or word.kind is not None))
                text = word.text if word.kind else str(word.number)
                width = QFontMetricsF(painter.font()).horizontalAdvance(text)
                if x - 2 > right:
                    painter.setPen(t.warning if wrong else t.ink if word.kind else t.muted)
                    painter.drawText(QPointF(x - 2, top + 11), text)
                    right = x + width + 3

    def _curve(self, painter: QPainter, one: PerformedSet, rows: list[tuple[float, int]]) -> None:
        """How long a count was, round by round: to the left quicker, to the right slower than most."""
        count, lengths = one.count_length, dict(one.count_lengths)
        if count is None or not rows:
            return
        t = self._theme
        far = max(_CURVE_LEAST * count, *(abs(length - count) for length in lengths.values()))
        middle = self.width - _CURVE / 2 - 18
        points = [
            (QPointF(middle + (lengths[start] - count) / far * (_CURVE / 2 - 34), top + _TOP + 8), lengths[start])
            for top, k in rows
            if (start := one.rounds[k][0].start) in lengths
        ]
        painter.setPen(QPen(t.rule, 1))
        painter.drawLine(QPointF(middle, rows[0][0] + 4), QPointF(middle, rows[-1][0] + _ROW - 6))
        painter.setPen(QPen(t.accent, 1.6))
        for (here, _), (there, _) in pairwise(points):
            painter.drawLine(here, there)
        painter.setFont(font(8.5))
        painter.setPen(t.muted)
        painter.drawText(QRectF(middle - 60, rows[0][0] - 18, 120, 16), Qt.AlignmentFlag.AlignHCenter, "a count lasted")
        for point, length in points:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.accent)
            painter.drawEllipse(point, 2.5, 2.5)
            painter.setPen(t.muted)
            box = QRectF(self.width - 46, point.y() - 9, 42, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{length:.2f} s")


def _span(phases: tuple[PerformedPhase, ...]) -> tuple[float, float]:
    last = phases[-1]
    return phases[0].start, last.until if last.until is not None and last.until - last.words[
        -1
    ].end < 4 else last.words[-1].end


def _pattern(one: PerformedSet) -> str:
    pattern = ", ".join(f"{kind.plain} {counts}" for kind, counts in one.pattern)
    count = "" if one.count_length is None else f", a count {one.count_length:.3f} s"
    return f"{pattern}, {pluralize(len(one.rounds), 'round')}{count}"
