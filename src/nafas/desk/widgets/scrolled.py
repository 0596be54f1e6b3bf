"""A column of parts that scrolls up and down where it is higher than its place."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import fill


class Squeezed(QWidget):
    """As narrow as its place: nothing of it is cut off on the right, where nobody could scroll to."""

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())


def scrolled_column(owner: QWidget) -> QVBoxLayout:
    """Fill a side of a view with such a column; what is added to the layout stands in it."""
    inner = Squeezed()
    box = QVBoxLayout(inner)
    box.setContentsMargins(4, 6, 12, 8)
    box.setSpacing(6)
    scroll = QScrollArea()
    scroll.setWidgetResizable(True)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    scroll.setWidget(inner)
    fill(QVBoxLayout(owner), scroll, margins=(0, 0, 0, 0))
    return box
