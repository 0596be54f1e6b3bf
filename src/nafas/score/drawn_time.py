"""Time as it is drawn: a very long hold is shortened."""

from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise

from nafas.script import Round
from nafas.timing import Event, EventKind, TimedBlock

LONG_HOLD = Fraction(14)  # seconds; a longer hold is drawn this long
SPANS = (EventKind.ROUND, EventKind.PREPARE, EventKind.STROKES, EventKind.EASE, EventKind.TALK)
"""Events that have a row of their own."""


def stops_of(one: Round, event: Event, events: tuple[Event, ...], block: TimedBlock) -> tuple[tuple[float, float], ...]:
    """(seconds from a round's start, seconds as drawn), rising; () where nothing of it is shortened."""
    if all(p.length(one.count_length) <= LONG_HOLD or not p.kind.is_hold for p in one.phases):
        return ()
    per_second = block.body.per_second
    stops, drawn = [(0.0, 0.0)], 0.0
    for each in events:
        if each.kind is EventKind.PHASE:
            begin, length = (each.tick - event.tick) / per_second, each.length / per_second
            drawn += begin - stops[-1][0]  # room before it, at full width
            if begin > stops[-1][0]:
                stops.append((begin, drawn))
            hold = each.phase_kind is not None and each.phase_kind.is_hold
            drawn += min(length, float(LONG_HOLD)) if hold else length
            stops.append((begin + length, drawn))
    return tuple(stops)


def drawn(seconds: float, stops: tuple[tuple[float, float], ...]) -> float:
    """Seconds from a row's start as they are drawn, where a long hold is shortened."""
    for (begin, at), (end, until) in pairwise(stops):
        if begin <= seconds <= end and end > begin:
            return at + (seconds - begin) * (until - at) / (end - begin)
    return seconds if not stops else stops[-1][1] + seconds - stops[-1][0]


def rounds_of(block: TimedBlock) -> Iterator[tuple[Event, tuple[Event, ...]]]:
    """A block's rounds and its preparing breath, each with its own events."""
    events = block.body.events
    starts = [n for n, event in enumerate(events) if event.kind in SPANS]
    for begin, end in zip(starts, [*starts[1:], len(events)]):
        if events[begin].kind in (EventKind.ROUND, EventKind.PREPARE):
            yield events[begin], events[begin + 1 : end]
