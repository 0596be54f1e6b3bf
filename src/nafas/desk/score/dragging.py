"""What is pulled on the page: the edge of a phase, the foot of a set, the pause after a sentence."""

from fractions import Fraction

from PySide6.QtCore import QObject, QPointF, Qt, Signal

from nafas.score.hit_test import Edge, Pause, edge_at, pause_at
from nafas.score.layout import Layout
from nafas.score.row import ROUND, Row

_A_SECOND = 24.0  # px the pointer goes for a second of a pause
_TENTH = Fraction(1, 10)
_LONGEST = 60
"""Seconds to which a pause is pulled; a longer one is typed."""


class Dragging(QObject):
    """One drag at a time.

    Signals:
        counts: (block, round, phase, counts) while the edge of a phase is pulled.
        rounds: (block, more) while the foot of a set is pulled: rounds more than before the last one.
        pause: (Pause, seconds) while a pause is pulled.
        ended: what was pulled is one step of undo.
    """

    counts = Signal(int, int, int, int)
    rounds = Signal(int, int)
    pause = Signal(object, object)
    ended = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._what: Edge | Pause | int | None = None
        self._begun = QPointF()
        self._last: int | Fraction = 0

    @property
    def active(self) -> bool:
        """Whether something is being pulled."""
        return self._what is not None

    @staticmethod
    def under(layout: Layout, row: Row, x: float, y: float) -> Edge | Pause | int | None:
        """What can be pulled at a point: a phase's edge, a pause, or a set by its foot (the set's place)."""
        handle: Edge | Pause | None = edge_at(layout, row, x, y) or pause_at(layout, row, x, y)
        return row.block.index if handle is None and row.kind == "foot" else handle

    @staticmethod
    def cursor(what: Edge | Pause | int | None) -> Qt.CursorShape:
        """The pointer's shape over it."""
        if what is None:
            return Qt.CursorShape.ArrowCursor
        return Qt.CursorShape.SizeVerCursor if isinstance(what, int) else Qt.CursorShape.SizeHorCursor

    def begin(self, what: Edge | Pause | int, x: float, y: float) -> None:
        """Take hold of something."""
        self._what, self._begun = what, QPointF(x, y)
        self._last = what.size if isinstance(what, Edge) else what.seconds if isinstance(what, Pause) else 0

    def move(self, x: float, y: float) -> None:
        """The pointer has gone to a place of the page."""
        what, right, down = self._what, x - self._begun.x(), y - self._begun.y()
        if isinstance(what, Edge):
            size = max(1 if what.size else 0, what.size + round(right / what.unit))
            if size != self._last:
                self._last = size
                self.counts.emit(what.block, what.round, what.phase, size)
        elif isinstance(what, Pause):
            tenths = round((float(what.seconds) + right / _A_SECOND) * 10)
            seconds = min(max(tenths, 0) * _TENTH, max(what.seconds, Fraction(_LONGEST)))
            if abs(right) > 3 and seconds != self._last:
                self._last = seconds
                self.pause.emit(what, seconds)
        elif what is not None:
            more = round(down / ROUND)
            if more != self._last:
                self.rounds.emit(what, more - int(self._last))
                self._last = more

    def end(self) -> None:
        """Let go."""
        if self._what is not None:
            self._what = None
            self.ended.emit()
