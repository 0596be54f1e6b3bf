"""What is breathed at a moment: the row of the page that is written now, its phase, its count, and what comes next."""

import math
from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

from nafas.score.layout import Layout
from nafas.score.row import Row
from nafas.script.model.phase import Side
from nafas.timing.timeline import Event, EventKind, Timeline

_SAID = (EventKind.COUNT, EventKind.CUE, EventKind.TICK, EventKind.STROKE)


@dataclass(frozen=True, eq=False)
class Now:
    """A moment of the guide.

    Attributes:
        seconds: of the session.
        row: what is written now, or None before the first and after the last.
        after: the row that comes next, or None.
        after_at: seconds of the session at which that row begins; infinite where there is none.
        phase: the event of the phase that is breathed, or None.
        phase_words: what the breath does and through which side, in the session's words; "" where it is free.
        count: the last count, cue or stroke that has begun in the row, or None.
        rounds_left: rounds of the set after this one.
        seconds_left: to the end of the session.
    """

    seconds: float
    row: Row | None
    after: Row | None
    after_at: float
    phase: Event | None
    phase_words: str
    count: Event | None
    rounds_left: int
    seconds_left: float


class Guide:
    """A session's page by the time at which each row is written.

    Args:
        timeline: of the session.
        layout: its page.
    """

    def __init__(self, timeline: Timeline, layout: Layout) -> None:
        self.timeline, self.layout = timeline, layout
        rows = [row for row in layout.rows if row.kind in ("talk", "rest", "ease", "round", "prepare", "strokes")]
        timed = sorted((_begin(rows, index), index) for index in range(len(rows)))
        self._begins = [begin for begin, _ in timed]
        self._rows = [rows[index] for _, index in timed]
        self._sides = {Side.LEFT: "left", Side.RIGHT: "right", Side.BOTH: "both"}

    @cached_property
    def length(self) -> float:
        return float(self.timeline.length)

    def at(self, seconds: float) -> Now:
        """What is breathed at a time of the session."""
        index = bisect_right(self._begins, seconds + 1e-9) - 1
        row = self._rows[index] if index >= 0 else None
        after = self._rows[index + 1] if index + 1 < len(self._rows) else None
        after_at = self._begins[index + 1] if after is not None else math.inf
        left = max(0.0, self.length - seconds)
        if row is None or row.event is None or row.kind not in ("round", "prepare", "strokes"):
            return Now(seconds, row, after, after_at, None, "", None, 0, left)
        tick = _tick(row, seconds)
        phase = _last([event for event in row.events if event.kind is EventKind.PHASE], tick)
        count = _last([event for event in row.events if event.kind in _SAID], tick)
        rounds = max(0, len(row.block.rounds) - row.round) if row.kind == "round" else 0
        return Now(seconds, row, after, after_at, phase, self._phase_words(row, phase), count, rounds, left)

    def _phase_words(self, row: Row, phase: Event | None) -> str:
        if phase is None or phase.phase_kind is None:
            return ""
        lexicon = self.timeline.session.lexicon_of(row.block.block)
        words = lexicon.kind(phase.phase_kind)
        if phase.side is None:
            return words
        side = lexicon.find(self._sides[phase.side]) or self._sides[phase.side]
        return f"{words} · {side}"


def _begin(rows: list[Row], number: int) -> float:
    """When a row begins to be written: natural breath after the words over it."""
    row = rows[number]
    before = rows[number - 1] if number else None
    words_first = row.kind in ("rest", "ease") and before is not None and before.kind == "talk"
    if words_first and before is not None and before.block.block.id == row.block.block.id:
        return max(row.begin, before.begin + before.seconds)
    return row.begin


def _tick(row: Row, seconds: float) -> float:
    return (seconds - float(row.block.start)) * row.block.body.per_second + 1e-6


def _last(events: list[Event], tick: float) -> Event | None:
    begun = [event for event in events if event.tick <= tick]
    return begun[-1] if begun else None


_HAIR = Fraction(1, 10**6)
"""Seconds: far less than a sample, far more than a float is off."""


def set_span(timeline: Timeline, seconds: float) -> tuple[float, float]:
    """From and to of the block that sounds at a time, or is the nearest to it.

    A block's start that was rounded to a float is in that block, though it may lie a hair before the exact one.
    """
    starts = [timed.start for timed in timeline.blocks]
    best = max(0, bisect_right(starts, Fraction(seconds) + _HAIR) - 1)
    timed = timeline.blocks[best]
    return float(timed.start), float(timed.end)
