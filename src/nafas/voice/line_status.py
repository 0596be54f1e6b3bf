"""Where every line of a call sheet stands: what there is of it, what is doubtful, and whether it fits."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from nafas.voice.call_sheet import Line, LineState, doubtful, line_state
from nafas.voice.casting import Cast
from nafas.voice.misfits import Misfit
from nafas.voice.takebook.book import TakeBook


def worst_misfits(cast: Cast) -> list[Misfit]:
    """Every line that does not fit somewhere, once, where it is worst; the worst first."""
    worst: dict[str, Misfit] = {}
    for misfit in sorted(cast.misfits, key=lambda misfit: misfit.over):
        worst[misfit.placement.moment.text] = misfit
    return sorted(worst.values(), key=lambda misfit: -misfit.over)


@dataclass(frozen=True, eq=False)
class LineStatus:
    """One line's.

    Attributes:
        line: it, its room as cast: from its beat to where the next word begins, whose own beat comes later.
        state: its state in the take book; TOO_LONG too where casting found that it does not fit.
        takes: how many takes may be cast.
        doubtful: one of them may be another line.
        misfit: where it fits worst, or None.
    """

    line: Line
    state: LineState
    takes: int
    doubtful: bool
    misfit: Misfit | None

    @property
    def to_do(self) -> bool:
        """Whether there is something left to do about it."""
        return self.state is not LineState.RECORDED or self.doubtful or self.misfit is not None

    @property
    def urgency(self) -> int:
        """For sorting: what must be listened to first, then what does not fit, then what is not there."""
        if self.doubtful or self.state is LineState.UNSURE:
            return 0
        if self.misfit is not None or self.state is LineState.TOO_LONG:
            return 1
        return {LineState.GONE: 2, LineState.MISSING: 3, LineState.FEW: 4}.get(self.state, 5)


def line_statuses(lines: Sequence[Line], book: TakeBook | None, cast: Cast | None) -> list[LineStatus]:
    """Of each line, in the call sheet's order. Without a cast nothing is said of fits."""
    misfits = {} if cast is None else {m.placement.moment.text: m for m in worst_misfits(cast)}
    rooms = {} if cast is None else _rooms(cast)
    statuses = []
    for line in lines:
        if line.room is not None and line.text in rooms:
            line = replace(line, room=min(line.room, rooms[line.text]))
        takes = 0 if book is None else len(book.takes(line.text, line.language))
        state, misfit = line_state(line, book), misfits.get(line.text)
        if misfit is not None and state in (LineState.RECORDED, LineState.FEW):
            state = LineState.TOO_LONG
        elif cast is not None and misfit is None and state is LineState.TOO_LONG:
            # Shortening, or a way of casting it, makes it fit after all.
            state = LineState.RECORDED if takes >= line.wanted else LineState.FEW
        statuses.append(LineStatus(line, state, takes, doubtful(line, book), misfit))
    return statuses


def _rooms(cast: Cast) -> dict[str, float]:
    """Of each line the least time, in seconds, from its beat to the first sample of the next word."""
    rooms: dict[str, float] = {}
    for this, after in pairwise(cast.placements):
        room = (after.start - this.target) / cast.rate
        rooms[this.moment.text] = min(room, rooms.get(this.moment.text, room))
    return rooms
