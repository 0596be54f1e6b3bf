"""What is said of where one is in a set, and the phrases of its rounds: fields of the details of a set."""

from nafas.desk.details.form import Form
from nafas.script import BreathSet, PhaseKind
from nafas.script.model.round_calls import RoundCalls

_PHASES = (
    (PhaseKind.INHALE, "inhale"), (PhaseKind.HOLD_FULL, "full hold"), (PhaseKind.EXHALE, "exhale"),
    (PhaseKind.HOLD_EMPTY, "empty hold"),
)  # fmt: skip


class CallsFields:
    """Adds the fields to a form of a set and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.section = form.fold("Calls and phrases")
        self.every = form.number("Name a round", "calls.every", 0, 100, none="never")
        self.every.setPrefix("every ")
        self.left = form.line("Rounds left", "calls.left", _numbers, "3, 2", lambda left: ", ".join(map(str, left)))
        self.half = form.tick("Say halfway", "calls.half")
        self.minute = form.tick("Say when one minute is left", "calls.minute")
        self.phrases = form.line("Phrases", "calls.phrases", _phrases, "I let go | I am here", " | ".join)
        self.kind = form.choice("Said in the", "calls.phrases_in", *_PHASES)
        self.once = form.tick("Each phrase once", "calls.once")

    def show(self, block: BreathSet) -> None:
        """Show what matters for a set."""
        calls = block.calls
        for field in (self.kind, self.once):
            self._form.show_row(field, bool(calls.phrases))
        self.section.show_relevant(calls != RoundCalls(), "none")


def _numbers(text: str) -> tuple[int, ...]:
    words = text.replace(",", " ").split()
    if not all(word.isdecimal() for word in words):
        raise ValueError("write numbers of rounds, for example 3, 2")
    return tuple(sorted({int(word) for word in words}, reverse=True))


def _phrases(text: str) -> tuple[str, ...]:
    return tuple(phrase for part in text.split("|") if (phrase := part.strip()))
