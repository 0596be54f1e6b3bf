"""Details of one phase: everything a cue may add to it."""

from collections.abc import Callable
from typing import Any, Protocol

from nafas.desk.details.form import Form, optional
from nafas.desk.document import Document
from nafas.desk.widgets.labels import set_tip
from nafas.errors import InputError
from nafas.script import Counting, Phase, PhaseKind, Route, Session, Side, SoundKind
from nafas.script.edits.round_edits import phase_of, with_counts, with_phase
from nafas.script.model.exact import parse_seconds
from nafas.script.model.phase import Movement
from nafas.script.notation.phases import parse_pattern, write_calls, write_length

_NAMES = {
    PhaseKind.INHALE: "Inhale",
    PhaseKind.HOLD_FULL: "Hold full",
    PhaseKind.EXHALE: "Exhale",
    PhaseKind.HOLD_EMPTY: "Hold empty",
}


class OwningForm(Protocol):
    """The form that a phase's form is part of: which block it shows, and how a change is taken."""

    index: int

    def take(self, make: Callable[[], Session]) -> bool: ...


class PhaseForm(Form):
    """The chosen phase of a set, as seen in the chosen round."""

    def __init__(self, document: Document, owner: "OwningForm") -> None:
        super().__init__(document, "Phase")
        self.name = self.heading
        self.layout().setContentsMargins(0, 0, 0, 0)
        self._owner = owner
        self._round = self._phase = 0
        self.length = self.free_line("Counts", str.strip, self._set_length, "4, or 2+2+2 (belly, ribs, chest)")
        options = ((None, "as the set"), *((way, way.value) for way in Counting))
        self.counting = self.choice("Counting", lambda value: self._set(counting=value), *options)
        self.cue = self.free_line("Cue", optional(str.strip), lambda words: self._set(cue=words), "the language's own")
        self.long = self.free_line(
            "First round", optional(str.strip), lambda words: self._set(long_cue=words), "a longer form"
        )
        self.side = self.choice(
            "Side", lambda value: self._set(side=value),
            (None, "not said"), (Side.LEFT, "left"), (Side.RIGHT, "right"), (Side.BOTH, "both"),
        )  # fmt: skip
        self.route = self.choice(
            "Route", lambda value: self._set(route=value),
            (None, "not said"), (Route.NOSE, "nose"), (Route.MOUTH, "mouth"), (Route.PURSED, "pursed lips"),
            (Route.THROAT, "narrowed throat"),
        )  # fmt: skip
        self.fill = self.free_line(
            "Fill", optional(parse_seconds), lambda value: self._set(fill=value), "full; 2/3 or 3/4"
        )
        self.sound = self.choice(
            "SoundKind", lambda value: self._set(sound=value),
            (None, "none"), (SoundKind.HUM, "hum"), (SoundKind.CHANT, "chant"), (SoundKind.SIGH, "sigh"),
        )  # fmt: skip
        self.movement = self.free_line("Movement", str.strip, self._set_movement, "arms up")
        self.always = self.tick("In every round", lambda on: self._set_movement(self.movement.line.text(), on))
        self.calls = self.free_line(
            "Calls", self._parse_calls, lambda calls: self._set(calls=calls), "half 10 5 release"
        )
        set_tip(
            self.calls, "half, release, 10 (ten left), +20 (after twenty), each with words in quotes if it has its own"
        )

    def _parse_calls(self, text: str) -> object:
        return parse_pattern(f"in 1, hold 300s calls {text}, out 1")[1].calls if text.strip() else ()

    def _set(self, **fields: object) -> None:
        self._owner.take(
            lambda: with_phase(self.document.session, self._owner.index, self._round, self._phase, **fields),
            f"{self.name.text()} {' '.join(fields)}".replace("_", " "),
            f"phase {self._phase} {' '.join(fields)}",
        )

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
                said = {"counts": read.counts, "seconds": read.seconds, "parts": read.parts, "smooth": read.smooth}
                return with_phase(session, owner.index, self._round, self._phase, **said)

        owner.take(make, f"{self.name.text()} counts", f"phase {self._phase} counts")

    def _set_movement(self, words: str, always: bool | None = None) -> None:
        every = self.always.isChecked() if always is None else always
        try:
            movement = Movement(words=words.strip(), always=every) if words.strip() else None
        except (ValueError, InputError):
            return
        self._set(movement=movement)

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

    def show_value(self, value: Any) -> None:
        phase: Phase = value
        self.length.show_text(write_length(phase))
        self.counting.show_value(phase.counting)
        self.cue.show_text(phase.cue or "")
        self.long.show_text(phase.long_cue or "")
        self.side.show_value(phase.side)
        self.route.show_value(phase.route)
        self.fill.show_text(str(phase.fill) if phase.fill else "")
        self.sound.show_value(phase.sound)
        self.movement.show_text(phase.movement.words if phase.movement else "")
        self.always.setChecked(bool(phase.movement and phase.movement.always))
        self.calls.show_text(write_calls(phase.calls))
        hold = phase.kind.is_hold
        for field in (self.side, self.route):
            self.show_row(field, not hold)
        self.show_row(self.fill, phase.kind is PhaseKind.INHALE)
        self.show_row(self.sound, phase.kind is PhaseKind.EXHALE)
        self.show_row(self.calls, hold)
        self.show_row(self.always, phase.movement is not None)
