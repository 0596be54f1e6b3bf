"""Where every line of a call sheet stands: what there is of it, what is doubtful, and whether it fits."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from nafas.voice.call_sheet import Line, LineState, doubtful, line_state, own_book
from nafas.voice.casting import Cast
from nafas.voice.misfits import Misfit
from nafas.voice.placement import Placement
from nafas.voice.takebook.book import TakeBook


def worst_misfits(cast: Cast) -> list[Misfit]:
    """Every line that does not fit somewhere, once for each take book, where it is worst; the worst first."""
    return sorted(_worst(cast).values(), key=lambda misfit: -misfit.over)


def _worst(cast: Cast) -> dict[tuple[str, str], Misfit]:
    """The worst misfit of each line, by its words and its take book."""
    books = _books(cast)
    ordered = sorted(cast.misfits, key=lambda misfit: misfit.over)
    return {(each.placement.moment.text, books[each.placement.moment.block]): each for each in ordered}


def places_of(line: Line, cast: Cast) -> list[Placement]:
    """Where a line of a take book is said."""
    books = _books(cast)
    return [p for p in cast.placements if p.moment.text == line.text and books[p.moment.block] == line.book]


def _books(cast: Cast) -> dict[str, str]:
    """The take book of each block, by the block's id, as `Line.book` has it."""
    session = cast.timeline.session
    return {block.id: own_book(session, block) for block in session.blocks}


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
    misfits = {} if cast is None else _worst(cast)
    rooms = {} if cast is None else _rooms(cast)
    statuses = []
    for line in lines:
        said = line.text, line.book
        if line.room is not None and said in rooms:
            line = replace(line, room=min(line.room, rooms[said]))
        takes = 0 if book is None else len(book.takes(line.text, line.language))
        state, misfit = line_state(line, book), misfits.get(said)
        if misfit is not None and state in (LineState.RECORDED, LineState.FEW):
            state = LineState.TOO_LONG
        elif cast is not None and misfit is None and state is LineState.TOO_LONG:
            # Shortening, or a way of casting it, makes it fit after all.
            state = LineState.RECORDED if takes >= line.wanted else LineState.FEW
        statuses.append(LineStatus(line, state, takes, doubtful(line, book), misfit))
    return statuses


def _rooms(cast: Cast) -> dict[tuple[str, str], float]:
    """Of each line, by its words and its take book, the least time, in seconds, from its beat to the first sample of
    the next word."""
    rooms: dict[tuple[str, str], float] = {}
    books = _books(cast)
    for this, after in pairwise(cast.placements):
        room = (after.start - this.target) / cast.rate
        said = this.moment.text, books[this.moment.block]
        rooms[said] = min(room, rooms.get(said, room))
    return rooms
