"""A word of the page being retyped where it stands."""

from PySide6.QtCore import QRect, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit, QWidget


class WordEditor(QLineEdit):
    """A line over the page. Enter or leaving it takes the words. Escape ends it: what was written at length is taken
    all the same, and undo takes it out again; a word that was retyped stays as it was.

    Signals:
        done: (what was edited, the words, whether to write on).
        as_set: the same, with Ctrl+Enter: they are to become a set.
    """

    done = Signal(object, str, bool)
    as_set = Signal(object, str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._page = parent
        self.setAccessibleName("Words")
        self._target: object = None
        self._last: object = None
        self._before = ""
        self._keeps = self._refused = False
        self.textEdited.connect(self._changed)
        self.hide()

    @property
    def target(self) -> object:
        """What is edited; None when nothing is."""
        return self._target

    def _changed(self) -> None:
        self._refused = False

    def begin(self, target: object, text: str, area: QRect, keeps: bool = False) -> None:
        """Stand over an area with its words; `keeps`: Escape takes what was written."""
        self._target, self._before = target, text
        self._keeps, self._refused = keeps, False
        self.setText(text)
        self.setGeometry(area)
        self.selectAll()
        self.show()
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def _end(self, take: bool, on: bool = True) -> None:
        if self._target is None:
            return
        target, self._target = self._target, None
        self._last = target
        self.hide()
        self._page.setFocus()
        if take and self.text() != self._before:
            self.done.emit(target, self.text(), on)

    def again(self) -> None:
        """The words could not be taken: stand there with them once more, so that they are fixed and not lost."""
        self._target, self._refused = self._last, True
        self.show()
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            target, text = self._target, self.text()
            self._end(take=False)
            self.as_set.emit(target, text)
        elif enter:
            self._end(take=True)
        elif event.key() == Qt.Key.Key_Escape:
            self._end(take=self._keeps and not self._refused, on=False)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._end(take=True)
