"""A written script next to the page that it makes: what each line became, and what is to be settled."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QSignalBlocker, Qt, QTimer
from PySide6.QtGui import QColor, QTextCursor, QTextFormat
from PySide6.QtWidgets import (
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QSplitter,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.score.view import ScoreView
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.fields import ComboBox
from nafas.desk.widgets.labels import Label, WrappedLabel, set_tip
from nafas.drawing.theme import theme
from nafas.errors import InputError
from nafas.languages import READ, language_name
from nafas.plain_text import pluralize
from nafas.score.selection import Chosen
from nafas.script import Block, BreathSet, Session
from nafas.script.differences import differences
from nafas.script.text.building import Piece
from nafas.script.text.own import is_written, read_written
from nafas.script.text.reading import read_script
from nafas.timing.compile import compile_session, paced

_READ_MS = 250
_MOST_ROWS = 200
_AS_IT_IS = "as it is"


@dataclass(frozen=True)
class Read:
    """What a dialog's text became: a script of the text, or the session that it was written from, changed."""

    session: Session
    pieces: tuple[Piece, ...] = ()
    changes: tuple[str, ...] = ()


class ScriptDialog(Dialog):
    """Reads the text on its left again while it is edited, and shows the page on its right.

    Args:
        text: the script.
        name: where it is from.
        session: the one that is open.
        start: called with a session that is to be opened as a new one; False where that was not done.
        insert: called with blocks for the open session.
        change: called with the open session changed by a text that was written from it.
    """

    help_place = "scripts"

    def __init__(
        self,
        text: str,
        name: str,
        session: Session,
        start: Callable[[Session], bool],
        insert: Callable[[list[Block]], object],
        change: Callable[[Session], object],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Read a written script")
        self.resize(1180, 720)
        self._base, self._name = session, name
        self._start, self._insert, self._change = start, insert, change
        self.choices: dict[str, str] = {}
        self.read: Read | None = None
        self.text = QPlainTextEdit(text, tabChangesFocus=True)
        self.text.setAccessibleName("The text")
        self.page = ScoreView()
        self.page.setAccessibleName("The page that it makes")
        self.language = ComboBox()
        self.language.setAccessibleName("Language of the text")
        self.language.addItem("Language: as found", "")
        for code in READ:
            self.language.addItem(language_name(code), code)
        self.summary = WrappedLabel(objectName="muted")
        self.rows = QGridLayout()
        self.rows.setColumnStretch(1, 1)
        self._list = QScrollArea(widgetResizable=True)
        self._list.setAccessibleName("What is not sure")
        self._timer = QTimer(self, singleShot=True, interval=_READ_MS)
        self._timer.timeout.connect(self.read_again)
        self._lay_out()
        self.text.textChanged.connect(self._timer.start)
        self.text.cursorPositionChanged.connect(self._show_block)
        self.language.activated.connect(lambda _: self.read_again())
        self.page.chose.connect(self._show_lines)
        self.read_again()
        self.text.setFocus()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(Label(self._name, objectName="heading"), 1)
        head.addWidget(self.language)
        both = QSplitter(Qt.Orientation.Horizontal)
        both.addWidget(self.text)
        both.addWidget(self.page)
        both.setSizes([480, 700])
        both.setChildrenCollapsible(False)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.addLayout(self.rows)
        column.addStretch(1)
        self._list.setWidget(inside)
        self._list.setMaximumHeight(190)
        buttons = QDialogButtonBox()
        role = QDialogButtonBox.ButtonRole
        self.change_button = buttons.addButton("Change this session", role.ActionRole)
        self.insert_button = buttons.addButton("Insert into this session", role.ActionRole)
        self.start_button = buttons.addButton("Make a new session", role.ActionRole)
        buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.change_button.clicked.connect(self._do_change)
        self.insert_button.clicked.connect(self._do_insert)
        self.start_button.clicked.connect(self._do_start)
        buttons.rejected.connect(self.reject)
        box = QVBoxLayout(self)
        box.addLayout(head)
        box.addWidget(both, 1)
        box.addWidget(self.summary)
        box.addWidget(self._list)
        box.addWidget(buttons)

    # -- reading

    def read_again(self) -> None:
        """Read the text as it stands, with what was chosen; what cannot be read says why, and the page stays."""
        self._timer.stop()
        text = self.text.toPlainText()
        own = is_written(text)
        try:
            if own:
                session = read_written(text, self._base, self._name)
                self.read = Read(session, changes=tuple(differences(self._base, session)))
            else:
                script = read_script(text, self.language.currentData(), self.choices, self._name)
                self.read = Read(script.session, script.pieces)
            self.page.show_timeline(compile_session(self.read.session, paced()), None)
            self.summary.setText(_summary(self.read, own))
        except (InputError, ValueError) as error:
            self.read = None
            self.summary.setText(str(error))
        self.language.setVisible(not own)
        blocks = self.read is not None and bool(self.read.session.blocks)
        self.change_button.setVisible(own)
        self.change_button.setEnabled(self.read is not None and bool(self.read.changes))
        self.insert_button.setVisible(not own)
        self.insert_button.setEnabled(blocks and bool(self._base.blocks))
        self.start_button.setEnabled(blocks)
        (self.change_button if own else self.start_button).setDefault(True)
        self._fill_rows()
        self._mark_lines()

    def _fill_rows(self) -> None:
        """A row for every part that is not sure, or was chosen, with a button for each of its ways."""
        while (item := self.rows.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        pieces = self.read.pieces if self.read is not None else ()
        open_ = [piece for piece in pieces if piece.unsure or piece.key in self.choices]
        for row, piece in enumerate(open_[:_MOST_ROWS]):
            line = QPushButton(f"Line {piece.first + 1}", flat=True)
            set_tip(line, "Show it in the text")
            line.clicked.connect(lambda _, piece=piece: self._go_to(piece))
            words = piece.text if len(piece.text) <= 70 else f"{piece.text[:67]}…"
            about = WrappedLabel(f"“{words}”: {piece.unsure or piece.became}")
            ways = QHBoxLayout()
            for number, (way, what) in enumerate(piece.ways or ((_AS_IT_IS, _AS_IT_IS),)):
                button = QPushButton(what[:1].upper() + what[1:])
                button.setCheckable(True)
                button.setChecked(number == 0 and piece.key in self.choices)
                button.clicked.connect(lambda _, piece=piece, way=way: self.choose(piece, way))
                ways.addWidget(button)
            ways.addStretch(1)
            holder = QWidget()
            holder.setLayout(ways)
            ways.setContentsMargins(0, 0, 0, 0)
            for column, widget in enumerate((line, about, holder)):
                self.rows.addWidget(widget, row, column, Qt.AlignmentFlag.AlignVCenter)
        self._list.setVisible(bool(open_))

    def choose(self, piece: Piece, way: str) -> None:
        """Settle how a part is read."""
        self.choices[piece.key] = way
        self.read_again()

    # -- the two sides

    def _mark_lines(self) -> None:
        """Lines that are breathed, and lines that are not sure, by their ground."""
        colours = theme()
        marks = []
        for piece in self.read.pieces if self.read is not None else ():
            block = None if piece.block is None else self._block(piece.block)
            ground = colours.hold if piece.unsure else colours.inhale if isinstance(block, BreathSet) else None
            if ground is not None:
                marks += [self._line_mark(number, ground) for number in range(piece.first, piece.end)]
        self._marks = marks
        self._show_block()

    def _line_mark(self, line: int, ground: QColor) -> QTextEdit.ExtraSelection:
        mark = QTextEdit.ExtraSelection()
        mark.cursor = QTextCursor(self.text.document().findBlockByNumber(line))
        mark.format.setBackground(ground)
        mark.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
        return mark

    def _block(self, index: int) -> Block | None:
        blocks = self.read.session.blocks if self.read is not None else ()
        return blocks[index] if 0 <= index < len(blocks) else None

    def _show_block(self) -> None:
        """Choose the block on the page that the line under the cursor went into."""
        line = self.text.textCursor().blockNumber()
        pieces = self.read.pieces if self.read is not None else ()
        here = next((p.block for p in pieces if p.first <= line < p.end and p.block is not None), None)
        if here is not None:
            self.page.set_chosen(Chosen(here))
        self.text.setExtraSelections([*self._marks, *self._lines_of(here)])

    def _lines_of(self, block: int | None) -> list[QTextEdit.ExtraSelection]:
        """The lines of the chosen block, but those that have a mark already."""
        marked = {mark.cursor.blockNumber() for mark in self._marks}
        pieces = self.read.pieces if self.read is not None and block is not None else ()
        own = (piece for piece in pieces if piece.block == block)
        lines = {number for piece in own for number in range(piece.first, piece.end)} - marked
        return [self._line_mark(number, theme().chosen) for number in sorted(lines)]

    def _show_lines(self, chosen: Chosen) -> None:
        """Go to the first line of the block that was clicked on the page."""
        self.page.set_chosen(chosen, reveal=False)
        piece = next((p for p in (self.read.pieces if self.read else ()) if p.block == chosen.block), None)
        if piece is not None:
            self._go_to(piece)

    def _go_to(self, piece: Piece) -> None:
        with QSignalBlocker(self.text):
            self.text.setTextCursor(QTextCursor(self.text.document().findBlockByNumber(piece.first)))
        self.text.centerCursor()
        self._show_block()

    # -- done

    def _do_change(self) -> None:
        if self.read is not None:
            self._change(self.read.session)
            self.accept()

    def _do_insert(self) -> None:
        if self.read is not None:
            self._insert(list(self.read.session.blocks))
            self.accept()

    def _do_start(self) -> None:
        self.read_again()
        if self.read is None:
            return
        text = self.text.toPlainText()
        session = read_written(text, None, self._name) if is_written(text) else self.read.session
        if self._start(session):
            self.accept()


def _summary(read: Read, own: bool) -> str:
    if own:
        changes = "; ".join(read.changes[:3]) + ("…" if len(read.changes) > 3 else "")
        return f"Compared with the open session: {changes or 'nothing is changed'}"
    blocks = read.session.blocks
    sets = sum(isinstance(block, BreathSet) for block in blocks)
    unsure = sum(bool(piece.unsure) for piece in read.pieces)
    language = language_name(read.session.language)
    words = f"{pluralize(len(blocks), 'block')}, {pluralize(sets, 'breath set')}, in {language}."
    return f"{words} {pluralize(unsure, 'part')} of it to look at:" if unsure else f"{words} All of it is read."
