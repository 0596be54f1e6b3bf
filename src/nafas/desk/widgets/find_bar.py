"""Find in the script: titles, words and notation."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.labels import Label
from nafas.script import Session
from nafas.script.edits.session_edits import find_text


class FindBar(QWidget):
    """A line above the score. Enter goes to the next place, Shift+Enter back, Escape closes.

    Signals:
        found: the place of a block.
        closed: it was closed.
    """

    found = Signal(int)
    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 2, 14, 4)
        self.line = QLineEdit()
        self.line.setAccessibleName("Find in titles, words and notation")
        self.line.setPlaceholderText("Find in titles, words and notation")
        self.line.textEdited.connect(lambda _: self._go(0))
        self.count = Label(objectName="muted")
        self.count.setMinimumWidth(90)
        row.addWidget(self.line, 1)
        row.addWidget(self.count)
        for text, by in (("Back", -1), ("Next", 1)):
            button = Button(text, lambda _=False, by=by: self._go(by))
            row.addWidget(button)
        close = Button("Close", self.end)
        row.addWidget(close)
        self._session = Session()
        self._at = -1
        self.hide()

    def begin(self, session: Session, at: int) -> None:
        """Open for a session, looking onward from block `at`."""
        self._session, self._at = session, at
        self.show()
        self.line.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.line.selectAll()

    def show_session(self, session: Session) -> None:
        self._session = session

    def end(self) -> None:
        self.hide()
        self.closed.emit()

    def _go(self, by: int) -> None:
        """To the next (1) or last (-1) place; 0 stays where the text still stands."""
        places = find_text(self._session, self.line.text())
        if not places:
            self.count.setText("nowhere" if self.line.text().strip() else "")
            return
        if by >= 0:
            after = [index for index in places if index > self._at or (by == 0 and index == self._at)]
            self._at = (after or places)[0]
        else:
            before = [index for index in places if index < self._at]
            self._at = (before or places)[-1]
        self.count.setText(f"{places.index(self._at) + 1} of {len(places)}")
        self.found.emit(self._at)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.end()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._go(-1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
        else:
            super().keyPressEvent(event)
