"""A list of rows that can be added to and taken from, as in a table with a field or two in each row."""

from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import Button


class FieldRow(QWidget):
    """Fields side by side, and a button that takes the row out."""

    def __init__(self, remove: Callable[[], None], tip: str) -> None:
        super().__init__()
        self._box = QHBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(4)
        self.remove = Button("\N{MULTIPLICATION SIGN}", remove, kind="small", name=tip, tip=tip)
        self.remove.setFixedWidth(26)

    def place(self, *fields: tuple[QWidget, int]) -> None:
        """Put fields before the button, each with how far it stretches."""
        for field, stretch in (*fields, (self.remove, 0)):
            self._box.addWidget(field, stretch)


_R = TypeVar("_R", bound=FieldRow)


class RowList(QWidget, Generic[_R]):
    """Rows, made as they are needed.

    Args:
        make: the row at a place.
    """

    def __init__(self, make: Callable[[int], _R]) -> None:
        super().__init__()
        self._make = make
        self._made: list[_R] = []
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(4)

    @property
    def rows(self) -> list[_R]:
        """The rows that are shown."""
        return [row for row in self._made if not row.isHidden()]

    def show_rows(self, number: int) -> list[_R]:
        """Show so many rows."""
        while len(self._made) < number:
            row = self._make(len(self._made))
            self._made.append(row)
            self._box.addWidget(row)
        for index, row in enumerate(self._made):
            row.setVisible(index < number)
        return self._made[:number]
