"""Find a command: type what you want to do; Enter does it."""

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from nafas.desk.dialogs.command_words import Command, found_commands
from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.labels import Label

_COMMAND = Qt.ItemDataRole.UserRole
_MOVES = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)


class CommandSearch(Dialog):
    """A line to type in, and the commands that fit it with their menus and keys; those that cannot be used now are
    shown as such."""

    def __init__(self, commands: list[Command], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self.resize(560, 420)
        self.commands = commands
        self.line = QLineEdit(placeholderText="what you want to do, such as export, dark, or record")
        self.line.setAccessibleName("What you want to do")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.note = Label(objectName="muted", wordWrap=True)
        fill(QVBoxLayout(self), self.line, (self.list, 1), self.note)
        self.line.textChanged.connect(self._show)
        self.line.returnPressed.connect(self._do)
        self.line.installEventFilter(self)
        self.list.itemClicked.connect(lambda _: self._do())
        self._show("")

    def _show(self, typed: str) -> None:
        self.list.clear()
        for command in found_commands(typed, self.commands):
            keys = f"     {command.keys}" if command.keys else ""
            item = QListWidgetItem(f"{command.text}{keys}\n{command.menu}")
            item.setData(_COMMAND, command)
            item.setSizeHint(QSize(0, 46))
            if not command.action.isEnabled():
                item.setForeground(self.palette().placeholderText())
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        none = "No command fits these words: try others, or fewer."
        self.note.setText("Enter does what is chosen. The line below it is its menu." if self.list.count() else none)

    def _do(self) -> None:
        item = self.list.currentItem()
        if item is None:
            return
        command: Command = item.data(_COMMAND)
        if not command.action.isEnabled():
            self.note.setText(f"{command.text} cannot be used now. It is in the menu {command.menu}.")
            return
        self.accept()
        command.action.trigger()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and event.key() in _MOVES:
            self.list.event(event)
            return True
        return super().eventFilter(watched, event)
