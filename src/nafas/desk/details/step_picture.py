"""The steps of a set as a small picture: a bar for each, as long as its round, in the colours of its phases."""

from fractions import Fraction

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from nafas.drawing.theme import theme
from nafas.script import BreathSet, PhaseKind, expand

_BAR, _GAP, _MOST = 9, 3, 10


class StepPicture(QWidget):
    """At most ten bars; of more, the first ones and the last."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.steps: list[list[tuple[PhaseKind, float]]] = []
        self.setAccessibleName("Steps")

    def show_steps(self, block: BreathSet, count_length: Fraction) -> None:
        """Show a set's steps."""
        by_key: dict[tuple[int, Fraction], list[tuple[PhaseKind, float]]] = {}
        for one in expand(block, count_length):
            key = (one.step, one.count_length)
            by_key.setdefault(key, [(p.kind, float(p.length(one.count_length))) for p in one.phases])
        steps = list(by_key.values())
        self.steps = steps if len(steps) <= _MOST else [*steps[: _MOST - 1], steps[-1]]
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(160, max(1, len(self.steps)) * (_BAR + _GAP))

    def minimumSizeHint(self) -> QSize:
        return QSize(60, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        longest = max((sum(seconds for _, seconds in step) for step in self.steps), default=0.0)
        if not longest:
            return
        for number, step in enumerate(self.steps):
            x, y = 0.0, number * (_BAR + _GAP)
            for kind, seconds in step:
                width = seconds / longest * (self.width() - 1)
                painter.fillRect(QRectF(x, y, width, _BAR), theme().tint(kind).darker(108))
                painter.fillRect(QRectF(x, y, 1, _BAR), theme().muted)
                x += width
