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


class PacingFields:
    """Adds the fields to a form of a set and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.kind = form.choice("It changes", self._choose_kind, *_KINDS)
        self.grows = form.choice("What grows", lambda on: self._change(on=on), *_GROWS)
        self.by = form.number("Each step by", -20, 20, self._set_by, " counts")
        self.limit = form.number("Up to", 1, 60, lambda limit: self._change(limit=limit), " counts")
        self.ratios = form.free_line("Out to in", _ratios, lambda ratios: self._change(ratios=ratios), "1, 1.5, 2")
        self.rounding = form.choice(
            "Half counts", lambda way: self._change(rounding=way),
            ("up", "rounded up"), ("down", "rounded down"), ("nearest", "to the nearest"), ("refuse", "not allowed"),
        )  # fmt: skip
        self.to = form.free_line("A count in the end", seconds, lambda to: self._change(to=to), "seconds")
        self.written = form.line("As written", "pacing", parse_pacing, "step 1 to 8")
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
            self._change(**fields)

    def _change(self, **fields: object) -> None:
        pacing = shown_set(self._form).pacing
        if pacing is not None:
            self._form.set("pacing", {**pacing.fields(), **fields}, "Pacing")

    def show(self, block: BreathSet) -> None:
        """Show a set's pacing."""
        form, pacing = self._form, block.pacing
        self.kind.show_value(None if pacing is None else type(pacing))
        for field in (self.grows, self.by, self.limit):
            form.show_row(field, isinstance(pacing, StepUp))
        for each in (self.ratios, self.rounding):
            form.show_row(each, isinstance(pacing, Ladder))
        form.show_row(self.to, isinstance(pacing, Glide))
        if isinstance(pacing, StepUp):
            self.grows.show_value(pacing.on)
            for field, value in ((self.by, pacing.by), (self.limit, pacing.limit)):
                field.setSuffix(" count" if abs(value) == 1 else " counts")
                field.show_value(value)
            form.name_row(self.limit, "Up to" if pacing.by > 0 else "Down to")
        elif isinstance(pacing, Ladder):
            self.ratios.show_text(", ".join(decimal_text(ratio) for ratio in pacing.ratios))
            self.rounding.show_value(pacing.rounding)
        elif isinstance(pacing, Glide):
            self.to.show_text(decimal_text(pacing.to))
        self.written.show_text(format_pacing(pacing))
        length = form.document.session.count_length_of(block)
        words = steps_words(block, length)
        self.words.setText(words)
        self.picture.show_steps(block, length)
        for shown in (self.words, self.picture):
            form.show_row(shown, bool(words))
