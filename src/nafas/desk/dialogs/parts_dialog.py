"""A picture of the window as a list: every part of it by name, chosen with Enter, changed with F2."""

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHeaderView, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.labels import Label
from nafas.desk.widgets.spoken_parts import Speaking, SpokenPart


class PartsDialog(Dialog):
    """The list of one widget's parts. It stays open next to the window, and is read again when it gets the focus."""

    def __init__(self, widget: Speaking, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(f"{widget.accessibleName()} as a list")
        self.resize(620, 520)
        self.widget = widget
        if isinstance(widget, QWidget):
            widget.destroyed.connect(self.close)  # a take that was changed is drawn by another widget
        self.parts: list[SpokenPart] = []
        box = QVBoxLayout(self)
        self.list = QTreeWidget()
        self.list.setColumnCount(2)
        self.list.setHeaderLabels(["What", "Value"])
        self.list.setRootIsDecorated(False)
        self.list.header().setStretchLastSection(False)
        self.list.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.list.setUniformRowHeights(True)
        self.list.setAccessibleName(widget.accessibleName())
        self.list.setEditTriggers(QTreeWidget.EditTrigger.NoEditTriggers)
        self.list.itemActivated.connect(self._choose)
        self.list.itemChanged.connect(self._change)
        box.addWidget(self.list)
        box.addWidget(
            Label("Enter selects a part in the window. F2 changes its value. Escape closes.", objectName="muted")
        )
        self.show_parts()
        self.list.setFocus()

    def show_parts(self) -> None:
        """Read the parts again; the same row stays current."""
        parts = list(self.widget.spoken_parts())
        current = self.list.currentItem()
        row = -1 if current is None else self.list.indexOfTopLevelItem(current)
        if row < 0:
            row = next((n for n, part in enumerate(parts) if part.chosen), 0)
        if parts != self.parts or self.list.topLevelItemCount() != len(parts):
            self.list.blockSignals(True)
            self.list.clear()
            items = [QTreeWidgetItem([part.name, part.value]) for part in parts]
            for item, part in zip(items, parts):
                if part.change is not None:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.list.addTopLevelItems(items)
            self.list.blockSignals(False)
        self.parts = parts
        here = self.list.topLevelItem(min(row, len(parts) - 1))
        if here is not None:
            self.list.setCurrentItem(here)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        item = self.list.currentItem()
        if event.key() == Qt.Key.Key_F2 and item is not None and item.flags() & Qt.ItemFlag.ItemIsEditable:
            self.list.editItem(item, 1)
        else:
            super().keyPressEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            self.show_parts()

    def _part(self, item: QTreeWidgetItem) -> SpokenPart:
        return self.parts[self.list.indexOfTopLevelItem(item)]

    def _choose(self, item: QTreeWidgetItem) -> None:
        choose = self._part(item).choose
        if choose is not None:
            choose()

    def _change(self, item: QTreeWidgetItem) -> None:
        part = self._part(item)
        if part.change is not None and item.text(1) != part.value:
            part.change(item.text(1))
            QTimer.singleShot(0, self, self._read_again)  # the editor is closed first

    def _read_again(self) -> None:
        self.parts = []
        self.show_parts()
