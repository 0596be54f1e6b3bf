"""The rounds of a performance on the screen; a click on a round says where in the recording it is."""

from functools import partial

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.drawing.rounds import RoundsDrawing
from nafas.drawing.theme import theme
from nafas.script.performed import PerformedPhase, PerformedSet
from nafas.timing.clock import clock


class RoundsPicture(QWidget):
    """Signals: seek: a time of the recording that was clicked."""

    seek = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Rounds heard in the recording")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._sets: tuple[PerformedSet, ...] = ()
        self._faults: tuple[float, ...] = ()

    def show_sets(self, sets: tuple[PerformedSet, ...], faults: tuple[float, ...]) -> None:
        """Show what was performed, and the times at which something is wrong."""
        self._sets, self._faults = sets, faults
        self.setMinimumHeight(self._drawing().height)
        self.updateGeometry()
        self.update()

    def _drawing(self) -> RoundsDrawing:
        return RoundsDrawing(self._sets, self._faults, self.width(), theme())

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds in it: every round with its phases, and the faults."""
        rounds = [
            (one[0].start, f"set {n}, round {m} at {clock(one[0].start)}: {_words(one)}")
            for n, set_ in enumerate(self._sets, 1)
            for m, one in enumerate(set_.rounds, 1)
        ]
        faults = [(at, f"fault at {clock(at)}") for at in self._faults]
        return [SpokenPart(name, choose=partial(self.seek.emit, at)) for at, name in [*rounds, *faults]]

    def sizeHint(self) -> QSize:
        return QSize(640, self._drawing().height)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self._drawing().time_at(event.position())
        if at is not None:
            self.seek.emit(at)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        self._drawing().paint(painter)


def _words(one: tuple[PerformedPhase, ...]) -> str:
    return ", ".join(f"{phase.kind.value.replace('-', ' ')} {phase.counts}" for phase in one)
