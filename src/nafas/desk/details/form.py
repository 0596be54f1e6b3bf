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
from nafas.script import Block, BreathSet, Session
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.exact import parse_seconds


class Form(QWidget):
    """A column of labelled fields under headings. Subclasses add fields, show values, and name the `first` field, where
    a change most likely begins."""

    first: QWidget
    show_value: Callable[[Any], None]
    """Shows the session, block or phase it is for."""

    def __init__(self, document: Document, heading: str) -> None:
        super().__init__()
        self.document = document
        self.index = -1
        self._groups: dict[QWidget, QFormLayout] = {}
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

    def line(self, label: str, name: str, parse: Callable[[str], object], hint: str = "") -> CheckedLine:
        """A checked line bound to the field `name`."""
        return self.free_line(label, parse, lambda value: self.set(name, value, label), hint)

    def free_line(
        self, label: str, parse: Callable[[str], object], then: Callable[[Any], None], hint: str = ""
    ) -> CheckedLine:
        """A checked line whose value goes to `then`."""
        field = CheckedLine(label, parse, hint)
        field.changed.connect(then)
        field.left.connect(self.document.part)
        self.row(label, field)
        return field

    def choice(self, label: str, then: Callable[[Any], None], *options: tuple[object, str]) -> Choice:
        """A choice whose value goes to `then`."""
        field = Choice(label, *options)
        field.chose.connect(then)
        self.row(label, field)
        return field

    def number(self, label: str, low: int, high: int, then: Callable[[int], None], suffix: str = "") -> Number:
        """A whole number that goes to `then`."""
        field = Number(label, low, high)
        field.setSuffix(suffix)
        field.changed.connect(then)
        self.row(label, field)
        return field

    def tick(self, text: str, then: Callable[[bool], None], tip: str = "") -> QCheckBox:
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
        self.rest.addWidget(Label(label))
        self.rest.addWidget(field, 1)
        return field

    def lock(self) -> QCheckBox:
        """The block's lock."""
        return self.tick(
            "Keep as it is when fitting",
            lambda on: self.set("locked", on, "Lock"),
            "A locked block is left alone when the session is fitted to a length (Ctrl+L)",
        )

    def fields(self) -> Session | Block:
        session = self.document.session
        return session if self.index < 0 else session.blocks[self.index]

    def set(self, name: str, value: object, label: str) -> None:
        """Change one field; what does not fit is said and changes nothing."""
        self.set_many({name: value}, label)

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


def shown_set(form: Form) -> BreathSet:
    """The breath set that a form shows."""
    block = form.fields()
    assert isinstance(block, BreathSet)
    return block


def seconds(text: str) -> Fraction:
    """Exact seconds as typed, with or without an s."""
    return parse_seconds(text.strip().removesuffix("s").strip())


def optional(parse: Callable[[str], object]) -> Callable[[str], object]:
    """`parse`, but nothing typed is None."""
    return lambda text: parse(text) if text.strip() else None
