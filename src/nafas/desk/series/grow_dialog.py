"""A programme by a rule: one thing grows from day to day; the rows are seen before they are added."""

from PySide6.QtWidgets import QFormLayout, QLineEdit, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import Button, PlainList, across, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.fields import Choice, Number
from nafas.desk.widgets.labels import Label
from nafas.script.model.session import Session
from nafas.series.columns import Column, columns_of
from nafas.series.growth import Rule, grown
from nafas.series.plan import MOST_ROWS, Series


def _now(column: object) -> str:
    """The rounds that a column's set has in the session, to begin with; 4 for other columns."""
    first = column.tip.split()[0] if isinstance(column, Column) and column.key.startswith("rounds of ") else "4"
    return first if first.isdecimal() else "4"


class GrowDialog(Dialog):
    """Attributes:
    made: the series with the rule's rows; None while the rule cannot be taken.
    """

    help_place = "series"

    def __init__(self, series: Series, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Rows by a rule")
        self.made: Series | None = None
        self._series = series
        columns = columns_of(session)[1:]
        self.column = Choice("What grows", *((column, column.heading) for column in columns))
        self.column.show_value(next((each for each in columns if each.key.startswith("rounds of ")), columns[0]))
        self.first, self.by, self.most = (self._line(*each) for each in (
            ("On the first day", _now(self.column.value()), "4, 1.1 or 12:00"),
            ("Added at each step", "1", "1, 0.05, −0:30"),
            ("At most", "", "no bound"),
        ))  # fmt: skip
        self.every, self.rows = Number("Days from step to step", 1, 365), Number("Days", 1, MOST_ROWS)
        self.every.setValue(3)
        self.rows.setValue(21)
        self.name = self._line("Names", "Day {day}", "Day {day}")
        form = QFormLayout()
        for field in (self.column, self.first, self.by, self.every, self.most, self.rows, self.name):
            form.addRow(field.accessibleName(), field)
        self.preview = PlainList("Rows that this makes")
        self.fault = Label("", objectName="fault", wordWrap=True)
        self.fault.setAccessibleName("What is wrong with the rule")
        self.take = Button("Add these rows", self.accept, kind="primary")
        self.take.setDefault(True)
        about = Label(
            "Talk and titles may say {day}, {days}, {name}, {rounds} and {count}: each row fills them.",
            objectName="muted",
            wordWrap=True,
        )
        cancel = Button("Cancel", self.reject, auto=False)
        fill(
            QVBoxLayout(self), form, about, (self.preview, 1), self.fault, across(None, cancel, self.take), spacing=10,
            margins=(18, 16, 18, 14),
        )  # fmt: skip
        self.resize(520, 620)
        self.column.chose.connect(lambda _: self._show())
        for number in (self.every, self.rows):
            number.valueChanged.connect(lambda _: self._show())
        self._show()

    def _line(self, name: str, text: str, hint: str) -> QLineEdit:
        line = QLineEdit(text)
        line.setAccessibleName(name)
        line.setPlaceholderText(hint)
        line.textChanged.connect(lambda _: self._show())
        return line

    def _show(self) -> None:
        """Show the rows as they would be, or what is wrong."""
        column = self.column.value()
        assert isinstance(column, Column)
        rule = Rule(
            column, self.first.text(), self.by.text(), self.every.value(), self.most.text(), self.rows.value(),
            self.name.text(),
        )  # fmt: skip
        self.preview.clear()
        try:
            self.made = grown(self._series, rule)
        except ValueError as fault:
            self.made = None
            self.fault.setText(str(fault))
        else:
            known = {variant.name: variant for variant in self._series.variants}
            new = [variant for variant in self.made.variants if known.get(variant.name) != variant]
            self.preview.addItems([f"{variant.name}: {rule.column.text(variant)}" for variant in new])
            self.fault.setText("" if new else "Every row is as this rule makes it already.")
        self.take.setEnabled(self.made is not None)
