"""A round as a small picture: its line, the chosen phase, where its parts meet and where calls fall."""

from collections.abc import Sequence
from fractions import Fraction

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from nafas.desk.widgets.reading_list import draw_round
from nafas.drawing.theme import theme
from nafas.script import PhaseKind

_HEIGHT = 34


class RoundPicture(QWidget):
    """Drawn as wide as there is room."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.phases: tuple[tuple[PhaseKind, Fraction], ...] = ()
        self.chosen: int | None = None
        self.joints: tuple[float, ...] = ()
        self.calls: tuple[float, ...] = ()

    def show_round(
        self,
        phases: Sequence[tuple[PhaseKind, Fraction]],
        chosen: int | None = None,
        joints: Sequence[float] = (),
        calls: Sequence[float] = (),
    ) -> None:
        """Show a round.

        Args:
            phases: each with its seconds.
            chosen: the place of the phase that is meant.
            joints, calls: where its parts meet, and where calls fall, as shares of it.
        """
        self.phases, self.chosen = tuple(phases), chosen
        self.joints, self.calls = tuple(joints), tuple(calls)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(160, _HEIGHT)

    def minimumSizeHint(self) -> QSize:
        return QSize(60, _HEIGHT)

    def paintEvent(self, event: QPaintEvent) -> None:
        total = float(sum(seconds for _, seconds in self.phases))
        if not total:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(1, 6, self.width() - 2, _HEIGHT - 12)
        draw_round(painter, box, self.phases)
        if self.chosen is None or not 0 <= self.chosen < len(self.phases):
            return
        begin = float(sum(seconds for _, seconds in self.phases[: self.chosen])) / total * box.width() + box.left()
        width = float(self.phases[self.chosen][1]) / total * box.width()
        colours = theme()
        painter.setPen(QPen(colours.ink, 1))
        for share in self.joints:
            x = begin + share * width
            painter.drawLine(QPointF(x, box.bottom() - 4), QPointF(x, box.bottom() + 5))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colours.accent)
        for share in self.calls:
            painter.drawEllipse(QPointF(begin + share * width, box.top() + box.height() / 2), 3, 3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colours.accent, 2))
        painter.drawRoundedRect(QRectF(begin, box.top() - 3, width, box.height() + 6), 3, 3)
