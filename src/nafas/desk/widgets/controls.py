"""Buttons, ticks and lists with all that is said of them, and rows and columns of widgets, each made in one call."""

from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtCore import QEvent, Qt, SignalInstance
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QBoxLayout,
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QLayout,
    QListWidget,
    QPushButton,
    QStyle,
    QStyleOptionButton,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.widgets.labels import set_tip

Does = Callable[..., object] | SignalInstance | None
"""Called when a person has acted, or a signal that is sent on."""
Part = QWidget | QLayout | int | tuple[Any, ...] | None
"""A widget or a layout; a number of px; (widget, stretch) or (widget, stretch, alignment); None for room that grows."""


class Button(QPushButton):
    """A button.

    Args:
        text: on it.
        does: called when it is clicked.
        kind: by which the style sheet knows it: "primary", "small", "link" and so on.
        tip: shown under the pointer.
        name: for a screen reader, where the text does not say enough.
        auto: whether Enter may press it in a dialog.
    """

    def __init__(
        self,
        text: str = "",
        does: Does = None,
        *,
        kind: str = "",
        tip: str = "",
        name: str = "",
        auto: bool = True,
    ) -> None:
        super().__init__(text)
        _dress(self, kind, tip, name)
        if not auto:
            self.setAutoDefault(False)
        if does is not None:
            self.clicked.connect(does)

    def initStyleOption(self, option: QStyleOptionButton) -> None:
        super().initStyleOption(option)
        _cut(self, option, QStyle.SubElement.SE_PushButtonContents)


class Tick(QCheckBox):
    """A box to tick; `does` is called when a person ticks it. The rest as for a `Button`."""

    def __init__(self, text: str = "", does: Does = None, *, tip: str = "", name: str = "") -> None:
        super().__init__(text)
        _dress(self, "", tip, name)
        if does is not None:
            self.clicked.connect(does)

    def initStyleOption(self, option: QStyleOptionButton) -> None:
        super().initStyleOption(option)
        _cut(self, option, QStyle.SubElement.SE_CheckBoxContents)


class PlainList(QListWidget):
    """A list of lines, with its name for a screen reader."""

    def __init__(self, name: str) -> None:
        super().__init__()
        _dress(self, "plain", "", name)

    def event(self, event: QEvent) -> bool:
        """Space ticks a line that has a box, before it is the window's key to play."""
        item = self.currentItem()
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Space
            and not event.modifiers()
            and item is not None
            and item.data(Qt.ItemDataRole.CheckStateRole) is not None
        ):
            event.accept()
            return True
        return super().event(event)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.scheduleDelayedItemsLayout()  # lines that came before the style sheet have another height


def frame(kind: str) -> QFrame:
    """A frame that the style sheet knows by its kind."""
    made = QFrame()
    made.setObjectName(kind)
    return made


def across(*parts: Part, spacing: int | None = None, margins: tuple[int, int, int, int] | None = None) -> QHBoxLayout:
    """Parts from left to right; `spacing` between them and `margins` (left, top, right, bottom) in px."""
    return _filled(QHBoxLayout(), parts, spacing, margins)


def down(*parts: Part, spacing: int | None = None, margins: tuple[int, int, int, int] | None = None) -> QVBoxLayout:
    """Parts from top to bottom, as `across`."""
    return _filled(QVBoxLayout(), parts, spacing, margins)


def fill(
    box: "QBoxLayout",
    *parts: Part,
    spacing: int | None = None,
    margins: tuple[int, int, int, int] | None = None,
) -> None:
    """Add parts to the end of a row or a column."""
    _filled(box, parts, spacing, margins)


_Box = TypeVar("_Box", bound=QBoxLayout)


def _filled(box: _Box, parts: tuple[Part, ...], spacing: int | None, margins: tuple[int, int, int, int] | None) -> _Box:
    if spacing is not None:
        box.setSpacing(spacing)
    if margins is not None:
        box.setContentsMargins(*margins)
    for part in parts:
        if part is None:
            box.addStretch(1)
        elif isinstance(part, int):
            box.addSpacing(part)
        else:
            what, *how = part if isinstance(part, tuple) else (part,)
            add: Callable[..., None] = box.addLayout if isinstance(what, QLayout) else box.addWidget
            add(what, *how)
    return box


def emptied(box: QLayout) -> list[QWidget]:
    """The widgets of a layout, taken out of it; they go where nobody holds them."""
    widgets = []
    while (item := box.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.setParent(None)
            widgets.append(widget)
    return widgets


def _cut(button: QAbstractButton, option: QStyleOptionButton, inside: QStyle.SubElement) -> None:
    """Where the words of a button have no room, end them in an ellipsis, and put all of them in the tip."""
    room = button.style().subElementRect(inside, option, button).width()
    side, mnemonic = Qt.TextElideMode.ElideRight, Qt.TextFlag.TextShowMnemonic
    lines = button.text().split("\n")
    words = "\n".join(option.fontMetrics.elidedText(line, side, room, mnemonic) for line in lines)
    if words != button.text():
        option.text = words
        if not button.toolTip():
            set_tip(button, button.text().replace("&", ""))


def _dress(widget: QWidget, kind: str, tip: str, name: str) -> None:
    if kind:
        widget.setObjectName(kind)
    if tip:
        set_tip(widget, tip)
    if name:
        widget.setAccessibleName(name)
