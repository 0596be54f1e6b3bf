"""The table of a series as Qt's views want it: a row a variant, what differs in its columns, and where it stands."""

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QLineEdit, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from nafas.desk.widgets.fields import message_of
from nafas.desk.widgets.labels import tip_of
from nafas.drawing.theme import theme
from nafas.errors import InputError
from nafas.script import Session
from nafas.series.cells import as_cells, with_cells
from nafas.series.columns import Column, changed, columns_of, new_name
from nafas.series.plan import MOST_ROWS, Series, Variant
from nafas.series.status import VariantState, VariantStatus
from nafas.timing.clock import clock

_STANDING = ("Lasts", "Rendered", "To know")
_HEADING = 20
"""Letters of a heading; all of it is in its tip."""
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_ROLES = Qt.ItemDataRole
Index = QModelIndex | QPersistentModelIndex


class SeriesTable(QAbstractTableModel):
    """Signals: changed: the series, and what was done in words; refused: what is wrong with what was typed."""

    changed = Signal(object, str)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.series: Series | None = None
        self.columns: list[Column] = []
        self.statuses: dict[str, VariantStatus] = {}

    def show_series(self, series: Series | None, session: Session | None) -> None:
        """Show a series of a session."""
        columns = columns_of(session) if session is not None else self.columns
        if [each.key for each in columns] != [each.key for each in self.columns] or (series is None) != (
            self.series is None
        ):
            self.beginResetModel()
            self.series, self.columns = series, columns
            self.endResetModel()
            return
        if series is not None and self.series is not None:
            self.columns = columns
            self._replace(self.series.variants, series)

    def _replace(self, old: tuple[Variant, ...], series: Series) -> None:
        """Show other rows: those before and after what differs stay as they are, and chosen."""
        new = series.variants
        same = min(len(old), len(new))
        first = next((n for n in range(same) if old[n] != new[n]), same)
        last = next((n for n in range(same - first) if old[-1 - n] != new[-1 - n]), same - first)
        gone, come = len(old) - first - last, len(new) - first - last
        if gone == come:
            self.series = series
            if come:
                edge = self.index(first + come - 1, self.columnCount() - 1)
                self.dataChanged.emit(self.index(first, 0), edge)
            return
        nowhere = QModelIndex()
        if gone:
            self.beginRemoveRows(nowhere, first, first + gone - 1)
            rows = (*old[:first], *old[first + gone :])
            self.series = series.model_copy(update={"variants": rows})
            self.endRemoveRows()
        if come:
            self.beginInsertRows(nowhere, first, first + come - 1)
            self.series = series
            self.endInsertRows()
        self.series = series

    def show_statuses(self, statuses: Sequence[VariantStatus]) -> None:
        """Show where the variants stand."""
        self.statuses = {each.planned.variant.name: each for each in statuses}
        # Of these columns alone: a cell that is being typed into would be filled with what it held before.
        message = [n for n in range(self.columnCount()) if self.column(n) is None]
        for column in message if self.rowCount() else ():
            self.dataChanged.emit(self.index(0, column), self.index(self.rowCount() - 1, column))

    def standing(self, row: int) -> VariantStatus | None:
        """Where a row's variant stands, as far as it is known for what it is now."""
        if self.series is None or not 0 <= row < len(self.series.variants):
            return None
        variant = self.series.variants[row]
        known = self.statuses.get(variant.name)
        return known if known is not None and known.planned.variant == variant else None

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if self.series is None or parent.isValid() else len(self.series.variants)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if self.series is None or parent.isValid() else len(self.columns) + len(_STANDING)

    def column(self, section: int) -> Column | None:
        """The column of a variant's field that stands there; None for one that tells where the variant stands.

        After the name comes how long it lasts and whether it is rendered; what else is to be known comes last.
        """
        if section == 0:
            return self.columns[0]
        position = section - (len(_STANDING) - 1)
        return self.columns[position] if 1 <= position < len(self.columns) else None

    def _standing_place(self, section: int) -> int:
        return section - 1 if section < len(_STANDING) else len(_STANDING) - 1

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = _ROLES.DisplayRole) -> Any:
        if orientation is Qt.Orientation.Vertical:
            return str(section + 1) if role == _ROLES.DisplayRole else None
        column = self.column(section)
        if role == _ROLES.DisplayRole:
            heading = column.heading if column is not None else _STANDING[self._standing_place(section)]
            return heading if len(heading) <= _HEADING else f"{heading[: _HEADING - 1]}…"
        if role == _ROLES.ToolTipRole and column is not None:
            return tip_of(f"{column.heading}: {column.tip}")
        return _LEFT if role == _ROLES.TextAlignmentRole else None

    def flags(self, index: Index) -> Qt.ItemFlag:
        usual = super().flags(index)
        return usual if self.column(index.column()) is None else usual | Qt.ItemFlag.ItemIsEditable

    def data(self, index: Index, role: int = _ROLES.DisplayRole) -> Any:
        if self.series is None or not index.isValid():
            return None
        column = self.column(index.column())
        if column is None:
            return self._status_data(index.row(), self._standing_place(index.column()), role)
        shown = role in (_ROLES.DisplayRole, _ROLES.EditRole)
        return column.text(self.series.variants[index.row()]) if shown else None

    def _status_data(self, row: int, which: int, role: int) -> Any:
        status = self.standing(row)
        if status is None:
            return "…" if role == _ROLES.DisplayRole and which == 0 else None
        planned = status.planned
        message = [text for text in (planned.trouble, *planned.notes) if text]
        if role == _ROLES.DisplayRole:
            if which == 0:
                return "" if planned.length is None else clock(planned.length)
            return status.stands.value if which == 1 else "; ".join(message)
        if role == _ROLES.ToolTipRole and which == 2 and message:
            return tip_of("\n".join(message))
        if role == _ROLES.ForegroundRole:
            return self._colour(status, which)
        return None

    def _colour(self, status: VariantStatus, which: int) -> QColor | None:
        if status.stands is VariantState.IMPOSSIBLE and which:
            return theme().warning
        return theme().muted if which == 1 and status.stands is not VariantState.CURRENT else None

    def setData(self, index: Index, value: Any, role: int = _ROLES.EditRole) -> bool:
        row, column = index.row(), self.column(index.column())
        if self.series is None or role != _ROLES.EditRole or column is None:
            return False
        before = self.series.variants[row]
        if column.text(before) == str(value).strip():
            return True
        try:
            self.put_row(row, changed(before, column, str(value)), f"{column.heading} of {before.name}")
        except ValueError as fault:
            self.refused.emit(f"{column.heading}: {message_of(fault)}")
            return False
        return True

    def put_row(self, row: int, variant: Variant, message: str) -> None:
        """Put another variant into a row. Raises ValueError where the series does not allow it."""
        assert self.series is not None
        rows = self.series.variants
        self._put((*rows[:row], variant, *rows[row + 1 :]), message)

    def _put(self, rows: Sequence[Variant], message: str) -> None:
        assert self.series is not None
        self.changed.emit(Series.model_validate({**dict(self.series), "variants": tuple(rows)}), message)

    def add(self, after: int, like: Variant | None) -> None:
        """Add a variant after a row, like another or as the session is."""
        if self.series is None:
            return
        rows = self.series.variants
        if len(rows) >= MOST_ROWS:
            self.refused.emit(f"A series has at most {MOST_ROWS} variants; begin another")
            return
        name = new_name([each.name for each in rows], "variant" if like is None else like.name)
        new = Variant(name=name) if like is None else like.model_copy(update={"name": name})
        self._put((*rows[: after + 1], new, *rows[after + 1 :]), f"add {name}")

    def cells_of(self, chosen: Sequence[int]) -> str:
        """Rows as a spreadsheet takes them."""
        variants = self.series.variants if self.series is not None else ()
        return as_cells(self.columns, [variants[row] for row in chosen])

    def take_cells(self, text: str) -> None:
        """Take rows as a spreadsheet gives them, all of them or none."""
        if self.series is not None:
            try:
                changed = with_cells(self.series, self.columns, text)
            except InputError as error:
                self.refused.emit(str(error))
                return
            self._put(changed.variants, "paste")

    def remove(self, chosen: Sequence[int]) -> None:
        """Remove rows."""
        if self.series is not None and chosen:
            rows = [each for row, each in enumerate(self.series.variants) if row not in set(chosen)]
            self._put(rows, "remove variants")


