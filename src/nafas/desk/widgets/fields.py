"""Small form fields that check what is typed and change nothing until it is right; the fault is said below them."""

import time
from collections.abc import Callable

from PySide6.QtCore import QMimeData, Qt, QTimer, Signal
from PySide6.QtGui import QFocusEvent, QWheelEvent
from PySide6.QtWidgets import (
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QSpinBox,
    QStyle,
    QStyleOptionComboBox,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.labels import Label, set_tip
from nafas.script.model.sentences import MAX_PARAGRAPHS, split_paragraph, whole_letters
from nafas.script.model.session import MAX_TEXT


class Checked(QWidget):
    """An editor whose text is read by `parse`, with the words of a ValueError below it.

    Signals:
        changed: the value read, as soon as the text is right.
        left: the field was left.
    """

    changed = Signal(object)
    left = Signal()

    def __init__(self, editor: "QLineEdit | TextField", parse: Callable[[str], object], name: str, hint: str) -> None:
        super().__init__()
        editor.setAccessibleName(name)
        editor.setPlaceholderText(hint)
        self.fault = Label(objectName="fault", wordWrap=True)
        self.fault.hide()
        fill(QVBoxLayout(self), editor, self.fault, spacing=1, margins=(0, 0, 0, 0))
        self._parse = parse

    def _same(self, typed: str, text: str) -> bool:
        """Whether what is typed means the same as `text`, however it is written; or is not right yet."""
        try:
            return bool(self._parse(typed) == self._parse(text))
        except ValueError:
            return True

    def _read(self, text: str) -> None:
        try:
            value = self._parse(text)
        except ValueError as error:
            self._mark(message_of(error))
            return
        self._mark("")
        self.changed.emit(value)

    def _mark(self, message: str) -> None:
        self.fault.setText(message)
        self.fault.setVisible(bool(message))


class CheckedLine(Checked):
    """A line that is checked as it is typed."""

    def __init__(self, name: str, parse: Callable[[str], object], hint: str = "") -> None:
        self.line = QLineEdit()
        super().__init__(self.line, parse, name, hint)
        self.line.textEdited.connect(lambda text: self._read(whole_letters(text)))
        self.line.editingFinished.connect(self.left)

    def show_text(self, text: str) -> None:
        """Show a value from outside, unless the person is typing just that."""
        if self.line.hasFocus() and self._same(self.line.text(), text):
            return
        if self.line.text() != text:
            self.line.setText(text)
            self.line.setCursorPosition(0)
        self._mark("")

    def _mark(self, message: str) -> None:
        super()._mark(message)
        if self.line.property("fault") != bool(message):
            self.line.setProperty("fault", bool(message))
            self.line.style().polish(self.line)


def message_of(error: Exception) -> str:
    """The words of an error for people, without pydantic's frame around them."""
    from pydantic import ValidationError

    from nafas.errors import InputError
    from nafas.script.faults import first_fault

    if isinstance(error, ValidationError):
        return ": ".join(first_fault(error))

    if isinstance(error, InputError):
        return f"{error.problem}: {error.remedy}"
    return str(error)


LONGEST_WAIT = 2.0
"""Seconds after which words are handed over though the person goes on typing: recovery must not wait for a pause."""


class TextField(QPlainTextEdit):
    """Paragraphs, one a line; empty lines are passed over. A paragraph too long for one is handed over as several.

    Attributes:
        goes_on: more paragraphs than a block holds are taken: they go on in other blocks.

    Signals:
        changed: the paragraphs, when the person pauses or has typed for a while.
        left: the field was left.
        refused: what was pasted is more than a block can hold; nothing of it was put in. Words for the person.
    """

    changed = Signal(object)
    left = Signal()
    refused = Signal(str)

    def __init__(self, name: str, hint: str = "") -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setPlaceholderText(hint)
        self.setTabChangesFocus(True)
        self._quiet = self.goes_on = False
        # Speech is timed again for every change; wait until the person pauses.
        self._timer = QTimer(self, singleShot=True, interval=350)
        self._timer.timeout.connect(self._tell)
        self._since: float | None = None
        self.textChanged.connect(self._typed)

    def _typed(self) -> None:
        if self._quiet:
            return
        now = time.monotonic()
        self._since = self._since or now
        if now - self._since >= LONGEST_WAIT:
            self._tell()
        else:
            self._timer.start()

    def paragraphs(self) -> tuple[str, ...]:
        return _paragraphs(self.toPlainText())

    def insertFromMimeData(self, source: QMimeData) -> None:
        """Paste; more than a block can hold is refused whole, never cut."""
        pasted = _paragraphs(source.text())
        room = MAX_TEXT if self.goes_on else MAX_PARAGRAPHS - len(self.paragraphs())
        if len(pasted) > room or len(source.text()) > MAX_TEXT:
            self.refused.emit(
                f"Nothing was pasted: {len(pasted):,} paragraphs of {len(source.text()):,} characters are more than "
                f"a block holds ({MAX_PARAGRAPHS:,}; {MAX_TEXT:,}). Paste them on the page: they become several blocks."
            )
            return
        self.insertPlainText(source.text())

    def show_paragraphs(self, paragraphs: tuple[str, ...]) -> None:
        if self.paragraphs() != paragraphs:
            self.show_plain("\n\n".join(paragraphs))

    def show_plain(self, text: str) -> None:
        self._quiet = True
        self.setPlainText(text)
        self._quiet = False

    def _tell(self) -> None:
        self._timer.stop()
        self._since = None
        self.changed.emit(self.paragraphs())

    def flush(self) -> None:
        """Hand over what was typed last, now."""
        if self._timer.isActive():
            self._tell()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.flush()
        self.left.emit()
        super().focusOutEvent(event)


def _paragraphs(text: str) -> tuple[str, ...]:
    lines = (line.strip() for line in whole_letters(text).split("\n"))
    return tuple(piece for line in lines if line for piece in split_paragraph(line))


class ParsedText(Checked):
    """A few lines read together, once the person pauses."""

    def __init__(self, name: str, parse: Callable[[str], object], hint: str = "") -> None:
        self.edit = TextField(name, hint)
        super().__init__(self.edit, parse, name, hint)
        self.edit.setFixedHeight(96)
        self.edit.changed.connect(lambda _: self._read(self.edit.toPlainText()))
        self.edit.left.connect(self.left)

    def show_text(self, text: str) -> None:
        """Show a value from outside, unless what is typed says the same or is not right yet."""
        if self.edit.hasFocus() and self._same(self.edit.toPlainText(), text):
            return
        if self.edit.toPlainText() != text:
            self.edit.show_plain(text)
        self._mark("")

    def flush(self) -> None:
        """Hand over what was typed last, now."""
        self.edit.flush()


class ComboBox(QComboBox):
    """A list of choices that scrolling past it does not change."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()

    def initStyleOption(self, option: QStyleOptionComboBox) -> None:
        super().initStyleOption(option)
        part = QStyle.SubControl.SC_ComboBoxEditField
        room = self.style().subControlRect(QStyle.ComplexControl.CC_ComboBox, option, part, self).width()
        words = option.fontMetrics.elidedText(option.currentText, Qt.TextElideMode.ElideRight, room)
        if words != option.currentText:
            set_tip(self, option.currentText)
            option.currentText = words


class Choice(ComboBox):
    """A choice of values, each with its words."""

    chose = Signal(object)

    def __init__(self, name: str, *options: tuple[object, str]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self._values = [value for value, _ in options]
        self.addItems([words for _, words in options])
        self.activated.connect(lambda index: self.chose.emit(self._values[index]))

    def set_options(self, *options: tuple[object, str]) -> None:
        """Offer other values."""
        self._values = [value for value, _ in options]
        words = [each for _, each in options]
        if words != [self.itemText(index) for index in range(self.count())]:
            self.clear()
            self.addItems(words)

    def value(self) -> object:
        """The value that is chosen."""
        return self._values[self.currentIndex()]

    def show_value(self, value: object) -> None:
        if value in self._values:
            self.setCurrentIndex(self._values.index(value))


class Number(QSpinBox):
    """A whole number within bounds."""

    changed = Signal(int)

    def __init__(self, name: str, low: int, high: int) -> None:
        super().__init__()
        self.lineEdit().setTextMargins(5, 0, 0, 0)
        self.setAccessibleName(name)
        self.setRange(low, high)
        self.setKeyboardTracking(True)
        self._quiet = False
        self.valueChanged.connect(lambda value: None if self._quiet else self.changed.emit(value))

    def show_value(self, value: int) -> None:
        if self.value() != value:
            self._quiet = True
            self.setValue(value)
            self._quiet = False

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()
