"""Details of what is chosen: the session itself, or one block. Every change is one step of undo."""

from collections.abc import Callable
from fractions import Fraction
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QGridLayout,
    QLabel,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.document import Document
from nafas.desk.fields import CheckedLine, Choice, Number, TextField, message_of
from nafas.script import Block, BreathSet, Counting, Pattern, Phase, PhaseKind, Rest, Session, Talk
from nafas.script.edit import block_name, change, change_block
from nafas.script.exact import decimal_text, parse_seconds
from nafas.script.notation import format_pattern, parse_pattern
from nafas.script.phase import MAX_COUNTS
from nafas.script.pacing import MAX_ROUNDS
from nafas.script.session import NightSea
from nafas.timing.clock import clock, parse_clock

_NAMES = {
    PhaseKind.INHALE: "Inhale",
    PhaseKind.HOLD_FULL: "Hold full",
    PhaseKind.EXHALE: "Exhale",
    PhaseKind.HOLD_EMPTY: "Hold empty",
}
_LANGUAGES = (
    ("en", "English"),
    ("es", "Spanish"),
    ("fr", "French"),
    ("it", "Italian"),
    ("de", "German"),
    ("hi", "Hindi"),
)


class _Form(QWidget):
    """A column of labelled fields for one kind of thing. Subclasses add fields and show values."""

    def __init__(self, document: Document, heading: str) -> None:
        super().__init__()
        self.document = document
        self.index = -1
        self.faults = QLabel(objectName="fault")
        self.faults.setWordWrap(True)
        self.faults.hide()
        box = QVBoxLayout(self)
        box.setContentsMargins(6, 8, 12, 8)
        box.addWidget(QLabel(heading, objectName="section"))
        self.form = QFormLayout()
        self.form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        self.form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.DontWrapRows)
        self.form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
        self.form.setHorizontalSpacing(10)
        self.form.setVerticalSpacing(7)
        box.addLayout(self.form)
        self.rest = QVBoxLayout()
        box.addLayout(self.rest, 1)
        box.addWidget(self.faults)

    def line(self, label: str, name: str, parse: Callable[[str], object], hint: str = "") -> CheckedLine:
        """A checked line bound to the field `name`."""
        field = CheckedLine(label, parse, hint)
        field.changed.connect(lambda value: self.set(name, value, label))
        field.left.connect(self.document.part)
        self.form.addRow(label, field)
        return field

    def text(self, label: str, name: str, hint: str) -> TextField:
        """Paragraphs bound to the field `name`, filling the room that is left."""
        field = TextField(label, hint)
        field.changed.connect(lambda value: self.set(name, value, label))
        field.left.connect(self.document.part)
        self.rest.addWidget(QLabel(label))
        self.rest.addWidget(field, 1)
        return field

    def fields(self) -> Session | Block:
        session = self.document.session
        return session if self.index < 0 else session.blocks[self.index]

    def set(self, name: str, value: object, label: str) -> None:
        """Change one field; what does not fit is said and changes nothing."""
        session = self.document.session
        try:
            new = (
                change(session, **{name: value})
                if self.index < 0
                else change_block(session, self.index, **{name: value})
            )
        except (ValueError, IndexError) as error:
            self.faults.setText(message_of(error) if isinstance(error, ValueError) else str(error))
            self.faults.show()
            return
        self.faults.hide()
        self.document.edit(new, f"change {label.lower()}", f"{self.index} {name}")

    def show_index(self, index: int) -> None:
        if index != self.index:
            self.faults.hide()
        self.index = index
        self.show(self.fields())

    def show(self, value: Any) -> None:
        raise NotImplementedError


def _seconds(text: str) -> Fraction:
    return parse_seconds(text.strip().removesuffix("s").strip())


def _optional(parse: Callable[[str], object]) -> Callable[[str], object]:
    return lambda text: parse(text) if text.strip() else None


