"""Where every line of a call sheet stands: what there is of it, what is doubtful, and whether it fits."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from nafas.voice.callsheet import Line, State, doubtful, state_of
from nafas.voice.casting import Cast, Misfit
from nafas.voice.remedies import worst_misfits
from nafas.voice.takebook import TakeBook


@dataclass(frozen=True, eq=False)
class Standing:
    """One line's.

    Attributes:
        line: it, its room as cast: from its beat to where the next word begins, whose own beat comes later.
        state: its state in the take book; TOO_LONG too where casting found that it does not fit.
        takes: how many takes may be cast.
        doubtful: one of them may be another line.
        misfit: where it fits worst, or None.
    """

    line: Line
    state: State
    takes: int
    doubtful: bool
    misfit: Misfit | None

    @property
    def to_do(self) -> bool:
        """Whether there is something left to do about it."""
        return self.state is not State.RECORDED or self.doubtful or self.misfit is not None

    @property
    def urgency(self) -> int:
        """For sorting: what must be listened to first, then what does not fit, then what is not there."""
        if self.doubtful or self.state is State.UNSURE:
            return 0
        if self.misfit is not None or self.state is State.TOO_LONG:
            return 1
        return {State.GONE: 2, State.MISSING: 3, State.FEW: 4}.get(self.state, 5)


def standings(lines: Sequence[Line], book: TakeBook | None, cast: Cast | None) -> list[Standing]:
    """Of each line, in the call sheet's order. Without a cast nothing is said of fits."""
    misfits = {} if cast is None else {m.placement.moment.text: m for m in worst_misfits(cast)}
    rooms = {} if cast is None else _rooms(cast)
    found = []
    for line in lines:
        if line.room is not None and line.text in rooms:
            line = replace(line, room=min(line.room, rooms[line.text]))
        takes = 0 if book is None else len(book.takes(line.text, line.language))
        state, misfit = state_of(line, book), misfits.get(line.text)
        if misfit is not None and state in (State.RECORDED, State.FEW):
            state = State.TOO_LONG
        elif cast is not None and misfit is None and state is State.TOO_LONG:
            # Shortening, or a way of casting it, makes it fit after all.
            state = State.RECORDED if takes >= line.wanted else State.FEW
        found.append(Standing(line, state, takes, doubtful(line, book), misfit))
    return found


def _rooms(cast: Cast) -> dict[str, float]:
    """Of each line the least time, in seconds, from its beat to the first sample of the next word."""
    found: dict[str, float] = {}
    for this, after in pairwise(cast.placements):
        room = (after.start - this.target) / cast.rate
        found[this.moment.text] = min(room, found.get(this.moment.text, room))
    return found
