"""Where something was felt, as an address in the script: it follows its place when the script changes."""

from bisect import bisect_right
from collections.abc import Sequence
from fractions import Fraction

from nafas.script.model.marks import Felt, Mark
from nafas.timing.timeline import Event, EventKind, TimedBlock, Timeline

_PLACES = (
    EventKind.ROUND,
    EventKind.PHASE,
    EventKind.COUNT,
    EventKind.CUE,
    EventKind.TICK,
    EventKind.STROKE,
    EventKind.TALK,
    EventKind.PREPARE,
    EventKind.EASE,
)
_FINEST = 1000
"""Parts of a second to which a place is kept."""


def mark_at(timeline: Timeline, seconds: float, felt: Felt, note: str = "", sound: str = "") -> Mark:
    """A mark on what had last begun at a time of the session."""
    at = _fine(max(0.0, seconds))
    timed = _block_at(timeline, at)
    if timed is None:
        return Mark(felt=felt, after=at, note=note, sound=sound)
    event = _event_at(timed, at)
    if event is None:
        return Mark(felt=felt, block=timed.block.id, after=_fine(at - timed.start), note=note, sound=sound)
    return Mark(
        felt=felt, block=timed.block.id, round=event.round, phase=event.phase, count=event.count,
        after=_fine(max(Fraction(0), at - timed.at(event))), note=note, sound=sound,
    )  # fmt: skip


def time_of(timeline: Timeline, mark: Mark) -> Fraction | None:
    """The time at which a mark stands now; None where its block is gone.

    Where its round, phase or count is no more, it stands at the nearest one before.
    """
    if not mark.block:
        return min(mark.after, timeline.length)
    timed = next((timed for timed in timeline.blocks if timed.block.id == mark.block), None)
    if timed is None:
        return None
    wanted = (mark.round, mark.phase, mark.count)
    events = [event for event in timed.body.events if event.kind in _PLACES]
    found = max((event for event in events if _address(event) <= wanted), key=_address, default=None)
    if found is None:
        return min(timed.start + mark.after, timed.end)
    exact = _address(found) == wanted
    return min(timed.at(found) + (mark.after if exact else 0), timed.end)


def open_marks(timeline: Timeline, marks: Sequence[Mark]) -> list[tuple[float, Mark]]:
    """The marks that are not settled, each with its time, in order of time; those whose block is gone are left out."""
    times = ((time_of(timeline, mark), mark) for mark in marks if not mark.settled)
    return sorted(((float(at), mark) for at, mark in times if at is not None), key=lambda pair: pair[0])


def _fine(seconds: float | Fraction) -> Fraction:
    return Fraction(round(seconds * _FINEST), _FINEST)


def _address(event: Event) -> tuple[int, int, int]:
    return event.round, event.phase, event.count


def _block_at(timeline: Timeline, at: Fraction) -> TimedBlock | None:
    place = bisect_right([timed.start for timed in timeline.blocks], at) - 1
    if place < 0 or (place == len(timeline.blocks) - 1 and at > timeline.blocks[-1].end):
        return None
    return timeline.blocks[place]


def _event_at(timed: TimedBlock, at: Fraction) -> Event | None:
    """The last event of a block that has begun; of several on one time, the innermost."""
    tick = (at - timed.start) * timed.body.per_second
    begun = [event for event in timed.body.events if event.kind in _PLACES and event.tick <= tick]
    return max(begun, key=lambda event: (event.tick, _address(event)), default=None)