class SessionForm(_Form):
    """The whole session: shown when no block is chosen."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Session")
        self.title = self.line("Title", "title", str.strip, "Untitled session")
        self.target = self.line("Target", "target_length", _optional(parse_clock), "none; such as 6:00")
        self.count = self.line("Count", "count_length", _seconds, "seconds a count")
        self.opening = self.line("Opening", "opening", _seconds, "seconds before the first word")
        self.closing = self.line("Closing", "closing", _seconds, "seconds after the last")
        self.language = Choice("Language", *_LANGUAGES)
        self.language.chose.connect(lambda value: self.set("language", value, "Language"))
        self.form.addRow("Language", self.language)
        self.bell = QCheckBox("End bell")
        self.bell.clicked.connect(lambda on: self.set("end_bell", on, "End bell"))
        self.bed = QCheckBox("Bed: sea at night")
        self.bed.clicked.connect(lambda on: self.set("bed", NightSea() if on else None, "Bed"))
        self.form.addRow("", self.bell)
        self.form.addRow("", self.bed)
        self.note = QLabel(objectName="muted")
        self.note.setWordWrap(True)
        self.rest.addWidget(self.note)
        self.rest.addStretch(1)

    def show(self, value: Any) -> None:
        session: Session = value
        self.title.show_text(session.title)
        self.target.show_text("" if session.target_length is None else clock(session.target_length))
        self.count.show_text(decimal_text(session.count_length))
        self.opening.show_text(decimal_text(session.opening))
        self.closing.show_text(decimal_text(session.closing))
        self.language.show_value(session.language)
        self.bell.setChecked(session.end_bell)
        self.bed.setChecked(session.bed is not None)
        book = session.voice.take_book
        voice = f"take book {book.path}" if book else "the stand-in voice"
        loudness, ceiling = (
            f"{value:g}".replace("-", "\N{MINUS SIGN}") for value in (session.master.loudness, session.master.ceiling)
        )
        self.note.setText(f"Voice: {voice}. Master: {loudness} LUFS, at most {ceiling} dBTP. Lengths are in seconds.")


class TalkForm(_Form):
    """Talk and rest: words, pauses, and how long."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Talk")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.between = self.line("Between sentences", "sentence_pause", _seconds)
        self.paragraph = self.line("Between paragraphs", "paragraph_pause", _seconds)
        self.after = self.line("Pause after", "pause_after", _seconds)
        self.slot = self.line("Fixed length", "slot", _optional(_seconds), "as long as it takes")
        self.words = self.text("Words", "paragraphs", "What is said. A new line begins a paragraph.")

    def show(self, value: Any) -> None:
        block: Talk = value
        self.title.show_text(block.title)
        self.between.show_text(decimal_text(block.sentence_pause))
        self.paragraph.show_text(decimal_text(block.paragraph_pause))
        self.after.show_text(decimal_text(block.pause_after))
        self.slot.show_text("" if block.slot is None else decimal_text(block.slot))
        self.words.show_paragraphs(block.paragraphs)


