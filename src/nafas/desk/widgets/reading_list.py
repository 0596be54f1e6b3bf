"""The list under the quick entry: how a line is read, drawn and in words, and what else it could be."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from nafas.drawing.theme import font, theme
from nafas.script import PhaseKind
from nafas.script.notation.typed.echo import Span
from nafas.timing.preview import Preview

ROW, PICTURE, WIDTH, ECHO = 58, 92, 520, 26
_PAD = 10


@dataclass(frozen=True)
class Offered:
    """A row.

    Attributes:
        title: the notation, or a name.
        about: lengths in words.
        words: what is said, or what to do.
        note: what was assumed.
        previews: of its blocks, to be drawn.
        value: what taking it gives.
        unused: what was typed that it does not use.
        typed, spans: the line, and what its words are.
    """

    title: str
    about: str = ""
    words: str = ""
    note: str = ""
    previews: tuple[Preview, ...] = ()
    value: Any = None
    unused: str = ""
    typed: str = ""
    spans: tuple[Span, ...] = ()


class ReadingRow(QWidget):
    """One way to read the line."""

    chosen = Signal()

    def __init__(self, offered: Offered) -> None:
        super().__init__()
        self.offered = offered
        self.marked = False
        unused = f"not used: {offered.unused}. " if offered.unused else ""
        self.setAccessibleName(f"{offered.title}, {offered.about}. {unused}{offered.words}")
        self.setFixedHeight(ROW)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, ROW)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours, shown = theme(), self.offered
        if self.marked:
            painter.fillRect(self.rect(), colours.chosen)
            painter.fillRect(QRectF(0, 0, 3, ROW), colours.accent)
        if shown.previews:
            draw_round(painter, QRectF(_PAD, 14, PICTURE - 2 * _PAD, ROW - 28), shown.previews[0].phases)
        left = PICTURE if shown.previews else 2 * _PAD
        width = self.width() - left - _PAD
        bold, small = font(11, bold=True), font(9.5)
        about = QFontMetricsF(small).horizontalAdvance(shown.about)
        self._line(painter, bold, colours.ink, QRectF(left, 6, width - about - 12, 24), shown.title)
        painter.setFont(small)
        painter.setPen(colours.muted)
        painter.drawText(QRectF(left, 6, width, 24), _RIGHT, shown.about)
        note = f"{shown.note}. " if shown.note else ""
        unused = f"Not used: {shown.unused}   " if shown.unused else ""
        taken = min(width, QFontMetricsF(small).horizontalAdvance(unused))
        self._line(painter, small, colours.warning, QRectF(left, 30, taken, 22), unused)
        self._line(painter, small, colours.muted, QRectF(left + taken, 30, width - taken, 22), note + shown.words)

    @staticmethod
    def _line(painter: QPainter, used: Any, colour: Any, box: QRectF, text: str) -> None:
        painter.setFont(used)
        painter.setPen(colour)
        elided = QFontMetricsF(used).elidedText(text.replace("\n", "   "), Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, _LEFT, elided)


_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


def draw_round(painter: QPainter, box: QRectF, phases: Sequence[tuple[PhaseKind, Fraction]]) -> None:
    """A round as a line: up while one breathes in, down while one breathes out, level in a hold."""
    total = float(sum(seconds for _, seconds in phases))
    if not total:
        return
    first = phases[0][0]
    level = 0.0 if first in (PhaseKind.INHALE, PhaseKind.HOLD_EMPTY) else 1.0
    x, colours = box.left(), theme()
    points = [QPointF(x, box.bottom() - level * box.height())]
    for kind, seconds in phases:
        width = float(seconds) / total * box.width()
        painter.fillRect(QRectF(x, box.top(), width, box.height()), colours.tint(kind))
        level = 1.0 if kind is PhaseKind.INHALE else 0.0 if kind is PhaseKind.EXHALE else level
        x += width
        points.append(QPointF(x, box.bottom() - level * box.height()))
    painter.setPen(QPen(colours.ink, 1.8, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.drawPolyline(QPolygonF(points))


class Echo(QWidget):
    """The typed line as the marked row reads it: words in the colours of their phases, what is not used struck out."""

    def __init__(self) -> None:
        super().__init__()
        self.offered = Offered("")
        self.setFixedHeight(ECHO)
        self.setAccessibleName("The line as it is read")

    def show_line(self, offered: Offered) -> None:
        self.offered = offered
        self.setAccessibleDescription(f"Not used: {offered.unused}" if offered.unused else "All of it is used")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, colours = QPainter(self), theme()
        plain_, struck = font(10.5), QFont(font(10.5))
        struck.setStrikeOut(True)
        metrics = QFontMetricsF(plain_)
        typed, at, x = self.offered.typed, 0, 2.0 * _PAD
        pieces: list[tuple[str, Span | None]] = []
        for span in self.offered.spans:
            pieces += [(typed[at : span.begin], None), (typed[span.begin : span.end], span)]
            at = span.end
        for text, of in [*pieces, (typed[at:], None)]:
            width = metrics.horizontalAdvance(text)
            used = of is None or of.used
            if of is not None and of.kind is not None:
                painter.fillRect(QRectF(x - 1, 5, width + 2, ECHO - 8), colours.tint(of.kind))
            painter.setFont(plain_ if used else struck)
            painter.setPen(colours.ink if used else colours.warning)
            painter.drawText(QRectF(x, 2, width + 4, ECHO - 2), _LEFT, text)
            x += width


class ReadingList(QFrame):
    """Rows under a field, over whatever lies there; the field keeps the keyboard.

    Signals:
        taken: the value of a row that was clicked.
    """

    taken = Signal(object)

    def __init__(self, field: QWidget) -> None:
        super().__init__(field.window())
        self.setObjectName("readings")
        self._field = field
        self.rows: list[ReadingRow] = []
        self._marked = 0
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(1, 1, 1, 1)
        self._box.setSpacing(0)
        self.echo = Echo()
        self._box.addWidget(self.echo)
        self.hide()

    @property
    def marked(self) -> Offered | None:
        """The row that Enter takes."""
        return self.rows[self._marked].offered if self.isVisible() and self.rows else None

    def show_rows(self, offered: Sequence[Offered]) -> None:
        """Show rows, the first one marked; none hides the list."""
        for row in self.rows:
            self._box.removeWidget(row)
            row.hide()
            row.deleteLater()
        self.rows = [ReadingRow(each) for each in offered]
        for row in self.rows:
            row.chosen.connect(lambda row=row: self.taken.emit(row.offered.value))
            self._box.addWidget(row)
        self.echo.setVisible(any(each.spans for each in offered))
        self._mark(0)
        self.setVisible(bool(self.rows))
        if self.rows:
            self._place()

    def move_mark(self, by: int) -> None:
        """Mark the next row, or the one before."""
        if self.rows:
            self._mark((self._marked + by) % len(self.rows))

    def _mark(self, index: int) -> None:
        self._marked = index
        for number, row in enumerate(self.rows):
            row.marked = number == index
            row.update()
        if self.rows:
            self.echo.show_line(self.rows[index].offered)

    def _place(self) -> None:
        window = self._field.window()
        if self.parentWidget() is not window:
            self.setParent(window)
            self.show()
        corner = self._field.mapTo(window, self._field.rect().bottomLeft())
        width = min(max(WIDTH, self._field.width()), window.width() - 16)
        left = max(8, min(corner.x(), window.width() - width - 8))
        high = ROW * len(self.rows) + ECHO * (not self.echo.isHidden()) + 2
        self.setGeometry(left, corner.y() + 3, width, high)
        self.raise_()
