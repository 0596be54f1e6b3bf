"""The right of the Rehearse view: how it begins, breathing along, the marks, and how it felt."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QFormLayout,
    QGridLayout,
    QLineEdit,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from nafas.desk import preferences
from nafas.desk.widgets.controls import Button, PlainList, Tick
from nafas.desk.widgets.fields import ComboBox
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.widgets.scrolled import scrolled_column
from nafas.script.model.marks import Mark

FEELINGS = ("", "calm", "neutral", "agitated", "sleepy", "awake", "light-headed", "short of breath")
_CAUTION = (
    "Breathe as much as is easy. Stop, and breathe naturally, if you are light-headed, tingling, short of breath or "
    "uneasy. Not while driving, in or near water, or at machines. Nothing here is a score, and a longer hold is not a "
    "better one."
)
FROM = (("the start", "start"), ("what is chosen", "chosen"), ("the playhead", "playhead"))
LEADS = (("3 s", 3.0), ("5 s", 5.0), ("10 s", 10.0), ("none", 0.0))
SENSES = (("sound and picture", "both"), ("sound only, eyes closed", "sound"), ("picture only, no sound", "picture"))
ALONG = (("not measured", "no"), ("Space held: breathing in", "one"), ("↑ held in, ↓ held out", "two"))


class RehearseSide(QWidget):
    """Signals: toggled: begin or end; open_mark, settle_mark, write_mark, remove_mark: a mark's place in the list;
    hear_note: the same, of a spoken note; keep: how it felt is to be kept; still: reduced motion."""

    toggled = Signal()
    open_mark = Signal(int)
    settle_mark = Signal(int, bool)
    remove_mark = Signal(int)
    hear_note = Signal(int)
    write_mark = Signal(int)
    keep = Signal()
    still = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        box = scrolled_column(self)
        caution = Label(_CAUTION, objectName="muted", wordWrap=True)
        box.addWidget(caution)
        box.addWidget(Label("Begin", objectName="section"))
        form = QFormLayout()
        self.start = self._choice(form, "From", FROM)
        self.lead = self._choice(form, "Lead-in", LEADS)
        self.senses = self._choice(form, "With", SENSES)
        self.along = self._choice(form, "Breath", ALONG)
        box.addLayout(form)
        self.loop = Tick("Repeat this set")
        self.still_box = Tick("Rows change at once (less motion)")
        self.still_box.toggled.connect(self.still)
        self.still_box.clicked.connect(preferences.choose_less_motion)
        box.addWidget(self.loop)
        box.addWidget(self.still_box)
        self.button = Button(
            "Begin", self.toggled, kind="primary", tip="Start or stop (Space on the guide; Escape stops)"
        )
        box.addWidget(self.button)
        self.breathed = Label(wordWrap=True)
        box.addWidget(self.breathed)
        self.marks_head = Label("Marks", objectName="section")
        box.addWidget(self.marks_head)
        self.marks = PlainList("Marks")
        self.marks.setMinimumHeight(120)
        self.marks.setWordWrap(True)
        set_tip(self.marks, "Enter opens what a mark is about; tick its box when it is settled; Delete removes it")
        self.marks.itemActivated.connect(lambda item: self.open_mark.emit(item.data(Qt.ItemDataRole.UserRole)))
        self.marks.itemChanged.connect(self._checked)
        box.addWidget(self.marks, 1)
        grid = QGridLayout()  # two rows: the side is narrow
        names = ("Open", "Words…", "Hear", "Remove")
        self.open_button, self.write, self.hear, self.remove = buttons = tuple(map(QPushButton, names))
        set_tip(self.write, "Note about this place")
        set_tip(self.hear, "Play the spoken note")
        delete = QShortcut(QKeySequence.StandardKey.Delete, self.marks)
        delete.setContext(Qt.ShortcutContext.WidgetShortcut)
        delete.activated.connect(lambda: self._of_current(self.remove_mark))
        signals = (self.open_mark, self.write_mark, self.hear_note, self.remove_mark)
        for index, (button, signal) in enumerate(zip(buttons, signals)):
            button.clicked.connect(lambda _=False, signal=signal: self._of_current(signal))
            grid.addWidget(button, index // 2, index % 2)
        box.addLayout(grid)
        self.marks.currentRowChanged.connect(lambda _: self._show_buttons())
        box.addWidget(Label("How it felt", objectName="section"))
        felt = QFormLayout()
        self.before, self.after = self._feeling(felt, "Before"), self._feeling(felt, "After")
        self.note = QLineEdit()
        self.note.setMaxLength(2000)
        self.note.setPlaceholderText("in your own words")
        self.note.setAccessibleName("Note on this rehearsal")
        felt.addRow("Note", self.note)
        box.addLayout(felt)
        self.keep_button = Button(
            "Keep this rehearsal", self.keep, tip="Save in the ledger, with this version of the session"
        )
        box.addWidget(self.keep_button)
        self.record = Label(objectName="muted", wordWrap=True)
        box.addWidget(self.record)
        self._marks: Sequence[Mark] = ()
        self._show_buttons()

    def _choice(self, form: QFormLayout, name: str, of: Sequence[tuple[str, object]]) -> ComboBox:
        made = ComboBox()
        made.setAccessibleName(name)
        for text, value in of:
            made.addItem(text, value)
        form.addRow(name, made)
        return made

    def _feeling(self, form: QFormLayout, name: str) -> ComboBox:
        made = self._choice(form, name, [(feeling, feeling) for feeling in FEELINGS])
        made.setEditable(True)
        line = made.lineEdit()
        if line is not None:
            line.setMaxLength(300)
            line.setPlaceholderText("choose, or write")
        return made

    def show_running(self, running: bool) -> None:
        self.button.setText("End" if running else "Begin")
        for part in (self.start, self.lead, self.senses, self.along, self.loop):
            part.setEnabled(not running)

    def show_marks(self, marks: Sequence[Mark], wheres: Sequence[str]) -> None:
        """Show the marks, each with where it stands."""
        current = self.marks.currentRow()
        self._marks = marks
        self.marks.blockSignals(True)
        self.marks.clear()
        for index, (mark, where) in enumerate(zip(marks, wheres)):
            words = f": {mark.note}" if mark.note else ""
            item = QListWidgetItem(f"{where}   {mark.felt.value}{words}")
            item.setData(Qt.ItemDataRole.UserRole, index)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if mark.settled else Qt.CheckState.Unchecked)
            self.marks.addItem(item)
        self.marks.blockSignals(False)
        open_ones = sum(not mark.settled for mark in marks)
        self.marks_head.setText(f"Marks ({open_ones} open)" if marks else "Marks")
        if marks:
            self.marks.setCurrentRow(min(max(0, current), len(marks) - 1))
        self._show_buttons()

    def _show_buttons(self) -> None:
        row = self.marks.currentRow()
        there = 0 <= row < len(self._marks)
        self.open_button.setEnabled(there)
        self.write.setEnabled(there)
        self.remove.setEnabled(there)
        self.hear.setEnabled(there and bool(self._marks[row].sound))

    def _of_current(self, signal: object) -> None:
        item = self.marks.currentItem()
        if item is not None:
            signal.emit(item.data(Qt.ItemDataRole.UserRole))  # type: ignore[attr-defined]

    def _checked(self, item: QListWidgetItem) -> None:
        self.settle_mark.emit(item.data(Qt.ItemDataRole.UserRole), item.checkState() is Qt.CheckState.Checked)
