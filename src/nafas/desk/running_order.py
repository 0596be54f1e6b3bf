"""The running order: the blocks, their lengths, and the total against the target."""

from PySide6.QtCore import QAbstractListModel, QEvent, QModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.theme import font, theme
from nafas.script import BreathSet, Rest, format_set
from nafas.script.edit import block_name
from nafas.timing import TimedBlock, Timeline
from nafas.timing.clock import clock

_BLOCK = Qt.ItemDataRole.UserRole


class _Blocks(QAbstractListModel):
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

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.blocks)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not 0 <= index.row() < len(self.blocks):
            return None
        block = self.blocks[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return block_name(block.block)
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{block_name(block.block)}, {_about(block)}, {clock(block.length)}"
        return block if role == _BLOCK else None


def _about(block: TimedBlock) -> str:
    if isinstance(block.block, BreathSet):
        return format_set(block.block.pattern, block.block.rounds, None).replace(" x", "  ×")
    return "natural breath" if isinstance(block.block, Rest) else "talk"


class _Painter(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(180, 46)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
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
        about = painter.fontMetrics().elidedText(_about(block), Qt.TextElideMode.ElideRight, int(area.width() - 24))
        painter.drawText(QRectF(area.left() + 12, area.top() + 24, area.width() - 22, 18), about)
        painter.setPen(QPen(theme().rule, 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())


class _List(QListView):
    moved = Signal(int)
    removed = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        up_down = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.modifiers() & Qt.KeyboardModifier.AltModifier and event.key() in up_down:
            self.moved.emit(up_down[event.key()])
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.removed.emit()
        else:
            super().keyPressEvent(event)


class RunningOrder(QWidget):
    """Signals: chose a block; add a block of a kind ("talk", "rest", "breath"); move or remove the chosen one."""

    chose = Signal(int)
    add = Signal(str)
    move = Signal(int, int)
    remove = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 8, 6, 0)
        box.setSpacing(6)
        heading = QLabel("Running order", objectName="section")
        box.addWidget(heading)
        self._model = _Blocks()
        self.list = _List()
        self.list.setModel(self._model)
        self.list.setItemDelegate(_Painter(self.list))
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("Running order")
        self.list.setToolTip("Alt+Up and Alt+Down move a block, Delete removes it")
        self.list.selectionModel().currentChanged.connect(self._current)
        self.list.moved.connect(lambda by: self.move.emit(self.current(), by))
        self.list.removed.connect(lambda: self.remove.emit(self.current()))
        box.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.setSpacing(5)
        for kind, text, tip in (
            ("talk", "+ Talk", "Add talk after the chosen block"),
            ("rest", "+ Rest", "Add natural breath after the chosen block"),
            ("breath", "+ Set", "Add a breath set after the chosen block"),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, kind=kind: self.add.emit(kind))
            row.addWidget(button, 1)
        box.addLayout(row)
        self._silent = False

    def current(self) -> int:
        return self.list.currentIndex().row()

    def show_timeline(self, timeline: Timeline) -> None:
        self._silent = True
        self._model.replace(timeline.blocks)
        self._silent = False

    def set_current(self, index: int) -> None:
        self._silent = True
        self.list.setCurrentIndex(self._model.index(index) if index >= 0 else QModelIndex())
        if index < 0:
            self.list.clearSelection()
        self._silent = False

    def _current(self, now: QModelIndex, before: QModelIndex) -> None:
        if not self._silent and now.isValid():
            self.chose.emit(now.row())

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        self.list.viewport().update()
