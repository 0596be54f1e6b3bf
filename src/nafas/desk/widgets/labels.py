"""Text on the screen. What a person or a file wrote is shown as it is written; only our own words carry marks.

Qt guesses whether a text is HTML, and a title may look like it: `<img src=...>` would be fetched. So every label, tip
and message box of the program is made here, and a test looks for any that is not.
"""

from html import escape
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel, QListWidgetItem, QMessageBox, QWidget

from nafas.desk.marks import message_mark
from nafas.drawing.theme import font, theme

__all__ = ["Label", "RichLabel", "WrappedLabel", "escape", "message_box", "set_tip", "tip_of"]


class Label(QLabel):
    """A label of plain text."""

    def __init__(self, text: str = "", **properties: Any) -> None:
        super().__init__(**properties)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class WrappedLabel(Label):
    """Plain text that wraps and is as high as all of it needs: a form inside something that scrolls asks for the height
    at one width and shows it at another."""

    def __init__(self, text: str = "", **properties: Any) -> None:
        super().__init__(text, **properties)
        self.setWordWrap(True)
        self.setAlignment(Qt.AlignmentFlag.AlignTop)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._grow()

    def setText(self, text: str) -> None:
        super().setText(text)
        self._grow()

    def _grow(self) -> None:
        self.setMinimumHeight(max(0, self.heightForWidth(self.width())) if self.wordWrap() else 0)


class RichLabel(QLabel):
    """A label of our own marks; whatever else stands in its text goes through `escape` first."""

    def __init__(self, text: str = "", **properties: Any) -> None:
        super().__init__(**properties)
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setText(text)


def set_tip(shown: QWidget | QListWidgetItem, text: str) -> None:
    """Give something a tip of plain text."""
    shown.setToolTip(tip_of(text))


def tip_of(text: str) -> str:
    """Plain text as Qt's tips take it; it wraps where it is long."""
    lines = escape(text).replace("\n", "<br>")
    return f"<span>{lines}</span>" if text else ""


_MARKS = {
    QMessageBox.Icon.Question: "?",
    QMessageBox.Icon.Information: "i",
    QMessageBox.Icon.Warning: "!",
    QMessageBox.Icon.Critical: "!",
}
_GRAVE = (QMessageBox.Icon.Warning, QMessageBox.Icon.Critical)


def message_box(icon: QMessageBox.Icon, title: str, text: str, more: str, parent: QWidget | None) -> QMessageBox:
    """A message box of plain text, without buttons yet; `more` stands below in smaller letters."""
    box = QMessageBox(parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    letter = _MARKS.get(icon)
    if letter is not None:
        colour = theme().warning if icon in _GRAVE else theme().accent
        box.setIconPixmap(message_mark(letter, colour, font(17, bold=True)))
    box.setWindowTitle(title)
    box.setText(text)
    box.setInformativeText(more)
    for label in box.findChildren(QLabel):  # the box's format is that of its first text alone
        label.setTextFormat(Qt.TextFormat.PlainText)
    return box
