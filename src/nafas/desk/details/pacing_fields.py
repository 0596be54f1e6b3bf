"""How a set changes from step to step, in controls: what grows, by how much, to where; and what comes of it."""

from fractions import Fraction
from typing import Any

from nafas.desk.details.form import Form, seconds, shown_set
from nafas.desk.details.step_picture import StepPicture
from nafas.desk.widgets.labels import Label
from nafas.script import BreathSet, PhaseKind
from nafas.script.model.exact import decimal_text, parse_seconds
from nafas.script.model.pacing import Glide, Ladder, StepUp, Table
from nafas.script.notation.set import parse_pacing
from nafas.script.notation.writing import format_pacing
from nafas.suggest.pacing_words import steps_words, usual_pacing

_KINDS = (
    (None, "not at all"),
    (StepUp, "step by step"),
    (Ladder, "ratio ladder"),
    (Glide, "slower counts"),
    (Table, "by hand"),
)
_GROWS: tuple[tuple[tuple[PhaseKind, ...], str], ...] = (
    ((), "every phase"),
    ((PhaseKind.EXHALE,), "the exhale"),
    ((PhaseKind.INHALE,), "the inhale"),
    ((PhaseKind.INHALE, PhaseKind.EXHALE), "inhale and exhale"),
    ((PhaseKind.HOLD_FULL,), "the full hold"),
    ((PhaseKind.HOLD_FULL, PhaseKind.HOLD_EMPTY), "the holds"),
)


def _ratios(text: str) -> tuple[Fraction, ...]:
    return tuple(parse_seconds(part) for part in text.replace(",", " ").replace(":", " ").split())


def _write_ratios(ratios: tuple[Fraction, ...]) -> str:
    return ", ".join(decimal_text(ratio) for ratio in ratios)


class PacingFields:
    """Adds the fields to a form of a set and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.kind = form.free_choice("It changes", self._choose_kind, *_KINDS)
        self.grows = form.choice("What grows", "pacing.on", *_GROWS)
        self.by = form.free_number("Each step by", -20, 20, self._set_by, " counts")
        self.limit = form.number("Up to", "pacing.limit", 1, 60, " counts")
        self.ratios = form.line("Out to in", "pacing.ratios", _ratios, "1, 1.5, 2", _write_ratios)
        self.rounding = form.choice(
            "Half counts", "pacing.rounding",
            ("up", "rounded up"), ("down", "rounded down"), ("nearest", "to the nearest"), ("refuse", "not allowed"),
        )  # fmt: skip
        self.to = form.line("A count in the end", "pacing.to", seconds, "seconds", decimal_text)
        self.written = form.line("As written", "pacing", parse_pacing, "step 1 to 8", format_pacing)
        self.words = Label(objectName="muted", wordWrap=True)
        form.row("", self.words)
        self.picture = StepPicture()
        form.row("", self.picture)

    def _choose_kind(self, kind: type | None) -> None:
        block = shown_set(self._form)
        length = self._form.document.session.count_length_of(block)
        self._form.set("pacing", usual_pacing(kind, block, length), "Pacing")

    def _set_by(self, by: int) -> None:
        pacing = shown_set(self._form).pacing
        if by and isinstance(pacing, StepUp):
            turned = (by < 0) != (pacing.by < 0)
            counts = [phase.counts for phase in shown_set(self._form).pattern.phases if phase.counts]
            fields: dict[str, Any] = {"by": by}
            if turned:  # up to two more, or down to two fewer
                fields["limit"] = max(1, min(counts) - 2) if by < 0 else min(60, max(counts) + 2)
            self._form.set("pacing", {**pacing.fields(), **fields}, "Pacing")

    def show(self, block: BreathSet) -> None:
        """Show a set's pacing."""
        form, pacing = self._form, block.pacing
        self.kind.show_value(None if pacing is None else type(pacing))
        form.show_row(self.by, isinstance(pacing, StepUp))
        if isinstance(pacing, StepUp):
            self.by.show_value(pacing.by)
            for field, value in ((self.by, pacing.by), (self.limit, pacing.limit)):
                field.setSuffix(" count" if abs(value) == 1 else " counts")
            form.name_row(self.limit, "Up to" if pacing.by > 0 else "Down to")
        length = form.document.session.count_length_of(block)
        words = steps_words(block, length)
        self.words.setText(words)
        self.picture.show_steps(block, length)
        for shown in (self.words, self.picture):
            form.show_row(shown, bool(words))
