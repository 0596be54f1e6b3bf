"""What is said within a hold, in rows: where, and in which words; and what comes of it in a sentence."""

from typing import Any

from PySide6.QtWidgets import QVBoxLayout, QWidget

from nafas.desk.details.one_phase import OnePhase
from nafas.desk.details.row_list import FieldRow, RowList
from nafas.desk.widgets.controls import Button, across
from nafas.desk.widgets.fields import CheckedLine, Choice, Number
from nafas.desk.widgets.labels import Label, set_tip
from nafas.script import Phase
from nafas.script.model.phase import Call
from nafas.script.notation.phases import parse_pattern, write_calls
from nafas.suggest.detail_words import call_text, calls_words, usual_call

_WHERE = (("half", "half-way"), ("left", "before the end"), ("in", "after the start"), ("release", "at its end"))


def _parse_calls(text: str) -> object:
    return parse_pattern(f"in 1, hold 300s calls {text}, out 1")[1].calls if text.strip() else ()


class CallRow(FieldRow):
    """One call."""

    def __init__(self, fields: "CallFields", number: int) -> None:
        super().__init__(lambda: fields.remove(number), "Remove this call")
        self.units = Number("How far", 1, 300)
        self.units.setFixedWidth(52)
        self.units.changed.connect(lambda units: fields.change(number, units=units))
        self.where = Choice("Where", *_WHERE)
        self.where.chose.connect(lambda where: fields.move(number, where))
        self.text = CheckedLine("Words", str.strip)
        self.text.changed.connect(lambda text: fields.change(number, text=text or None))
        self.text.line.setMinimumWidth(50)
        where = QVBoxLayout()
        where.setSpacing(4)
        where.addLayout(across(self.units, (self.where, 1)))
        where.addWidget(self.text)
        both = QWidget()
        both.setLayout(where)
        where.setContentsMargins(0, 0, 0, 0)
        self.place((both, 1))

    def show_call(self, call: Call, usual: str) -> None:
        self.units.setVisible(call.units > 0)
        if call.units:
            self.units.show_value(call.units)
        self.where.show_value(call.at)
        self.text.show_text(call.text or "")
        self.text.line.setPlaceholderText(usual)


class CallFields:
    """Adds the rows to a form of a phase and keeps them right."""

    def __init__(self, form: OnePhase) -> None:
        self._form = form
        self.section = form.fold("Calls in the hold")
        self.list = RowList(lambda index: CallRow(self, index))
        form.whole(self.list)
        self.add = Button(
            "A call\N{HORIZONTAL ELLIPSIS}",
            self._add,
            kind="small",
            tip="Something said within the hold: half-way, a few seconds before its end, at its release",
        )
        form.whole(self.add)
        self.words = Label(objectName="muted", wordWrap=True)
        form.whole(self.words)
        self.written = form.line("As written", "calls", _parse_calls, "half 10 5 release", write_calls)
        set_tip(
            self.written,
            "half, release, 10 (ten left), +20 (after twenty), each with words in quotes if it has its own",
        )

    @property
    def _calls(self) -> list[Call]:
        return list(self._form.phase.calls)

    def _add(self) -> None:
        call = usual_call(self._form.phase)
        if call is None:  # the usual ones are there: one more, later in the hold than any that counts down
            taken = {call.units for call in self._calls if call.at == "left"}
            units = next((n for n in range(10, int(self._form.phase.size)) if n not in taken), 0)
            call = Call(at="left", units=units) if units else None
        if call is not None:
            self._form.set_phase(calls=(*self._calls, call))

    def change(self, number: int, **fields: Any) -> None:
        """Change a call; what cannot be is reported and changes nothing."""
        calls = self._calls
        if number < len(calls):
            try:
                calls[number] = calls[number].replace(**fields)
            except ValueError as error:
                self._form.refuse(error)
                return
            self._form.set_phase(calls=tuple(calls))

    def move(self, number: int, where: str) -> None:
        """Call it elsewhere."""
        far = where in ("left", "in")
        units = self._calls[number].units or 5
        self.change(number, at=where, units=min(units, max(1, int(self._form.phase.size) - 1)) if far else 0)

    def remove(self, number: int) -> None:
        """Take a call out."""
        calls = self._calls
        self._form.set_phase(calls=(*calls[:number], *calls[number + 1 :]))

    def show(self, phase: Phase) -> None:
        """Show a hold's calls."""
        self.section.setVisible(phase.kind.is_hold)
        lexicon = self._form.document.session.lexicon
        for row, call in zip(self.list.show_rows(len(phase.calls)), phase.calls):
            row.show_call(call, call_text(phase, call.model_copy(update={"text": None}), lexicon))
        self.words.setText(calls_words(phase, lexicon))
        self._form.show_row(self.words, bool(phase.calls))
        self.section.show_relevant(bool(phase.calls) or phase.seconds is not None, "nothing is said in it")
