"""The breath before round one: whether there is one, how long, and what is said."""

from typing import Any

from nafas.desk.details.form import Form, optional, parse_whole, shown_set, write_whole
from nafas.desk.details.round_picture import RoundPicture
from nafas.desk.widgets.labels import Label
from nafas.script import BreathSet, Pattern, Phase, PhaseKind
from nafas.script.model.phase import MAX_COUNTS
from nafas.suggest.detail_words import prepare_words

_USUAL = Pattern(phases=(Phase(kind=PhaseKind.INHALE, counts=3), Phase(kind=PhaseKind.EXHALE, counts=4)))
"""An ordinary breath, in and out (common practice, no source)."""


class PrepareFields:
    """Adds the fields to a form of a set and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.on = form.free_tick(
            "A preparing breath before it",
            lambda on: self._set(_USUAL if on else None),
            "One ordinary breath, named as it goes in and out, so that round one begins together",
        )
        self.into = form.free_number("In", 1, MAX_COUNTS, lambda counts: self._count(0, counts), " counts")
        self.out = form.free_number("Out", 1, MAX_COUNTS, lambda counts: self._count(1, counts), " counts")
        self.written = form.line("As written", "prepare", optional(parse_whole), "3-4", write_whole)
        self.words = Label(objectName="muted", wordWrap=True)
        form.whole(self.words)
        self.picture = RoundPicture("Preparing breath")
        form.whole(self.picture)

    def _set(self, pattern: Pattern | None) -> None:
        self._form.set("prepare", pattern, "Preparing breath")

    def _count(self, number: int, counts: int) -> None:
        pattern = shown_set(self._form).prepare
        if pattern is not None:
            phases = list(pattern.phases)
            phases[number] = phases[number].resized(counts)
            self._set(Pattern(phases=tuple(phases)))

    def show(self, block: BreathSet) -> None:
        """Show a set's preparing breath."""
        form, pattern = self._form, block.prepare
        self.on.setChecked(pattern is not None)
        plain: list[Any] = list(pattern.phases) if pattern is not None else []
        two = [phase.kind for phase in plain] == [PhaseKind.INHALE, PhaseKind.EXHALE] and all(p.counts for p in plain)
        for field, index in ((self.into, 0), (self.out, 1)):
            form.show_row(field, two)
            if two:
                field.show_value(plain[index].counts)
        session = form.document.session
        length = session.count_length_of(block)
        self.words.setText(prepare_words(pattern, length, session.lexicon_of(block)))
        self.picture.show_round([(phase.kind, phase.length(length)) for phase in plain])
        for each in (self.written, self.words, self.picture):
            form.show_row(each, pattern is not None)
