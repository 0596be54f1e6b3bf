"""Where everything stands on the score: one row a round, talk as text, all rounds on one scale of seconds.

Pixels from the page's top left. Rows are sorted by y and do not overlap, so a painter finds the visible ones by
bisection and a thousand rounds cost no more than ten.
"""

from bisect import bisect_right
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property

from nafas.script import BreathSet, Rest
from nafas.timing import Event, EventKind, TimedBlock, Timeline
from nafas.voice import Cast, Misfit, Placement

MARGIN, GUTTER = 14, 62
LEFT = MARGIN + GUTTER
RIGHT = 22
TITLE, ROUND, TALK_LINE, REST, GAP = 44, 76, 23, 30, 18
WIDEST_SECOND = 58.0  # px; a short round is not blown up past this

Wrap = Callable[[str, float], list[str]]


@dataclass(frozen=True, eq=False)
class Row:
    """One row. `kind` is "title", "talk", "rest" or "round"; `lines` is wrapped text; `events` are a round's own."""

    kind: str
    y: int
    height: int
    block: TimedBlock
    round: int = 0
    event: Event | None = None
    lines: tuple[str, ...] = ()
    events: tuple[Event, ...] = ()

    @cached_property
    def start(self) -> Fraction:
        """Exact session time at which the row begins."""
        return self.block.start if self.event is None else self.block.at(self.event)

    @cached_property
    def begin(self) -> float:
        """`start` for drawing."""
        return float(self.start)

    @cached_property
    def seconds(self) -> float:
        """How long it lasts."""
        return float(
            self.block.length if self.event is None else Fraction(self.event.length, self.block.body.per_second)
        )


@dataclass
class Layout:
    """The whole page."""

    rows: list[Row]
    height: int
    width: int
    scale: float
    """Pixels a second on every round."""
    placements: dict[tuple[str, int], list[Placement]] = field(default_factory=dict)
    """By (block id, round), in order of time; round 0 is talk."""
    misfits: dict[int, Misfit] = field(default_factory=dict)
    """By the id of the placement that does not fit."""

    def __post_init__(self) -> None:
        self._tops = [row.y for row in self.rows]

    def rows_between(self, top: int, bottom: int) -> list[Row]:
        """Rows that touch a band of the page."""
        first = max(0, bisect_right(self._tops, top) - 1)
        return self.rows[first : bisect_right(self._tops, bottom)]

    def row_at(self, y: int) -> Row | None:
        place = bisect_right(self._tops, y) - 1
        if place >= 0 and y < self.rows[place].y + self.rows[place].height:
            return self.rows[place]
        return None

    def row_of_time(self, seconds: float) -> Row | None:
        """The row sounding at a time: the last that has begun, titles aside."""
        found = None
        for row in self.rows:
            if row.kind == "title":
                continue
            if row.begin > seconds:
                break
            found = row
        return found

    def x_of(self, row: Row, seconds: float) -> float:
        """Where a session time lies on a round's line."""
        return LEFT + (seconds - row.begin) * self.scale


def lay_out(timeline: Timeline, cast: Cast | None, width: int, wrap: Wrap) -> Layout:
    """Lay a timeline out on a page.

    Args:
        timeline: what to show.
        cast: its cast, or None while that is being made.
        width: pixels to fill.
        wrap: splits text into lines no wider than so many pixels.
    """
    room = max(120, width - LEFT - RIGHT)
    longest = max((_round_seconds(block) for block in timeline.blocks), default=0.0)
    scale = min(WIDEST_SECOND, room / longest) if longest else WIDEST_SECOND
    rows: list[Row] = []
    y = MARGIN // 2
    for block in timeline.blocks:
        rows.append(Row("title", y, TITLE, block))
        y += TITLE
        for row in _body_rows(block, y, room, wrap):
            rows.append(row)
            y = row.y + row.height
        y += GAP
    placements: dict[tuple[str, int], list[Placement]] = defaultdict(list)
    misfits: dict[int, Misfit] = {}
    if cast is not None:
        for placement in cast.placements:
            placements[placement.moment.block, placement.moment.round].append(placement)
        misfits = {id(misfit.placement): misfit for misfit in cast.misfits}
    return Layout(rows, y + MARGIN, width, scale, dict(placements), misfits)


def _round_seconds(block: TimedBlock) -> float:
    rounds = (event.length for event in block.body.events if event.kind is EventKind.ROUND)
    return max(rounds, default=0) / block.body.per_second


def _body_rows(block: TimedBlock, y: int, room: int, wrap: Wrap) -> list[Row]:
    if isinstance(block.block, BreathSet):
        return _round_rows(block, y)
    rows = []
    for event in block.body.events:
        if event.kind is EventKind.TALK:
            lines = tuple(wrap(event.text, room - 60))  # room at the right for how long it lasts
            rows.append(Row("talk", y, TALK_LINE * len(lines) + 7, block, 0, event, lines))
            y += rows[-1].height
    if isinstance(block.block, Rest):
        rows.append(Row("rest", y, REST, block))
    return rows


def _round_rows(block: TimedBlock, y: int) -> list[Row]:
    events = block.body.events
    starts = [i for i, event in enumerate(events) if event.kind is EventKind.ROUND]
    rows = []
    for begin, end in zip(starts, [*starts[1:], len(events)]):
        event = events[begin]
        rows.append(Row("round", y, ROUND, block, event.round, event, (), events[begin + 1 : end]))
        y += ROUND
    return rows
