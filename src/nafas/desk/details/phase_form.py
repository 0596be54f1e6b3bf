"""Details of one phase: everything a cue may add to it."""

from collections.abc import Callable
from itertools import accumulate
from typing import Any

from nafas.desk.details.call_fields import CallFields
from nafas.desk.details.form import optional
from nafas.desk.details.one_phase import OnePhase, OwningForm
from nafas.desk.details.part_fields import PartFields
from nafas.desk.details.round_picture import RoundPicture
from nafas.desk.document import Document
from nafas.errors import InputError
from nafas.plain_text import pluralize
from nafas.script import BreathSet, Counting, Phase, PhaseKind, Route, Side, SoundKind, expand
from nafas.script.edits.round_edits import phase_of, with_counts, with_phase
from nafas.script.model.exact import parse_seconds
from nafas.script.model.phase import Movement
from nafas.script.notation.phases import parse_pattern, write_length
from nafas.suggest.detail_words import call_place

_NAMES = {
    PhaseKind.INHALE: "Inhale",
    PhaseKind.HOLD_FULL: "Hold full",
    PhaseKind.EXHALE: "Exhale",
    PhaseKind.HOLD_EMPTY: "Hold empty",
}


class PhaseForm(OnePhase):
    """The chosen phase of a set, as seen in the chosen round."""

    def __init__(self, document: Document, owner: OwningForm) -> None:
        super().__init__(document, owner)
        self.picture = RoundPicture("Where it stands in its round")
        self.whole(self.picture)
        self.length = self.free_line("Counts", str.strip, self._set_length, "4, or 2+2+2 (belly, ribs, chest)")
        options = ((None, "as the set"), *((way, way.value) for way in Counting))
        self.counting = self.choice("Counting", "counting", *options)
        self.cue = self.line("Cue", "cue", optional(str.strip), "the language's own")
        self.long = self.line("First round", "long_cue", optional(str.strip), "a longer form")
        self.room = self.choice(
            "Cue comes", "cue_room",
            (None, "as in the set"), (0, "on count one"),
            *((room, f"{pluralize(room, 'count')} ahead") for room in range(1, 13)),
        )  # fmt: skip
        self.parts = PartFields(self)
        self._ways()
        self.calls = CallFields(self)

    def _ways(self) -> None:
        self.ways = self.fold("Side, route and movement")
        self.side = self.choice(
            "Side", "side",
            (None, "not said"), (Side.LEFT, "left"), (Side.RIGHT, "right"), (Side.BOTH, "both"),
        )  # fmt: skip
        self.route = self.choice(
            "Route", "route",
            (None, "not said"), (Route.NOSE, "nose"), (Route.MOUTH, "mouth"), (Route.PURSED, "pursed lips"),
            (Route.THROAT, "narrowed throat"),
        )  # fmt: skip
        self.fill = self.line("Fill", "fill", optional(parse_seconds), "full; 2/3 or 3/4")
        self.sound = self.choice(
            "Sound", "sound",
            (None, "none"), (SoundKind.HUM, "hum"), (SoundKind.CHANT, "chant"), (SoundKind.SIGH, "sigh"),
        )  # fmt: skip
        self.movement = self.free_line("Movement", str.strip, self._set_movement, "arms up")
        self.always = self.free_tick("In every round", lambda on: self._set_movement(self.movement.line.text(), on))

    def _set_length(self, text: str) -> None:
        owner, session = self._owner, self.document.session
        phase = phase_of(session, owner.index, self._round, self._phase)
        make: Callable[[], Any]
        if text.isdecimal():

            def make() -> Any:
                return with_counts(session, owner.index, self._round or 1, self._phase, int(text))
        else:

            def make() -> Any:
                head = "in 1, " if phase.kind is PhaseKind.HOLD_FULL else "out 1, " if phase.kind.is_hold else ""
                read = parse_pattern(f"{head}{phase.kind.value} {text}")[-1]
                said = {name: getattr(read, name) for name in ("counts", "seconds", "parts", "smooth", "through")}
                return with_phase(session, owner.index, self._round, self._phase, **said)

        owner.take(make, f"{self.name.text()} counts", f"phase {self._phase} counts")

    def _set_movement(self, words: str, always: bool | None = None) -> None:
        every = self.always.isChecked() if always is None else always
        try:
            movement = Movement(words=words.strip(), always=every) if words.strip() else None
        except (ValueError, InputError) as error:
            self.refuse(error)
            return
        self.set_phase(movement=movement)

    def show_phase(self, round_number: int, number: int) -> None:
        """Show a phase of the owner's set; 0 shows none."""
        self.setVisible(number > 0)
        if not number:
            return
        try:
            phase = phase_of(self.document.session, self._owner.index, round_number, number)
        except IndexError:  # the pattern has become shorter
            self.hide()
            return
        self._round, self._phase = round_number, number
        self.name.setText(f"Phase {number}: {_NAMES[phase.kind]}")
        self.show_value(phase)

    def show_more(self, value: Any) -> None:
        phase: Phase = value
        self.length.show_text(write_length(phase))
        self.movement.show_text(phase.movement.words if phase.movement else "")
        self.always.setChecked(bool(phase.movement and phase.movement.always))
        hold = phase.kind.is_hold
        for field in (self.side, self.route):
            self.show_row(field, not hold)
        self.parts.show(phase)
        self.calls.show(phase)
        said = (phase.side, phase.route, phase.fill, phase.sound, phase.movement)
        self.ways.head.title = "Movement" if hold else "Side, route and movement"
        self.ways.show_relevant(any(each is not None for each in said), "nothing of it is said")
        self._draw(phase)
        self.show_row(self.fill, phase.kind is PhaseKind.INHALE)
        self.show_row(self.sound, phase.kind is PhaseKind.EXHALE)
        self.show_row(self.always, phase.movement is not None)

    def _draw(self, phase: Phase) -> None:
        session, owner = self.document.session, self._owner
        block = session.blocks[owner.index]
        assert isinstance(block, BreathSet)
        rounds = expand(block, session.count_length_of(block))
        one = rounds[min(max(self._round, 1), len(rounds)) - 1]
        index = one.numbers.index(self._phase) if self._phase in one.numbers[: len(one.phases)] else None
        ends = accumulate(part.counts for part in phase.parts[:-1])
        calls = [call_place(phase, call) / phase.size for call in phase.calls] if phase.size else []
        self.picture.show_round(
            [(each.kind, each.length(one.count_length)) for each in one.phases],
            index,
            [end / phase.counts for end in ends],
            list(map(float, calls)),
        )
