"""What a widget that paints its content itself has to say of it: named parts that can be read, chosen and changed.

Such a widget has a method `spoken_parts`. They are read in the list of `dialogs/parts_dialog.py`, which screen readers
know. Parts as children in Qt's accessibility tree were tried and left out: PySide6 6.11 crashes where a widget is
deleted while a reader still holds one of its parts.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol, runtime_checkable

from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QWidget


@dataclass(frozen=True)
class SpokenPart:
    """One part.

    Attributes:
        name: what is read aloud.
        value: what can be changed, as text; "" where nothing can.
        chosen: whether it is selected.
        choose: selects it.
        change: takes another value; what cannot be read as one changes nothing.
    """

    name: str
    value: str = ""
    chosen: bool = False
    choose: Callable[[], None] | None = None
    change: Callable[[str], None] | None = None


@runtime_checkable
class Speaking(Protocol):
    """A widget with parts."""

    def spoken_parts(self) -> Sequence[SpokenPart]:
        """In the order in which they are read."""
        ...

    def accessibleName(self) -> str: ...


def announce(widget: QWidget, text: Callable[[], str]) -> None:
    """Let a screen reader say something; the text is only made where one is running."""
    said = text() if QAccessible.isActive() else ""
    if said:
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(widget, said))
