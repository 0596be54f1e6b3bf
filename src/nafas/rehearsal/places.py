"""Where something was felt, as an address in the script: it follows its place when the script changes."""

import math
from bisect import bisect_right
from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

from nafas.script.model.marks import Felt, Mark
from nafas.timing.timeline import EventKind, TimedBlock, Timeline

_KINDS = (
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


_Address = tuple[int, int, int]
"""Round, phase and count."""


class _Places(NamedTuple):
    """Where the addresses of a block begin, in ticks: in order of time (the innermost last), by address, and each."""

    in_time: list[tuple[int, _Address]]
    addresses: list[_Address]
    ticks: dict[_Address, int]


def mark_at(timeline: Timeline, seconds: float, felt: Felt, note: str = "", sound: str = "") -> Mark:
    """A mark on what had last begun at a time of the session."""
    at = _fine(max(0.0, seconds))
    timed = _block_at(timeline, at)
    if timed is None:
        return Mark(felt=felt, after=at, note=note, sound=sound)
    places = _places(timed).in_time
    now = math.floor((at - timed.start) * timed.body.per_second)
    begun = bisect_right(places, now, key=lambda position: position[0])
    if not begun:
        return Mark(felt=felt, block=timed.block.id, after=_fine(at - timed.start), note=note, sound=sound)
    tick, (round_, phase, count) = places[begun - 1]
    return Mark(
        felt=felt, block=timed.block.id, round=round_, phase=phase, count=count,
        after=_fine(at - timed.start - Fraction(tick, timed.body.per_second)), note=note, sound=sound,
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
    wanted, places = (mark.round, mark.phase, mark.count), _places(timed)
    index = bisect_right(places.addresses, wanted) - 1
    if index < 0:
        return min(timed.start + mark.after, timed.end)
    address = places.addresses[index]
    at = timed.start + Fraction(places.ticks[address], timed.body.per_second)
    return min(at + (mark.after if address == wanted else 0), timed.end)


def open_marks(timeline: Timeline, marks: Sequence[Mark]) -> list[tuple[float, Mark]]:
    """The marks that are not settled, each with its time, in order of time; those whose block is gone are left out."""
    times = ((time_of(timeline, mark), mark) for mark in marks if not mark.settled)
    return sorted(((float(at), mark) for at, mark in times if at is not None), key=lambda pair: pair[0])


def _fine(seconds: float | Fraction) -> Fraction:
    return Fraction(round(seconds * _FINEST), _FINEST)


def _places(timed: TimedBlock) -> _Places:
    """The addresses of a block, kept with its body."""

    def make() -> _Places:
        ticks: dict[_Address, int] = {}
        for event in timed.body.events:
            if event.kind in _KINDS:
                # A cue said ahead and its silent phase have one address: it begins with the first of them.
                ticks.setdefault((event.round, event.phase, event.count), event.tick)
        return _Places(sorted((tick, address) for address, tick in ticks.items()), sorted(ticks), ticks)

    return timed.body.kept("places", None, make)


def _block_at(timeline: Timeline, at: Fraction) -> TimedBlock | None:
    position = bisect_right([timed.start for timed in timeline.blocks], at) - 1
    if position < 0 or (position == len(timeline.blocks) - 1 and at > timeline.blocks[-1].end):
        return None
    return timeline.blocks[position]
