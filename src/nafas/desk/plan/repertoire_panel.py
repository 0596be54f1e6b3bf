"""The library: whole sessions and patterns to start from, with their cautions; and the producer's own."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QListWidgetItem,
    QMessageBox,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.widgets.controls import Button, PlainList, Tick, across, down, fill
from nafas.desk.widgets.fields import Choice, message_of
from nafas.desk.widgets.labels import Label, RichLabel, escape, message_box
from nafas.desk.widgets.length_field import LengthField
from nafas.errors import InputError
from nafas.languages import LIBRARY, language_name, library_words
from nafas.library.own import (
    PURPOSES,
    SUFFIX,
    Kept,
    keep,
    library_folder,
    own,
    read_entry,
    remove,
    rename,
    shipped,
    write_entry,
)
from nafas.script import block_notation
from nafas.script.edits.session_edits import block_name
from nafas.script.words.cautions import caution_words
from nafas.timing.clock import clock

_KEPT = Qt.ItemDataRole.UserRole


class LibraryPanel(QWidget):
    """Signals: start a session from an outline, of a length (or None); add a pattern, with its cautions or
    without; said: words for the status line."""

    start = Signal(object, object)
    add = Signal(object, bool)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._session_language = "en"
        fill(QHBoxLayout(self), (self._choosing(), 4), (self._about(), 6), spacing=14, margins=(12, 4, 12, 8))
        self.fill()

    def _choosing(self) -> QVBoxLayout:
        head = QHBoxLayout()
        self.kind = Choice(
            "What to start from", ("outline", "Whole sessions"), ("pattern", "Patterns"), ("own", "Your own")
        )
        self.purpose = Choice("Purpose", (None, "for any purpose"), *((key, words.lower()) for key, words in PURPOSES))
        languages = sorted((language_name(code), code) for code in LIBRARY)
        self.language = Choice("Language of its words", *((code, name) for name, code in languages))
        self.language.show_value("en")
        for choice in (self.kind, self.purpose, self.language):
            choice.chose.connect(lambda _: self.fill())
            head.addWidget(choice, 1)
        self.list = PlainList("Library")
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.list.itemActivated.connect(lambda _: self._use())
        foot = QHBoxLayout()
        self.import_button = Button("Import…")
        self.export_button = Button("Export…")
        self.rename_button = Button("Rename…")
        self.remove_button = Button("Remove")
        for button, does in (
            (self.import_button, self._import),
            (self.export_button, self._export),
            (self.rename_button, self._rename),
            (self.remove_button, self._remove),
        ):
            button.setObjectName("small")
            button.clicked.connect(does)
            foot.addWidget(button)
        foot.setSpacing(4)
        return down(head, (self.list, 1), foot, spacing=6)

    def _about(self) -> QVBoxLayout:
        self.name = Label(objectName="heading", wordWrap=True)
        self.words = RichLabel()
        self.words.setWordWrap(True)
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.words)
        scroll.setAccessibleName("About it, with its cautions")
        self.length = LengthField("Length", "length, such as 12:00")
        self.length.setMaximumWidth(190)
        self.cautions = Tick("with its cautions as talk before it")
        self.cautions.setChecked(True)
        self.use = Button("Start from this", self._use, kind="primary")
        row = across(self.length, self.cautions, None, self.use)
        return down(self.name, (scroll, 1), row, spacing=6)

    # -- what is shown

    def show_purpose(self, purpose: object) -> None:
        """List whole sessions for a purpose; None: for any."""
        self.kind.show_value("outline")
        self.purpose.show_value(purpose)
        self.fill()
        self.list.setFocus()

    def fill(self, select: str | None = None) -> None:
        """List the entries of the chosen kind and purpose."""
        kind, purpose = self.kind.value(), self.purpose.value()
        mine, faults = own()
        every = mine if kind == "own" else [k for k in shipped() if k.entry.is_outline == (kind == "outline")]
        shown = [kept for kept in every if purpose in (None, kept.entry.purpose)]
        self.list.clear()
        names = library_words(self._code)
        for kept in shown:
            session = kept.entry.session
            length = f"   {clock(session.target_length)}" if session is not None and session.target_length else ""
            item = QListWidgetItem(names.get(kept.entry.name, kept.entry.name) + length)
            item.setData(_KEPT, kept)
            self.list.addItem(item)
        rows = [i for i, kept in enumerate(shown) if kept.entry.name == select]
        self.list.setCurrentRow(rows[0] if rows else 0)
        if kind == "own" and faults:
            self.said.emit(f"Left alone: {faults[0]}")
        self._show()

    def chosen(self) -> Kept | None:
        """The entry that is marked."""
        item = self.list.currentItem()
        kept: Kept | None = None if item is None else item.data(_KEPT)
        return kept

    @property
    def _code(self) -> str:
        return str(self.language.value())

    def show_language(self, code: str) -> None:
        """Offer its words in the language of the session at hand, where it has them, whenever that language changes."""
        if code != self._session_language:
            self._session_language = code
            self.language.show_value(code if code in LIBRARY else "en")
            kept = self.chosen()
            self.fill(None if kept is None else kept.entry.name)

    def choose(self, kind: str, name: str) -> None:
        """Show an entry by its name."""
        self.kind.show_value(kind)
        self.purpose.show_value(None)
        self.fill(name)

    def _show(self) -> None:
        kept = self.chosen()
        mine = kept is not None and kept.path is not None
        self.rename_button.setEnabled(mine)
        self.remove_button.setEnabled(mine)
        self.export_button.setEnabled(kept is not None)
        self.use.setEnabled(kept is not None)
        outline = kept is not None and kept.entry.is_outline
        self.length.setVisible(outline)
        self.cautions.setVisible(kept is not None and not outline)
        self.use.setText("Start from this" if outline else "Add to the session")
        if kept is None:
            self.name.setText("Nothing here yet")
            self.words.setText(
                "Save a breath set or a whole session of yours with Edit, Save to library; or import an entry that "
                "somebody gave you."
            )
            return
        entry = kept.entry.in_language(self._code)
        self.name.setText(entry.name)
        parts = [f"<p>{escape(entry.about)}</p>"] if entry.about else []
        if entry.session is not None:
            blocks = [f"{escape(block_name(b))} <i>{escape(block_notation(b))}</i>" for b in entry.session.blocks]
            parts.append("<p>" + "<br>".join(blocks) + "</p>")
            target = entry.session.target_length
            if not self.length.line.hasFocus():
                self.length.show_text(clock(target) if target else "")
        elif entry.block is not None:
            parts.append(f"<p><b>{escape(block_notation(entry.block))}</b></p>")
        cautions = "</p><p>".join(map(escape, caution_words(entry.all_cautions, self._code)))
        parts.append(f"<p><b>Cautions</b></p><p>{cautions}</p>")
        self.words.setText("".join(parts))

    # -- what can be done

    def _use(self) -> None:
        kept = self.chosen()
        if kept is None:
            return
        if not kept.entry.is_outline:  # in the language of the session it is added to
            self.add.emit(kept.entry, self.cautions.isChecked())
            return
        try:
            length = self.length.value()
        except ValueError as error:
            self.said.emit(message_of(error))
            return
        self.start.emit(kept.entry.in_language(self._code), length)

    def _rename(self) -> None:
        kept = self.chosen()
        if kept is not None:
            name, fine = QInputDialog.getText(self, "Rename", "Name", text=kept.entry.name)
            if fine and name.strip():
                self._try(lambda: self.fill(rename(kept, name).entry.name))

    def _remove(self) -> None:
        kept = self.chosen()
        if kept is None:
            return
        question = f"Remove “{kept.entry.name}” for good?"
        asked = message_box(QMessageBox.Icon.Question, "Remove", question, "", self)
        asked.setStandardButtons(QMessageBox.StandardButton.Cancel | QMessageBox.StandardButton.Discard)
        asked.button(QMessageBox.StandardButton.Discard).setText("Remove")
        if asked.exec() == QMessageBox.StandardButton.Discard:
            self._try(lambda: remove(kept))
            self.fill()

    def _export(self) -> None:
        kept = self.chosen()
        if kept is None:
            return
        start = Path.home() / f"{kept.entry.name.replace('/', '-')[:80]}{SUFFIX}"
        path = ask_save_name(self, "Export", start, f"Library entry (*{SUFFIX})", (SUFFIX,))
        if path is not None:
            self._try(lambda: write_entry(kept.entry, path), f"Exported to {path}")

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Import", str(Path.home()), f"Library entry (*{SUFFIX})")
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Put an entry's file among the producer's own."""

        def do() -> None:
            kept = keep(read_entry(path))
            self.kind.show_value("own")
            self.purpose.show_value(None)
            self.fill(kept.entry.name)
            self.said.emit(f"{kept.entry.name} is in your library, {library_folder()}")

        self._try(do)

    def _try(self, do: Callable[[], object], message: str = "") -> None:
        try:
            do()
            if message:
                self.said.emit(message)
        except (InputError, ValueError) as error:
            self.said.emit(message_of(error) if not isinstance(error, InputError) else str(error))
