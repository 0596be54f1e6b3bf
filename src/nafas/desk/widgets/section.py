"""A group of fields under a heading that folds: the heading stays, with a few words of what is folded away."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFormLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import fill
from nafas.drawing.theme import theme

_ARROW = 16  # px


class _Head(QPushButton):
    """The heading; Space and Enter fold and unfold as a click does."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("fold")
        self.title, self.summary = title, ""
        self.setCheckable(True)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(100, self.fontMetrics().height() + 14)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        colours, middle = theme(), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        box = self.rect().adjusted(0, 6, 0, 0)
        if self.hasFocus():
            painter.fillRect(box, colours.chosen)
        painter.setPen(colours.accent if self.underMouse() else colours.muted)
        used = self.font()
        used.setBold(True)
        painter.setFont(used)
        painter.drawText(box, middle, "\N{BLACK DOWN-POINTING SMALL TRIANGLE}" if self.isChecked() else "\u25b8")
        painter.drawText(box.adjusted(_ARROW, 0, 0, 0), middle, self.title)
        if self.isChecked() or not self.summary:
            return
        left = _ARROW + painter.fontMetrics().horizontalAdvance(self.title) + 10
        used.setBold(False)
        painter.setFont(used)
        painter.setPen(colours.muted)
        room = box.width() - left
        text = painter.fontMetrics().elidedText(self.summary, Qt.TextElideMode.ElideRight, room)
        painter.drawText(box.adjusted(left, 0, 0, 0), middle, text)


class Section(QWidget):
    """Opens by itself where what it holds matters, unless the person has folded or opened it.

    Signals:
        opened: it was unfolded, by hand or by itself.
    """

    opened = Signal()

    def __init__(self, title: str) -> None:
        super().__init__()
        self.head = _Head(title)
        self.head.setAccessibleName(title)
        self.body = QWidget()
        self.form = QFormLayout(self.body)
        self.form.setContentsMargins(0, 0, 0, 4)
        fill(QVBoxLayout(self), self.head, self.body, spacing=4, margins=(0, 0, 0, 0))
        self._by_hand = False
        self.head.clicked.connect(self._clicked)
        self._set_open(False)

    @property
    def is_open(self) -> bool:
        return self.head.isChecked()

    def show_relevant(self, matters: bool, summary: str) -> None:
        """Say what is inside, and open where it matters."""
        if self.head.summary != summary:
            self.head.summary = summary
            self.head.setAccessibleDescription(summary)
            self.head.update()
        if not self._by_hand and matters != self.is_open:
            self._set_open(matters)

    def _clicked(self, on: bool) -> None:
        self._by_hand = True
        self._set_open(on)

    def _set_open(self, on: bool) -> None:
        self.head.setChecked(on)
        self.body.setVisible(on)
        if on:
            self.opened.emit()
