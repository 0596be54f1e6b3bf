"""A phase in parts, in rows: counts, a word, what the body does; and what comes of it in a sentence."""

from nafas.desk.details.one_phase import OnePhase
from nafas.desk.details.row_list import FieldRow, RowList
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.fields import CheckedLine, Number
from nafas.desk.widgets.labels import Label
from nafas.script import Phase
from nafas.script.model.phase import MAX_COUNTS, Movement, Part
from nafas.suggest.detail_words import parts_words, usual_parts


class PartRow(FieldRow):
    """One part."""

    def __init__(self, fields: "PartFields", number: int) -> None:
        super().__init__(lambda: fields.remove(number), "Remove this part")
        self.counts = Number("Counts", 1, MAX_COUNTS)
        self.counts.changed.connect(lambda counts: fields.change(number, counts=counts))
        self.word = CheckedLine("Word", str.strip, "word")
        self.word.changed.connect(lambda word: fields.change(number, word=word))
        self.movement = CheckedLine("Movement", str.strip, "movement")
        self.movement.changed.connect(lambda words: fields.move(number, words))
        self.counts.setFixedWidth(56)
        for line in (self.word.line, self.movement.line):
            line.setMinimumWidth(50)
        self.place((self.counts, 0), (self.word, 1), (self.movement, 1))

    def show_part(self, part: Part) -> None:
        self.counts.show_value(part.counts)
        self.word.show_text(part.word)
        self.movement.show_text(part.movement.words if part.movement else "")


class PartFields:
    """Adds the rows to a form of a phase and keeps them right."""

    def __init__(self, form: OnePhase) -> None:
        self._form = form
        self.section = form.fold("In parts")
        self.list = RowList(lambda index: PartRow(self, index))
        form.whole(self.list)
        self.add = Button("", self._add, kind="small")
        form.whole(self.add)
        self.joint = form.free_choice(
            "Between", lambda way: form.set_phase(**way),
            ({"smooth": False, "through": False}, "pause, each from one"),
            ({"smooth": False, "through": True}, "pause, counted through"),
            ({"smooth": True, "through": False}, "one smooth breath"),
        )  # fmt: skip
        self.always = form.free_tick(
            "Movements in every round", self._set_always, "Else they are named in the first round of each step"
        )
        self.words = Label(objectName="muted", wordWrap=True)
        form.whole(self.words)

    @property
    def _parts(self) -> list[Part]:
        return list(self._form.phase.parts)

    def _take(self, parts: list[Part]) -> None:
        phase = self._form.phase
        if len(parts) < 2:  # one part is the whole
            self._form.set_phase(parts=(), smooth=False, through=False)
            return
        self._form.set_phase(parts=tuple(parts), counts=sum(part.counts for part in parts), smooth=phase.smooth)

    def _add(self) -> None:
        parts = self._parts
        self._take([*parts, Part(counts=parts[-1].counts)] if parts else list(usual_parts(self._form.phase.counts)))

    def change(self, number: int, **fields: object) -> None:
        """Change a part; what cannot be said is reported and changes nothing."""
        parts = self._parts
        if number < len(parts):
            try:
                parts[number] = parts[number].replace(**fields)
            except ValueError as error:
                self._form.refuse(error)
                return
            self._take(parts)

    def move(self, number: int, words: str) -> None:
        """Change what the body does in a part."""
        if not words:
            self.change(number, movement=None)
            return
        self.change(number, movement={"words": words, "always": self.always.isChecked()})

    def remove(self, number: int) -> None:
        """Take a part out, and its counts with it."""
        parts = self._parts
        self._take([*parts[:number], *parts[number + 1 :]])

    def _set_always(self, on: bool) -> None:
        parts = self._parts
        for index, part in enumerate(parts):
            if part.movement is not None:
                parts[index] = part.model_copy(update={"movement": Movement(words=part.movement.words, always=on)})
        self._take(parts)

    def show(self, phase: Phase) -> None:
        """Show a phase's parts."""
        self.section.setVisible(not phase.kind.is_hold)
        for row, part in zip(self.list.show_rows(len(phase.parts)), phase.parts):
            row.show_part(part)
        self.add.setText("Another part" if phase.parts else "Break it into parts")
        self.add.setEnabled(phase.counts >= 2)
        moves = [part.movement for part in phase.parts if part.movement]
        self.joint.show_value({"smooth": phase.smooth, "through": phase.through})
        self._form.show_row(self.joint, bool(phase.parts))
        self.always.setChecked(any(movement.always for movement in moves))
        self._form.show_row(self.always, bool(moves))
        self.words.setText(parts_words(phase))
        self._form.show_row(self.words, bool(phase.parts))
        self.section.show_relevant(bool(phase.parts), "one whole breath")