class RestForm(_Form):
    """Natural breath for an exact time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Natural breath")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.seconds = self.line("Seconds", "seconds", _seconds)
        self.between = self.line("Between sentences", "sentence_pause", _seconds)
        self.words = self.text("Words over its start", "paragraphs", "May stay empty.")

    def show(self, value: Any) -> None:
        block: Rest = value
        self.title.show_text(block.title)
        self.seconds.show_text(decimal_text(block.seconds))
        self.between.show_text(decimal_text(block.sentence_pause))
        self.words.show_paragraphs(block.paragraphs)


class SetForm(_Form):
    """A breath set: notation, rounds, count length, style, and each phase."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Breath set")
        self.title = self.line("Title", "title", str.strip, "the pattern")
        self.pattern = self.line("Pattern", "pattern", lambda text: Pattern(phases=parse_pattern(text)), "4-2-8")
        self.rounds = Number("Rounds", 1, MAX_ROUNDS)
        self.rounds.changed.connect(lambda value: self.set("rounds", value, "Rounds"))
        self.form.addRow("Rounds", self.rounds)
        self.count = self.line("Count", "count_length", _optional(_seconds), "as the session")
        self.cue = Choice("Cue", ("on-one", "takes count one"), ("ahead", "comes ahead"))
        self.cue.chose.connect(lambda value: self._style(cue=value))
        self.form.addRow("Cue", self.cue)
        self.room = Number("Cue room", 1, 8)
        self.room.setSuffix(" counts")
        self.room.changed.connect(lambda value: self._style(cue_room=value))
        self.form.addRow("Cue room", self.room)
        self.counting = Choice("Counting", (Counting.UP, "up"), (Counting.DOWN, "down"), (Counting.SILENT, "silent"))
        self.counting.chose.connect(lambda value: self._style(counting=value))
        self.form.addRow("Counting", self.counting)
        self.chimes = QCheckBox("A chime on every phase")
        self.chimes.clicked.connect(lambda on: self.set("chimes", on, "Chimes"))
        self.form.addRow("", self.chimes)
        self.phases = QGridLayout()
        self.phases.setVerticalSpacing(6)
        self.rest.addWidget(QLabel("Phases", objectName="section"))
        self.rest.addLayout(self.phases)
        self.rest.addStretch(1)
        self._rows: list[tuple[QLabel, Number, Choice]] = []

    def _style(self, **fields: object) -> None:
        block = self.fields()
        assert isinstance(block, BreathSet)
        self.set("style", block.style.model_copy(update=fields), "Style")

    def _phase(self, place: int, **fields: object) -> None:
        block = self.fields()
        assert isinstance(block, BreathSet)
        phases = list(block.pattern.phases)
        try:
            phases[place] = Phase.model_validate({**phases[place].model_dump(), **fields})
            self.set("pattern", Pattern(phases=tuple(phases)), "Pattern")
        except ValueError as error:
            self.faults.setText(message_of(error))
            self.faults.show()
            self.show(block)

    def show(self, value: Any) -> None:
        block: BreathSet = value
        self.title.show_text(block.title)
        self.pattern.show_text(format_pattern(block.pattern.phases))
        self.rounds.show_value(block.rounds)
        self.count.show_text("" if block.count_length is None else decimal_text(block.count_length))
        self.count.line.setPlaceholderText(f"as the session: {decimal_text(self.document.session.count_length)}")
        self.cue.show_value(block.style.cue)
        self.room.show_value(block.style.cue_room)
        self.form.setRowVisible(self.room, block.style.cue == "ahead")
        self.counting.show_value(block.style.counting)
        self.chimes.setChecked(block.chimes)
        self._show_phases(block.pattern.phases)

    def _show_phases(self, phases: tuple[Phase, ...]) -> None:
        while len(self._rows) < len(phases):
            self._add_row()
        for place, (label, counts, counting) in enumerate(self._rows):
            seen = place < len(phases)
            for widget in (label, counts, counting):
                widget.setVisible(seen)
            if seen:
                name = _NAMES[phases[place].kind]
                label.setText(name)
                counts.setAccessibleName(f"{name} counts")
                counting.setAccessibleName(f"{name} counting")
                counts.show_value(phases[place].counts)
                counting.show_value(phases[place].counting)

    def _add_row(self) -> None:
        place = len(self._rows)
        label, counts = QLabel(), Number("counts", 0, MAX_COUNTS)
        options = (
            (None, "as the set"),
            (Counting.UP, "up"),
            (Counting.DOWN, "down"),
            (Counting.SILENT, "silent"),
        )
        counting = Choice("counting", *options)
        counts.changed.connect(lambda value: self._phase(place, counts=value))
        counting.chose.connect(lambda value: self._phase(place, counting=value))
        for column, widget in enumerate((label, counts, counting)):
            self.phases.addWidget(widget, place, column)
        self._rows.append((label, counts, counting))


class Details(QScrollArea):
    """The panel at the right."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Details")
        self._document = document
        self._stack = QStackedWidget()
        self.session_form = SessionForm(document)
        self.talk, self.rest, self.breath = TalkForm(document), RestForm(document), SetForm(document)
        for form in (self.session_form, self.talk, self.rest, self.breath):
            self._stack.addWidget(form)
        self.setWidget(self._stack)

    @property
    def form(self) -> _Form:
        """The form that is shown."""
        return self._stack.currentWidget()

    def show_block(self, index: int) -> None:
        """Show a block, or the session for -1 or a block that is gone."""
        self.flush()
        blocks = self._document.session.blocks
        if not 0 <= index < len(blocks):
            form, index = self.session_form, -1
        else:
            block = blocks[index]
            form = self.breath if isinstance(block, BreathSet) else self.rest if isinstance(block, Rest) else self.talk
        self._stack.setCurrentWidget(form)
        form.show_index(index)
        self._stack.setAccessibleName("Session" if index < 0 else block_name(blocks[index]))

    def flush(self) -> None:
        """Hand over words still being typed."""
        for form in (self.talk, self.rest):
            form.words.flush()

    def focus_first(self) -> None:
        """Put the cursor where a change most likely begins."""
        form = self.form
        field = {
            self.talk: self.talk.words,
            self.rest: self.rest.words,
            self.breath: self.breath.pattern.line,
        }
        field.get(form, self.session_form.title.line).setFocus(Qt.FocusReason.ShortcutFocusReason)
