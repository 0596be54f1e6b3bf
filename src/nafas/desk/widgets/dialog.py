"""A dialog that is never larger than its screen: what it holds scrolls where the screen is low."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QDialog, QFrame, QLayout, QScrollArea, QVBoxLayout, QWidget

_FRAME = 36  # px of a window's title and edges, where the desktop has not said


class Dialog(QDialog):
    """A dialog that stays on its screen."""

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
