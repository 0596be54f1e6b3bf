"""The ledger: what was made when, what changed since, and any version to be opened as it was."""

from datetime import date
from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.widgets.labels import Label, set_tip
from nafas.errors import InputError
from nafas.files import write_whole
from nafas.ledger.entries import Entry, Kind, add, before_it, changed_since, exported, find, session_of, which
from nafas.plain_text import many
from nafas.script.model.session import Session

_NAMES = {
    Kind.RENDER: "renders",
    Kind.DELIVERY: "deliveries",
    Kind.REHEARSAL: "rehearsals",
    Kind.AUDIT: "recordings reviewed",
    Kind.PUBLICATION: "publications",
    Kind.NOTE: "notes",
}
_TYPED_MS = 150
_MOST = 500


class LedgerDialog(QDialog):
    """Signals: open_version: a session as it was."""

    open_version = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Ledger")
        self.resize(980, 660)
        self.entries: list[Entry] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(10)
        top = QHBoxLayout()
        self.search, self.kind = QLineEdit(), QComboBox()
        self.search.setPlaceholderText("words in titles, notes and names of files")
        self.search.setAccessibleName("Search")
        self.kind.setAccessibleName("Kind")
        self.kind.addItem("everything", "")
        for kind in Kind:
            self.kind.addItem(_NAMES[kind], kind.value)
        top.addWidget(self.search, 1)
        top.addWidget(self.kind)
        box.addLayout(top)
        self.count = Label(objectName="muted")
        box.addWidget(self.count)
        self.list = QListWidget()
        self.list.setAccessibleName("Entries")
        box.addWidget(self.list, 3)
        self.about = Label()
        self.about.setWordWrap(True)
        self.about.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.about.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.about.setMinimumHeight(120)
        box.addWidget(self.about, 1)
        foot = QHBoxLayout()
        self.open_button, self.published, self.note, self.which, self.export, self.close_button = buttons = tuple(
            map(QPushButton, ("Open this version", "Published…", "Note…", "Which file is this…", "Export…", "Close"))
        )
        set_tip(self.open_button, "The session as it was, as a copy without a name")
        set_tip(self.which, "By its sum, or by its sound in another format")
        for button, does in zip(
            buttons, (self._open, self._published, self._note, self._ask_which, self._export, self.reject)
        ):
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, does=does: does())
            foot.addWidget(button)
        foot.insertStretch(5, 1)
        box.addLayout(foot)
        self._typed = QTimer(self, singleShot=True, interval=_TYPED_MS)
        self._typed.timeout.connect(self.look)
        self.search.textEdited.connect(lambda _: self._typed.start())
        self.kind.currentIndexChanged.connect(lambda _: self.look())
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.look()

    def look(self) -> None:
        """Show what is looked for, the newest first."""
        try:
            kind = self.kind.currentData()
            self.entries = find(self.search.text(), Kind(kind) if kind else None, most=_MOST)
        except InputError as error:
            self.entries = []
            self.about.setText(str(error))
        self.list.clear()
        for entry in self.entries:
            about = f" of {entry.about}" if entry.about is not None else ""
            words = f":  {entry.words}" if entry.words else ""
            moment = entry.moment[:16].replace("T", "  ")
            told = f"{entry.id}   {moment}   {entry.kind.value}{about}   {entry.title}{words}"
            self.list.addItem(QListWidgetItem(told))
        shown = many(len(self.entries), "entry", "entries")
        empty = "Nothing yet: every render, delivery and rehearsal comes into it by itself, and stays."
        self.count.setText(f"{shown}, the newest first" if self.entries else empty)
        if self.entries:
            self.list.setCurrentRow(0)
        self._show()

    @property
    def entry(self) -> Entry | None:
        row = self.list.currentRow()
        return self.entries[row] if 0 <= row < len(self.entries) else None

    def _show(self) -> None:
        entry = self.entry
        for button in (self.published, self.note):
            button.setEnabled(entry is not None)
        self.open_button.setEnabled(entry is not None and bool(entry.version))
        if entry is None:
            return
        lines = []
        for file in entry.files[:8]:
            loud = "" if file["loudness"] is None else f", {file['loudness']:.1f} LUFS"
            held = {None: "", 1: ", proof holds", 0: ", proof does not hold"}[file["proof"]]
            lines.append(f"{Path(file['path']).name}{loud}{held}")
        if len(entry.files) > 8:
            lines.append(f"and {len(entry.files) - 8} more files")
        try:
            before = before_it(entry) if entry.version else None
            if before is not None:
                changes = changed_since(before, entry)
                lines.append(f"Since {before.moment[:10]} ({before.id}): {'; '.join(changes) or 'nothing'}.")
        except InputError as error:
            lines.append(str(error))
        lines += [f"Let stand: {each}" for each in entry.data.get("let_stand", [])[:4]]
        felt = [str(entry.data.get(key) or "") for key in ("before", "after")]
        if any(felt):
            lines.append(f"Felt {felt[0] or 'not said'} before, {felt[1] or 'not said'} after.")
        self.about.setText("\n".join(lines) or "Nothing more is known of it.")

    def _open(self) -> None:
        if self.entry is not None:
            try:
                session: Session = session_of(self.entry)
            except InputError as error:
                self.about.setText(str(error))
                return
            self.open_version.emit(session)

    def _published(self) -> None:
        self._add(Kind.PUBLICATION, "Where it was published, and when:", f", {date.today().isoformat()}")

    def _note(self) -> None:
        self._add(Kind.NOTE, "What is to be noted:", "")

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
            found = which(path)
        except InputError as error:
            self.about.setText(str(error))
            return
        if not found:
            self.about.setText(f"{path.name}: nothing in the ledger is that file, by its sum or by its sound.")
            return
        entry, how = found[0]
        self.search.clear()
        self.kind.setCurrentIndex(0)
        self.look()
        place = next((row for row, each in enumerate(self.entries) if each.id == entry.id), -1)
        self.list.setCurrentRow(place)
        self.about.setText(f"{path.name} is of this entry, by its {how}.\n{self.about.text()}")

    def _export(self) -> None:
        kinds, start = "Table (*.csv);;JSON (*.json)", Path.home() / "ledger.csv"
        path = ask_save_name(self, "Export the ledger", start, kinds, (".csv", ".json"))
        if path is None:
            return
        try:
            write_whole(path, exported(path.suffix.lower().lstrip(".")).encode())
            self.about.setText(f"Saved {path}")
        except InputError as error:
            self.about.setText(str(error))
