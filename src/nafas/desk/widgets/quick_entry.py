"""One line to type a breath into, in whatever words: what it is read as is shown while one types."""

from collections.abc import Callable
from fractions import Fraction
from typing import NamedTuple

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.labels import Label
from nafas.desk.widgets.reading_list import Offered, ReadingList
from nafas.library.entry import LibraryEntry
from nafas.library.named import named
from nafas.library.own import own, shipped
from nafas.script import Block, Session, block_notation
from nafas.script.edits.session_edits import block_name
from nafas.script.notation.typed.changes import changed
from nafas.script.notation.typed.echo import spans
from nafas.script.notation.typed.interpret import Interpretation, Reading, interpret
from nafas.timing.preview import preview

_LEAST_LETTERS, _MOST_NAMES = 3, 3
_NARROW, TYPING, MESSAGE = 120, 430, 420
"""Pixels of the field, of the field while it is typed in (a line of 60 letters), and of a message under it."""


class Changed(NamedTuple):
    """The chosen block, changed."""

    block: Block


class QuickEntry(QWidget):
    """Type a breath, press Enter. Under the line: how it is read, and other ways, by the arrow keys; where a part of it
    is not understood, what is not used; where nothing is, what is at fault and lines that Tab takes. A line that is
    refused stays.

    Signals:
        entered: the blocks of a reading.
        named: a library entry chosen by its name.
        changed: the chosen block as the line asks to change it.
        resized: the field became wider or narrower.
    """

    entered = Signal(object)
    named = Signal(object)
    changed = Signal(object)
    resized = Signal()

    def __init__(self, session: Callable[[], Session] = Session) -> None:
        super().__init__()
        self.session = session
        self.chosen: Callable[[], Block | None] = lambda: None
        """The block that is selected by itself; a line may ask to change it."""
        self.line = QLineEdit()
        self.line.setAccessibleName("Quick entry: type a breath")
        self.line.setPlaceholderText("Type a breath: box for 5 min")
        self.line.setMinimumWidth(_NARROW)
        self.line.returnPressed.connect(self._enter)
        self.line.textEdited.connect(self._read)
        self.line.installEventFilter(self)
        self.fault = Label(objectName="entryFault", wordWrap=True)
        self.fault.setMargin(6)
        self.fault.hide()
        fill(QVBoxLayout(self), self.line, margins=(0, 0, 0, 0))
        self.list: ReadingList | None = None
        self._read_as = Interpretation(())

    def _read(self, text: str) -> None:
        """Show how the line is read as far as it stands. Nobody is told off while still typing."""
        self._say("")
        self._list().show_rows(self._rows(text))

    def _rows(self, text: str) -> list[Offered]:
        """What the line may become, the likeliest first: all of it as read, a name, a part of it, other lines."""
        self._read_as = interpret(text, self.session().count_length) if text.strip() else Interpretation(())
        rows = [row for row in map(self._row, self._read_as.ways) if row is not None]
        names = [Offered(e.name, "library", e.about, value=e) for e in _named(text, self.session().count_length)]
        offers = [Offered(offer, "Tab", "Did you mean this? Press Tab.", value=offer) for offer in self._read_as.offers]
        if self._read_as.readings:
            return [*rows, *names]
        return [*self._changes(text), *names, *(rows or offers)]

    def _changes(self, text: str) -> list[Offered]:
        """The chosen block as the line asks to change it, where it does."""
        block = self.chosen()
        if block is None:
            return []
        try:
            new = changed(block, text, self.session().count_length)
            if new is None or new == block:
                return []
            shown = preview(new, self.session())
        except ValueError as error:
            return [Offered(str(error).partition(";")[0][:80], "", "The chosen block stays as it is", value=text)]
        title = f"{block_name(block) or 'This block'}: {block_notation(new)}"
        about, marks = f"instead of {block_notation(block)}", tuple(spans(text))
        return [Offered(title, shown.summary, about, "", (shown,), Changed(new), "", text, marks)]

    def _row(self, reading: Reading) -> Offered | None:
        try:
            shown = tuple(preview(block, self.session()) for block in reading.blocks)
        except ValueError:
            return None
        said = " \N{MIDDLE DOT} ".join(shown[0].words)
        words = f"Says {said}" if said else ""
        about = ", ".join(each.summary for each in shown)
        text = self.line.text()
        marks = tuple(spans(text, reading.left_out))
        return Offered(reading.notation, about, words, reading.note, shown, reading, reading.unused, text, marks)

    def _list(self) -> ReadingList:
        if self.list is None:
            self.list = ReadingList(self.line)
            self.list.taken.connect(self._take)
        return self.list

    def _enter(self) -> None:
        text = self.line.text()
        marked = self.list.marked if self.list is not None else None
        first = next(iter(self._rows(text)), None) if marked is None else marked
        if first is not None and not isinstance(first.value, str):
            self._take(first.value)
            return
        fault = self._read_as.fault
        if fault is not None:
            offered = f" Tab writes {self._read_as.offers[0]}" if self._read_as.offers else ""
            self._say(f"{fault.problem}: {fault.remedy}.{offered}")
            # The cursor goes where the mistake is, marked where there is a character to mark.
            self.line.setCursorPosition(fault.column)
            if fault.column < len(text):
                self.line.setSelection(fault.column, 1)

    def _take(self, value: object) -> None:
        """Take a row: a reading, a library entry, or a line to go on with."""
        if isinstance(value, str):
            self.line.setText(value)
            self._read(value)
            return
        self._list().show_rows([])
        self._say("")
        self.line.clear()
        if isinstance(value, LibraryEntry):
            self.named.emit(value)
        elif isinstance(value, Reading):
            self.entered.emit(list(value.blocks))
        elif isinstance(value, Changed):
            self.changed.emit(value.block)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self.line.setMinimumWidth(TYPING if event.type() is QEvent.Type.FocusIn else _NARROW)
            self._say("")
            self.resized.emit()
        if event.type() is QEvent.Type.FocusOut and self.list is not None:
            self.list.hide()
        if isinstance(event, QKeyEvent) and event.type() is QEvent.Type.KeyPress and self._key(event.key()):
            return True
        return super().eventFilter(watched, event)

    def _key(self, key: int) -> bool:
        """Arrow keys, Tab and Escape belong to the list while it is there."""
        keys, shown = Qt.Key, self.list is not None and self.list.isVisible()
        if key == keys.Key_Tab and self.line.text().strip() and not self._read_as.ways and self._read_as.offers:
            self._take(self._read_as.offers[0])
            return True
        if not shown or self.list is None:
            return False
        if key in (keys.Key_Down, keys.Key_Up):
            self.list.move_mark(1 if key == keys.Key_Down else -1)
            return True
        if key == keys.Key_Escape:
            self.list.show_rows([])
            return True
        return False

    def _say(self, message: str) -> None:
        """Show a message under the line, over what lies there, so that nothing moves; "" hides it."""
        self.fault.setText(message[:1].upper() + message[1:])
        if message:
            window = self.line.window()
            self.fault.setParent(window)
            corner = self.line.mapTo(window, self.line.rect().bottomLeft())
            width = max(self.line.width(), MESSAGE)
            left = max(8, min(corner.x(), window.width() - width - 8))
            self.fault.setGeometry(left, corner.y() + 3, width, self.fault.heightForWidth(width))
            self.fault.raise_()
        self.fault.setVisible(bool(message))


def _named(text: str, count_length: Fraction) -> list[LibraryEntry]:
    """Patterns of the library whose name begins with these words or has them in it, or which the line names."""
    wanted = text.strip().casefold()
    if sum(letter.isalpha() for letter in wanted) < _LEAST_LETTERS:
        return []
    every = [kept.entry for kept in (*own()[0], *shipped()) if kept.entry.block is not None]
    begun = [entry for entry in every if wanted in entry.name.casefold()]
    begun.sort(key=lambda entry: not entry.name.casefold().startswith(wanted))
    names = {entry.name for entry in begun}
    said = [entry for entry in named(text, every, count_length) if entry.name not in names]
    return [*begun, *said][:_MOST_NAMES]
