"""The Ledger view: what was made when, of which version, what changed since; any version opened as it was.

Kinds at the left, entries in the middle, the chosen one (or the difference of two) at the right.
"""

from datetime import date
from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QFileDialog,
    QHeaderView,
    QInputDialog,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.ledger.entry_words import about_entry, in_a_line, when
from nafas.desk.widgets.controls import Button, PlainList, across, fill
from nafas.desk.widgets.labels import Label, WrappedLabel, set_tip
from nafas.desk.widgets.scrolled import scrolled_column
from nafas.errors import InputError
from nafas.ledger.entries import Entry, Kind, add, changed_since, counted, find, which
from nafas.tasks import export

_NAMES = {
    Kind.RENDER: "Renders",
    Kind.DELIVERY: "Deliveries",
    Kind.REHEARSAL: "Rehearsals",
    Kind.AUDIT: "Recordings reviewed",
    Kind.PUBLICATION: "Publications",
    Kind.NOTE: "Notes",
    Kind.OTHER: "From a newer Nafas",
}
_KINDS = (None, *(kind for kind in Kind if kind is not Kind.OTHER))
_TYPED_MS = 150
_MOST = 500


class LedgerView(QWidget):
    """Signals: open_version: the entry whose session is wanted as it was; said: for the status line."""

    open_version = Signal(object)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Ledger")
        self.entries: list[Entry] = []
        self.left, self.side = QWidget(), QWidget()
        self._build_left()
        self._build_side()
        self.count = Label("Ledger", objectName="heading")
        self.search = QLineEdit()
        self.search.setPlaceholderText("title, note or file name")
        self.search.setAccessibleName("Search the ledger")
        self.search.setMinimumWidth(260)
        self.empty = WrappedLabel(
            "Nothing yet. Every render, delivery, rehearsal and audit is recorded here automatically."
        )
        self.empty.setObjectName("muted")
        self.list = QTreeWidget()
        self.list.setAccessibleName("Entries")
        self.list.setHeaderLabels(["When", "What", "Session", "With"])
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setSelectionMode(QTreeWidget.SelectionMode.ExtendedSelection)
        for column in range(3):
            self.list.header().setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
        fill(
            QVBoxLayout(self),
            across(self.count, None, self.search),
            self.empty,
            (self.list, 1),
            spacing=6,
            margins=(0, 6, 0, 0),
        )
        self._typed = QTimer(self, singleShot=True, interval=_TYPED_MS)
        self._typed.timeout.connect(self.look)
        self.search.textEdited.connect(lambda _: self._typed.start())
        self.kinds.currentRowChanged.connect(lambda _: self.look())
        self.list.itemSelectionChanged.connect(self._show)
        self.list.itemActivated.connect(lambda *_: self._open())

    def _build_left(self) -> None:
        self.kinds = PlainList("Kinds")
        self.kinds.addItems([_name(kind) for kind in _KINDS])
        self.kinds.setCurrentRow(0)
        self.which, self.export = Button("Which file is this…"), Button("Export…")
        set_tip(self.which, "By its checksum, or by its sound in another format")
        self.which.clicked.connect(lambda _: self._ask_which())
        self.export.clicked.connect(lambda _: self._export())
        fill(
            QVBoxLayout(self.left),
            Label("Kinds", objectName="section"),
            (self.kinds, 1),
            self.which,
            self.export,
            margins=(12, 6, 6, 0),
        )

    def _build_side(self) -> None:
        box = scrolled_column(self.side)
        self.name = Label(objectName="section")
        self.about = WrappedLabel()
        self.about.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        box.addWidget(self.name)
        box.addWidget(self.about)
        self.open_button, self.published, self.note = buttons = tuple(
            map(QPushButton, ("Open this version", "Published…", "Note…"))
        )
        set_tip(self.open_button, "The session as it was, as a copy without a name (Enter)")
        set_tip(self.published, "Where it was published, and when")
        for button, does in zip(buttons, (self._open, self._published, self._note)):
            button.clicked.connect(lambda _=False, does=does: does())
            box.addWidget(button)
        self.hint = WrappedLabel(objectName="muted")
        box.addWidget(self.hint)
        box.addStretch(1)

    def look(self) -> None:
        """Show what is looked for, the newest first; what was chosen stays so."""
        chosen = self.entry.id if self.entry is not None else None
        kind = _KINDS[self.kinds.currentRow()]
        try:
            self.entries = find(self.search.text(), kind, most=_MOST)
            numbers = counted()
        except InputError as error:
            self.entries, numbers = [], {}
            self.said.emit(str(error))
        for row, each in enumerate(_KINDS):
            number = sum(numbers.values()) if each is None else numbers.get(each, 0)
            self.kinds.item(row).setText(f"{_name(each)}   {number}" if number else _name(each))
        self.list.blockSignals(True)
        self.list.clear()
        for entry in self.entries:
            self.list.addTopLevelItem(QTreeWidgetItem(in_a_line(entry)))
        self.list.blockSignals(False)
        more = f", the newest {_MOST}; search finds older ones" if len(self.entries) == _MOST else ""
        self.count.setText(f"Ledger{more}")
        everything = not self.search.text() and kind is None
        self.empty.setVisible(not self.entries and everything)
        self.list.setVisible(bool(self.entries) or not everything)
        self._choose(next((row for row, each in enumerate(self.entries) if each.id == chosen), 0))
        self._show()

    def _choose(self, row: int) -> None:
        item = self.list.topLevelItem(row)
        if item is not None:
            self.list.setCurrentItem(item)

    @property
    def chosen(self) -> list[Entry]:
        """The chosen entries, the newest first."""
        rows = sorted(self.list.indexOfTopLevelItem(item) for item in self.list.selectedItems())
        return [self.entries[row] for row in rows if 0 <= row < len(self.entries)]

    @property
    def entry(self) -> Entry | None:
        """The chosen entry where it is one."""
        chosen = self.chosen
        return chosen[0] if len(chosen) == 1 else None

    def _show(self) -> None:
        entry, chosen = self.entry, self.chosen
        for button in (self.published, self.note):
            button.setEnabled(entry is not None)
        self.open_button.setEnabled(entry is not None and bool(entry.version))
        self.hint.setText("Choose two (Ctrl) to see what differs." if entry is not None and entry.version else "")
        if entry is not None:
            self.name.setText(f"{entry.kind.value.capitalize()} {entry.id}")
            self.about.setText(about_entry(entry))
        elif len(chosen) == 2:
            newer, older = chosen
            self.name.setText(f"{older.id} and {newer.id}")
            self.about.setText(_between(older, newer))
        else:
            self.name.setText(f"{len(chosen)} chosen" if chosen else "")
            self.about.setText("")

    def _open(self) -> None:
        if self.entry is not None and self.entry.version:
            self.open_version.emit(self.entry)

    def _published(self) -> None:
        self._add(Kind.PUBLICATION, "Where it was published, and when:", f", {date.today().isoformat()}")

    def _note(self) -> None:
        self._add(Kind.NOTE, "What to note:", "")

    def _add(self, kind: Kind, asked: str, text: str) -> None:
        entry = self.entry
        words, taken = QInputDialog.getText(self, "Ledger", asked, text=text)
        if entry is None or not taken or not words.strip(" ,"):
            return
        try:
            add(kind, words=words.strip(), about=entry.id, title=entry.title)
        except InputError as error:
            self.about.setText(str(error))
            return
        self.look()

    def _ask_which(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Which file is this?", "", "All files (*)")
        if name:
            self.show_which(Path(name))

    def show_which(self, path: Path) -> None:
        """Show the entry that a file is of."""
        try:
            matches = which(path)
        except InputError as error:
            self.about.setText(str(error))
            return
        if not matches:
            self.about.setText(f"{path.name}: no entry of the ledger is this file, by checksum or by sound.")
            return
        entry, how = matches[0]
        self.search.setText(entry.title)
        self.kinds.setCurrentRow(0)
        self.look()
        self._choose(next((row for row, each in enumerate(self.entries) if each.id == entry.id), -1))
        self.about.setText(f"{path.name} is of this entry, by its {how}.\n{about_entry(entry)}")

    def _export(self) -> None:
        kinds, start = "Table (*.csv);;JSON (*.json)", Path.home() / "ledger.csv"
        path = ask_save_name(self, "Export the ledger", start, kinds, (".csv", ".json"))
        if path is None:
            return
        try:
            self.said.emit(f"Saved {export.run(export.ExportRequest(path)).path}")
        except InputError as error:
            self.said.emit(str(error))


def _name(kind: Kind | None) -> str:
    return "Everything" if kind is None else _NAMES[kind]


def _between(older: Entry, newer: Entry) -> str:
    if not older.version or not newer.version:
        return "One of them is of no session, so there is nothing to compare."
    try:
        changes = changed_since(older, newer)
    except InputError as error:
        return str(error)
    message = "\n".join(f"• {line}" for line in changes) or "The same version."
    return f"From {when(older)} to {when(newer)}:\n{message}"