class CellDelegate(QStyledItemDelegate):
    """Edits a cell: a choice where the column has some, else a line with its hint."""

    def __init__(self, table: SeriesTable, parent: QWidget) -> None:
        super().__init__(parent)
        self._table = table

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        column = self._table.column(index.column())
        if column is None or not column.choices:
            editor = super().createEditor(parent, option, index)
            if column is not None and isinstance(editor, QLineEdit):
                editor.setPlaceholderText(column.tip)
            return editor
        box = QComboBox(parent)
        box.addItems([choice or "as in the session" for choice in column.choices])
        box.activated.connect(lambda _: self.commitData.emit(box))
        box.activated.connect(lambda _: self.closeEditor.emit(box))
        return box

    def _choices(self, index: Index) -> tuple[str, ...]:
        column = self._table.column(index.column())
        return () if column is None else tuple(column.choices)

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        if isinstance(editor, QComboBox):
            choices = self._choices(index)
            editor.setCurrentIndex(max(0, choices.index(index.data(_ROLES.EditRole) or "")))
        else:
            super().setEditorData(editor, index)

    def setModelData(self, editor: QWidget, model: Any, index: Index) -> None:
        if isinstance(editor, QComboBox):
            model.setData(index, self._choices(index)[editor.currentIndex()])
        else:
            super().setModelData(editor, model, index)
