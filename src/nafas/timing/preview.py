"""A block before it stands in its session: one round of it, how long it is, and what is said in it."""

from dataclasses import dataclass
from fractions import Fraction

from nafas.script.edits.session_edits import change
from nafas.script.expansion import expand
from nafas.script.model.blocks import Block, BreathSet, Strokes
from nafas.script.model.phase import PhaseKind
from nafas.script.model.session import Session
from nafas.timing.clock import clock
from nafas.timing.compile import compile_session, paced
from nafas.timing.timeline import EventKind

_SPOKEN = (EventKind.CUE, EventKind.COUNT, EventKind.CALL, EventKind.TALK)


@dataclass(frozen=True)
class Preview:
    """What a block comes to.

    Attributes:
        phases: of its first round, each with its seconds; () for what has no rounds.
        each: seconds of the first round; 0 for what has none.
        rounds: how many; 0 for what has none.
        total: seconds of all of it.
        words: what is said in the first round, phase by phase.
    """

    phases: tuple[tuple[PhaseKind, Fraction], ...]
    each: Fraction
    rounds: int
    total: Fraction
    words: tuple[str, ...]

    @property
    def summary(self) -> str:
        """Its lengths in words: "9 rounds of 14 s, 2:06"."""
        if not self.rounds:
            return clock(self.total)
        number = "1 round" if self.rounds == 1 else f"{self.rounds} rounds"
        return f"{number} of {float(self.each):g} s, {clock(self.total)}"


def preview(block: Block, session: Session) -> Preview:
    """What a block comes to in a session: in its language, its wording, and its count length where it has none.

    Raises:
        ValueError: it cannot stand in the session.
    """
    alone = change(session, blocks=(block,), opening=Fraction(0), closing=Fraction(0), end_bell=False)
    total = compile_session(alone, paced(session.voice.pace)).length
    if not isinstance(block, BreathSet):
        said = (f"{block.strokes} strokes",) if isinstance(block, Strokes) else ()
        return Preview((), Fraction(0), 0, total, said)
    rounds = expand(block, alone.count_length_of(block))
    first = rounds[0]
    phases = tuple((phase.kind, phase.length(first.count_length)) for phase in first.phases)
    once = block.model_copy(update={"rounds": 1, "pacing": None, "fade": (), "prepare": None, "ease": Fraction(0)})
    body = compile_session(change(alone, blocks=(once,)), paced(session.voice.pace)).blocks[0].body
    words: dict[int, list[str]] = {}
    for event in body.events:
        if event.kind in _SPOKEN and event.text:
            words.setdefault(event.phase, []).append(event.text)
    return Preview(phases, first.seconds, len(rounds), total, tuple(", ".join(each) for each in words.values()))
