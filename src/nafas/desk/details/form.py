"""A form for one kind of thing: labelled fields that change the session, each change one step of undo."""

from collections.abc import Callable
from fractions import Fraction
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QFormLayout, QLabel, QVBoxLayout, QWidget

from nafas.desk.document import Document
from nafas.desk.widgets.controls import Tick, fill
from nafas.desk.widgets.fields import Checked, CheckedLine, Choice, Number, TextField, message_of
from nafas.desk.widgets.labels import Label
from nafas.desk.widgets.section import Section
from nafas.errors import InputError
from nafas.script import Block, BreathSet, Pattern, Phase, Session
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.exact import parse_seconds
from nafas.script.notation.phases import format_pattern, parse_pattern


class Form(QWidget):
    """A column of labelled fields under headings.

    Subclasses say in rows which fields of the model it shows, and name the `first` field, where a change most likely
    begins. A row shows and changes its field by itself; `show_more` shows what is in no row.
    """

    first: QWidget

    def __init__(self, document: Document, heading: str) -> None:
        super().__init__()
        self.document = document
        self.index = -1
        self._groups: dict[QWidget, QFormLayout] = {}
        self._bound: list[tuple[str, QWidget | None, Callable[[Any], None]]] = []
        self.faults = Label(objectName="fault", wordWrap=True)
        self.faults.hide()
        self.rest = QVBoxLayout()
        fill(QVBoxLayout(self), self.faults, (self.rest, 1), spacing=4, margins=(6, 8, 12, 8))
        self.form = self.section(heading)

    def section(self, heading: str) -> QFormLayout:
        """Begin a group of fields; fields added from now on stand in it."""
        self.heading = Label(heading, objectName="section")
        self.rest.addWidget(self.heading)
        self.form = QFormLayout()
        self._arrange()
        self.rest.addLayout(self.form)
        return self.form

    def fold(self, heading: str) -> Section:
        """Begin a group of fields that folds; fields added from now on stand in it."""
        section = Section(heading)
        self.rest.addWidget(section)
        self.form = section.form
        self._arrange()
        return section

    def _arrange(self) -> None:
        self.form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        self.form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.DontWrapRows)
        self.form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
        self.form.setHorizontalSpacing(10)
        self.form.setVerticalSpacing(6)

    def whole(self, field: QWidget) -> None:
        """Add something as wide as the group that was begun last."""
        self.form.addRow(field)
        self._groups[field] = self.form

    def row(self, label: str, field: QWidget) -> None:
        """Add a field to the group that was begun last."""
        self.form.addRow(label, field)
        self._groups[field] = self.form

    def show_row(self, field: QWidget, visible: bool) -> None:
        """Show a field with its label, or hide both."""
        self._groups[field].setRowVisible(field, visible)

    def name_row(self, field: QWidget, label: str) -> None:
        """Give a field another label."""
        label_ = self._groups[field].labelForField(field)
        if isinstance(label_, QLabel):
            label_.setText(label)

    def bind(self, name: str, field: QWidget, show: Callable[[Any], None]) -> None:
        """Show the value of `name` in a field whenever the form is shown; hide the field where there is no such value.

        A name with a dot is a part of a field: `style.cue`.
        """
        self._bound.append((name, field, show))

    def line(
        self, label: str, name: str, parse: Callable[[str], object], hint: str = "", write: Callable[[Any], str] = str
    ) -> CheckedLine:
        """A checked line for the field `name`, shown as `write` gives it; empty for None."""
        field = self.free_line(label, parse, lambda value: self.set(name, value, label), hint)
        self.bind(name, field, lambda value: field.show_text("" if value is None else write(value)))
        return field

    def free_line(
        self, label: str, parse: Callable[[str], object], then: Callable[[Any], None], hint: str = ""
    ) -> CheckedLine:
        """A checked line whose value goes to `then`."""
        field = CheckedLine(label, parse, hint)
        field.changed.connect(then)
        field.left.connect(self.document.part)
        self.row(label, field)
        return field

    def choice(self, label: str, name: str, *options: tuple[object, str]) -> Choice:
        """A choice for the field `name`."""
        field = self.free_choice(label, lambda value: self.set(name, value, label), *options)
        self.bind(name, field, field.show_value)
        return field

    def free_choice(self, label: str, then: Callable[[Any], None], *options: tuple[object, str]) -> Choice:
        """A choice whose value goes to `then`."""
        field = Choice(label, *options)
        field.chose.connect(then)
        self.row(label, field)
        return field

    def number(
        self, label: str, name: str, low: int, high: int, suffix: str = "", none: str = "", scale: int = 1
    ) -> Number:
        """A whole number for the field `name`, which holds it divided by `scale`; `none` names the lowest."""

        def take(value: int) -> None:
            self.set(name, value if scale == 1 else value / scale, label)

        field = self.free_number(label, low, high, take, suffix)
        field.setSpecialValueText(none)
        self.bind(name, field, lambda value: field.show_value(round(value * scale)))
        return field

    def free_number(self, label: str, low: int, high: int, then: Callable[[int], None], suffix: str = "") -> Number:
        """A whole number that goes to `then`."""
        field = Number(label, low, high)
        field.setSuffix(suffix)
        field.changed.connect(then)
        self.row(label, field)
        return field

    def tick(self, text: str, name: str, tip: str = "") -> QCheckBox:
        """A box to tick for the field `name`."""
        words = name.rpartition(".")[2].replace("_", " ")
        field = self.free_tick(text, lambda on: self.set(name, on, words), tip)
        self.bind(name, field, field.setChecked)
        return field

    def free_tick(self, text: str, then: Callable[[bool], None], tip: str = "") -> QCheckBox:
        """A box to tick."""
        field = Tick(text, then, tip=tip)
        self.whole(field)
        return field

    def text(self, label: str, name: str, hint: str) -> TextField:
        """Paragraphs bound to the field `name`, filling the room that is left."""
        field = TextField(label, hint)
        field.changed.connect(lambda value: self.set(name, value, label))
        field.left.connect(self.document.part)
        field.refused.connect(self.document.trouble)
        self._bound.append((name, None, field.show_paragraphs))
        self.rest.addWidget(Label(label))
        self.rest.addWidget(field, 1)
        return field

    def lock(self) -> QCheckBox:
        """The block's lock."""
        return self.tick(
            "Keep as it is when fitting",
            "locked",
            "A locked block is not changed when the session is fitted to a length (Ctrl+L)",
        )

    def fields(self) -> Session | Block | Phase:
        """What the form shows."""
        session = self.document.session
        return session if self.index < 0 else session.blocks[self.index]

    def set(self, name: str, value: object, label: str) -> None:
        """Change one field, or a part of one; what does not fit is said and changes nothing."""
        field, _, part = name.partition(".")
        if part:
            value = {**getattr(self.fields(), field).fields(), part: value}
        self.set_many({field: value}, label)

    def set_many(self, fields: dict[str, object], label: str) -> None:
        """Change some fields in one step."""
        session = self.document.session
        self.take(
            lambda: change(session, **fields) if self.index < 0 else change_block(session, self.index, **fields),
            label,
            " ".join(fields),
        )

    def take(self, make: Callable[[], Session], label: str, key: str) -> None:
        """Take a changed session as one step; what does not fit is said and changes nothing."""
        try:
            new = make()
        except (ValueError, InputError, IndexError) as error:
            self.faults.setText(str(error) if isinstance(error, IndexError) else message_of(error))
            self.faults.show()
            self.document.trouble.emit(self.faults.text())  # said below too: a long form may be scrolled away
            return
        self.faults.hide()
        self.document.edit(new, f"change {label.lower()}", f"{self.index} {key}")

    def untaken(self) -> str:
        """What stands in the form and is not in the session, as its fault says it; "" where all of it is."""
        if not self.faults.isHidden():
            return self.faults.text()
        marked = (field.fault.text() for field in self.findChildren(Checked) if not field.fault.isHidden())
        return next(marked, "")

    def show_index(self, index: int) -> None:
        if index != self.index:
            self.faults.hide()
        self.index = index
        self.show_value(self.fields())

    def show_value(self, value: Any) -> None:
        """Show a session, block or phase."""
        for name, field, show in self._bound:
            *path, last = name.split(".")
            owner = value
            for part in path:
                owner = getattr(owner, part)
            there = hasattr(owner, last)
            if there:
                show(getattr(owner, last))
            if path and field is not None:
                self.show_row(field, there)
        self.show_more(value)

    def show_more(self, value: Any) -> None:
        """Show what is in no row of its own."""


def shown_set(form: Form) -> BreathSet:
    """The breath set that a form shows."""
    block = form.fields()
    assert isinstance(block, BreathSet)
    return block


def parse_whole(text: str) -> Pattern:
    """A whole pattern as typed."""
    return Pattern(phases=parse_pattern(text))


def write_whole(pattern: Pattern) -> str:
    """A whole pattern as a person types it."""
    return format_pattern(pattern.phases)


def seconds(text: str) -> Fraction:
    """Exact seconds as typed, with or without an s."""
    return parse_seconds(text.strip().removesuffix("s").strip())


def optional(parse: Callable[[str], object]) -> Callable[[str], object]:
    """`parse`, but nothing typed is None."""
    return lambda text: parse(text) if text.strip() else None
