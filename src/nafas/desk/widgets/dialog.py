"""A dialog that is never larger than its screen: what it holds scrolls where the screen is low."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QDialog, QFrame, QLayout, QScrollArea, QVBoxLayout, QWidget

from nafas.desk.handbook.window import Handbook

_FRAME = 36  # px of a window's title and edges, where the desktop has not said


class Dialog(QDialog):
    """A dialog that stays on its screen. F1 opens the handbook at its place.

    Attributes:
        help_place: the page and heading about it, such as "takes#The room".
    """

    help_place = "tour"
    _inner: QWidget | None = None  # what scrolls, once anything does

    def contents(self) -> QLayout:
        """The layout of what it holds, whether it scrolls or not."""
        layout = (self._inner or self).layout()
        assert layout is not None
        return layout

    def stay_on_screen(self, wanted: QSize | None = None) -> None:
        """Take the size that is wanted, or keep the one there is, as far as the screen allows."""
        wanted = self.size() if wanted is None else wanted
        room = self.screen().availableGeometry().size() - QSize(0, _FRAME)
        least = self.contents().minimumSize().expandedTo(self.minimumSize())
        if self._inner is None and (least.height() > room.height() or least.width() > room.width()):
            self.setMinimumSize(0, 0)
            self._put_in_scroll(least)
        if wanted != self.size() or wanted.boundedTo(room) != wanted:
            self.resize(wanted.boundedTo(room))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_F1 and not event.modifiers():
            self.handbook = Handbook(self)
            self.handbook.show_place(self.help_place)
            self.handbook.show()
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.stay_on_screen()

    def _put_in_scroll(self, least: QSize) -> None:
        layout = self.contents()
        self._inner = inner = QWidget()
        inner.setLayout(layout)  # takes its widgets along
        inner.setMinimumWidth(least.width())
        scroll = QScrollArea()
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setWidget(inner)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        scroll.show()  # at once, where the dialog is shown already
