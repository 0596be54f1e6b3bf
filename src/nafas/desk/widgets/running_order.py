"""The running order: the blocks and their lengths. Choose one or several, drag them to another place, lock them."""

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractListModel,
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QMimeData,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.widgets.controls import Button, fill
from nafas.desk.widgets.labels import Label, set_tip
from nafas.drawing.theme import font, theme
from nafas.script import BreathSet, Rest, Strokes, block_notation
from nafas.script.edits.session_edits import block_name
from nafas.timing import TimedBlock, Timeline
from nafas.timing.clock import clock

_BLOCK = Qt.ItemDataRole.UserRole
Index = QModelIndex | QPersistentModelIndex


_ROWS = "application/x-nafas-rows"


class _Blocks(QAbstractListModel):
    """Signals: reordered, with the places dragged and the place they go before."""

    reordered = Signal(list, int)

    def __init__(self) -> None:
        super().__init__()
        self.blocks: tuple[TimedBlock, ...] = ()

    def replace(self, blocks: tuple[TimedBlock, ...]) -> None:
        same = len(blocks) == len(self.blocks)
        if not same:
            self.beginResetModel()
        self.blocks = blocks
        if not same:
            self.endResetModel()
        elif blocks:
            self.dataChanged.emit(self.index(0), self.index(len(blocks) - 1))

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.blocks)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not 0 <= index.row() < len(self.blocks):
            return None
        block = self.blocks[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return block_name(block.block)
        if role == Qt.ItemDataRole.AccessibleTextRole:
            locked = ", locked" if block.block.locked else ""
            return f"{block_name(block.block)}, {_about(block)}, {clock(block.length)}{locked}"
        return block if role == _BLOCK else None

    # -- dragging

    def flags(self, index: Index) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled  # between blocks, not onto one
        return super().flags(index) | Qt.ItemFlag.ItemIsDragEnabled

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        return [_ROWS]

    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        data = QMimeData()
        data.setData(_ROWS, ",".join(str(index.row()) for index in indexes).encode())
        return data

    def dropMimeData(self, data: QMimeData, action: Qt.DropAction, row: int, column: int, parent: Index) -> bool:
        rows = sorted(int(n) for n in bytes(data.data(_ROWS).data()).decode().split(",") if n)
        if rows:
            self.reordered.emit(rows, len(self.blocks) if row < 0 else row)
        return False  # the session changes and shows itself again; the view must move nothing


def _about(block: TimedBlock) -> str:
    if isinstance(block.block, BreathSet) and not block.block.title:
        number = len(block.rounds)
        return f"{number} rounds" if number > 1 else "1 round"
    if isinstance(block.block, BreathSet | Strokes):
        about = block_notation(block.block)
    else:
        about = "natural breath" if isinstance(block.block, Rest) else "talk"
    levels = block.block.manner
    # What bed and voice do comes first: a long pattern leaves no room behind it.
    return f"{levels} · {about}" if levels else about


class _Painter(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(180, 46)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        block: TimedBlock = index.data(_BLOCK)
        area = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, theme().chosen)
            painter.fillRect(QRectF(area.left(), area.top(), 3, area.height()), theme().accent)
        length = clock(block.length)
        painter.setFont(font(10))
        painter.setPen(theme().ink)
        width = QFontMetricsF(font(10)).horizontalAdvance(length)
        painter.drawText(QRectF(area.right() - width - 10, area.top() + 5, width + 2, 18), length)
        room = area.width() - width - 30
        painter.setFont(font(10.5, bold=isinstance(block.block, BreathSet)))
        name = QFontMetricsF(painter.font()).elidedText(block_name(block.block), Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(area.left() + 12, area.top() + 4, room, 20), name)
        painter.setFont(font(9))
        painter.setPen(theme().muted)
        room = area.width() - (44 if block.block.locked else 24)
        about = painter.fontMetrics().elidedText(_about(block), Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(area.left() + 12, area.top() + 24, room + 2, 18), about)
        if block.block.locked:
            _draw_lock(painter, lock_area(area).center())
        painter.setPen(QPen(theme().rule, 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())


def lock_area(item: QRectF) -> QRectF:
    """Where a block's lock is drawn and clicked."""
    return QRectF(item.right() - 26, item.top() + 23, 20, 20)


def _draw_lock(painter: QPainter, middle: QPointF) -> None:
    painter.setPen(QPen(theme().accent, 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(QRectF(middle.x() - 3, middle.y() - 6, 6, 8), 0, 180 * 16)
    painter.setBrush(theme().accent)
    painter.drawRoundedRect(QRectF(middle.x() - 4.5, middle.y() - 1.5, 9, 6.5), 1, 1)


class _List(QListView):
    moved = Signal(int)
    removed = Signal()
    lock_clicked = Signal(int)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and lock_area(QRectF(self.visualRect(index))).contains(event.position()):
            self.lock_clicked.emit(index.row())
        super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        up_down = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.modifiers() & Qt.KeyboardModifier.AltModifier and event.key() in up_down:
            self.moved.emit(up_down[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.removed.emit()
        else:
            super().keyPressEvent(event)


class RunningOrder(QWidget):
    """Signals: chose a block, and which are selected with it; add a block of a kind ("talk", "rest", "breath"); move or
    remove the selected ones; reordered (places, before); lock or unlock one."""

    chose = Signal(int, object)
    add = Signal(str)
    moved = Signal(int)
    remove = Signal()
    reordered = Signal(list, int)
    lock = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        heading = Label("Running order", objectName="section")
        self._model = _Blocks()
        self.list = _List()
        self.list.setModel(self._model)
        self.list.setItemDelegate(_Painter(self.list))
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("Running order")
        set_tip(self.list, "Drag to move, or Alt+Up and Alt+Down. Ctrl or Shift chooses several. Ctrl+L locks.")
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.list.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.list.selectionModel().selectionChanged.connect(self._selected)
        self._model.reordered.connect(self.reordered)
        self.list.moved.connect(self.moved)
        self.list.removed.connect(self.remove)
        self.list.lock_clicked.connect(self.lock)
        row = QHBoxLayout()
        row.setSpacing(5)
        for kind, text, tip in (
            ("talk", "+ Talk", "Add talk after the chosen block"),
            ("rest", "+ Rest", "Add natural breath after the chosen block"),
            ("breath", "+ Set", "Add a breath set after the chosen block"),
        ):
            button = Button(text, lambda _=False, kind=kind: self.add.emit(kind), tip=tip)
            row.addWidget(button, 1)
        fill(QVBoxLayout(self), heading, (self.list, 1), row, spacing=6, margins=(12, 8, 6, 0))
        self._silent = False

    def current(self) -> int:
        return self.list.currentIndex().row()

    def show_timeline(self, timeline: Timeline) -> None:
        self._silent = True
        self._model.replace(timeline.blocks)
        self._silent = False

    def set_current(self, index: int, also: frozenset[int] = frozenset()) -> None:
        """Show which block is chosen, and which are selected with it."""
        self._silent = True
        model = self.list.selectionModel()
        if index < 0:
            model.clear()
        else:
            # Without a command this would select the one alone, and scroll; the whole selection follows in one step.
            model.setCurrentIndex(self._model.index(index), QItemSelectionModel.SelectionFlag.NoUpdate)
            chosen = QItemSelection()
            for position in sorted(also | {index}):
                if position < len(self._model.blocks):
                    chosen.select(self._model.index(position), self._model.index(position))
            model.select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)
            self.list.scrollTo(self._model.index(index))
        self._silent = False

    def _selected(self, *_: object) -> None:
        if not self._silent:
            rows = [index.row() for index in self.list.selectionModel().selectedIndexes()]
            if rows:
                current = self.current()
                self.chose.emit(current if current in rows else rows[-1], frozenset(rows))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        self.list.viewport().update()
