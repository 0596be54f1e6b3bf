"""Where everything stands on the score: one row a round, talk as text, all rounds on one scale of seconds.

Pixels from the page's top left. Rows are sorted by y and do not overlap, so a painter finds the visible ones by
bisection and a thousand rounds cost no more than ten; a block's rows are laid out once, as long as it stays the same.
A very long hold is drawn shortened, with a break in its line, so that one retention does not make every other round too
small to read.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from nafas.score.block_rows import Wrap, block_rows
from nafas.score.drawn_time import LONG_HOLD
from nafas.score.row import (
    GAP,
    LEFT,
    MARGIN,
    MOST_FOR_COUNTS,
    NARROWEST_SECOND,
    NOTES,
    RIGHT,
    WIDEST_SECOND,
    Row,
)
from nafas.score.spoken_lines import Measure, about_width, column_for, opening_lines_of
from nafas.script import Strokes
from nafas.timing import EventKind, TimedBlock, Timeline
from nafas.voice import Cast, Misfit, Placement


@dataclass(frozen=True, eq=False)
class _Part:
    """A block on the page: where it begins, and its rows as if it began at 0."""

    block: TimedBlock
    top: int
    rows: tuple[Row, ...]
    height: int

    @cached_property
    def placed(self) -> tuple[Row, ...]:
        """Its rows where they stand."""
        return tuple(replace(row, y=row.y + self.top, block=self.block) for row in self.rows)


class Layout:
    """The whole page. Rows are put in their places when they are looked at: an edit of seven thousand rounds costs what
    is seen of them.

    Attributes:
        height, width, scale: of the page, and of a drawn second on every round, in pixels.
        cast: what is said, or None while that is being made.
        page: pixels that are seen at once; rounds may be wider when zoomed in, titles and talk are not.
    """

    def __init__(self, parts: list[_Part], height: int, width: int, scale: float, cast: Cast | None, page: int) -> None:
        self._parts, self.height, self.width, self.scale = parts, height, width, scale
        self.cast, self.page = cast, page
        self.rate = cast.rate if cast else 48_000
        self.misfits: dict[int, Misfit] = {id(misfit.placement): misfit for misfit in cast.misfits} if cast else {}
        """By the id of the placement that does not fit."""
        self._tops = [part.top for part in parts]
        self._begins = [float(part.block.start) for part in parts]
        self._times: dict[str, list[int]] = {}

    @property
    def empty(self) -> bool:
        """Nothing is written yet."""
        return not self._parts

    @property
    def blocks(self) -> list[TimedBlock]:
        """The blocks, in order."""
        return [part.block for part in self._parts]

    @cached_property
    def rows(self) -> list[Row]:
        """Every row of the page."""
        return [row for part in self._parts for row in part.placed]

    def rows_of(self, block: int) -> tuple[Row, ...]:
        """The rows of the block at a place of the session; () where there is none."""
        return self._parts[block].placed if 0 <= block < len(self._parts) else ()

    def rows_between(self, top: int, bottom: int) -> list[Row]:
        """Rows that touch a band of the page."""
        first = max(0, bisect_right(self._tops, top) - 1)
        parts = self._parts[first : bisect_right(self._tops, bottom)]
        rows = [row for part in parts for row in part.placed if row.y <= bottom]
        return rows[max(0, bisect_right([row.y for row in rows], top) - 1) :]

    def row_at(self, y: int) -> Row | None:
        index = self.rows_between(y, y)
        return index[-1] if index and index[-1].y <= y < index[-1].y + index[-1].height else None

    def row_of_time(self, seconds: float) -> Row | None:
        """The row sounding at a time: the last that has begun, titles aside."""
        position = bisect_right(self._begins, seconds)
        # Words that overrun their block come after what they overlap: the block before may still be heard.
        for first in (max(0, position - 2), 0):
            sounding = [pair for part in self._parts[first:position] for pair in _sounding(part)]
            begun = [(begin, number) for number, (begin, _) in enumerate(sounding) if begin <= seconds]
            if begun:
                return sounding[max(begun)[1]][1]
        return None

    def x_of(self, row: Row, seconds: float) -> float:
        """Where a session time lies on a round's line."""
        return LEFT + row.drawn(seconds - row.begin) * self.scale

    def time_at(self, row: Row, x: float) -> float:
        """Seconds from a row's start that are drawn at `x`."""
        return row.meant((x - LEFT) / self.scale)

    def placements_of(self, row: Row) -> list[Placement]:
        """The takes that sound in a row, in order of time."""
        placements = self.cast.of_block(row.block.block.id) if self.cast is not None else []
        if row.kind == "talk" and row.event is not None:
            near = self._between(row, placements, 1)
            return [p for p in near if p.moment.kind is EventKind.TALK and p.moment.count == row.event.count]
        if row.kind in ("round", "prepare", "strokes"):
            return [p for p in self._between(row, placements, 0) if p.moment.kind is not EventKind.TALK]
        return []

    def _between(self, row: Row, placements: list[Placement], spare: int) -> list[Placement]:
        name = row.block.block.id
        if name not in self._times:
            self._times[name] = [placement.target for placement in placements]
        times = self._times[name]
        begin = int(row.start * self.rate) - 1 - spare
        end = int((row.start + Fraction(row.seconds)) * self.rate) - 1 + spare
        return placements[bisect_left(times, begin) : bisect_left(times, end)]


def lay_out(
    timeline: Timeline,
    cast: Cast | None,
    width: int,
    wrap: Wrap,
    zoom: float = 1.0,
    flagged: dict[int, list[str]] | None = None,
    measure: Measure = about_width,
) -> Layout:
    """Lay a timeline out on a page.

    Args:
        timeline: what to show.
        cast: its cast, or None while that is being made.
        width: pixels to fill; zoomed in, the page may become wider.
        wrap: splits text into lines no wider than so many pixels.
        zoom: how much wider than fitting a second is drawn.
        flagged: what to look at, by the block's place.
        measure: px of the words that open a phase.
    """
    room = max(120, width - LEFT - RIGHT)
    for_rounds = max(100, room - NOTES)
    longest = max((_longest(block) for block in timeline.blocks), default=0.0)
    fitting = min(WIDEST_SECOND, for_rounds / longest) if longest else WIDEST_SECOND
    least = max((_least(block) for block in timeline.blocks), default=0.0)
    scale = max(NARROWEST_SECOND, fitting, min(least, MOST_FOR_COUNTS)) * zoom
    parts: list[_Part] = []
    y = MARGIN // 2
    for block in timeline.blocks:
        marks = tuple((flagged or {}).get(block.index, ()))
        seconds = for_rounds / scale if isinstance(block.block, Strokes) else 0.0  # only strokes are put in rows by it
        lines = opening_lines_of(block, scale, measure)
        rows = block_rows(block, marks, room, wrap, seconds, lines)
        height = rows[-1].y + rows[-1].height
        parts.append(_Part(block, y, rows, height))
        y += height + GAP
    widest = max(width, round(LEFT + longest * scale + NOTES + RIGHT))
    return Layout(parts, y + MARGIN, widest, scale, cast, width)


def _least(block: TimedBlock) -> float:
    """Px a second at which every count of a block has room for its figure, kept with its body."""

    def make() -> float:
        distinct = {(id(one.phases), one.count_length, one.level): one for one in block.rounds}
        return max(map(column_for, distinct.values()), default=0.0)

    return block.body.kept("least", None, make)


def _longest(block: TimedBlock) -> float:
    """Drawn seconds of a block's longest round, kept with its body."""
    return block.body.kept("longest", None, lambda: max(_drawn_seconds(block), default=0.0))


def _sounding(part: _Part) -> list[tuple[float, Row]]:
    """A block's rows that sound, with the times at which they do, in order."""
    placements: list[tuple[float, Row]] = []
    before: Row | None = None
    for row in part.placed:
        if row.kind not in ("title", "flag", "foot", "write"):
            # The words over natural breath come first, then its own row.
            after = row.kind in ("rest", "ease") and before is not None and before.kind == "talk"
            placements.append((before.begin + before.seconds if after and before else row.begin, row))
            before = row
    return placements


def _drawn_seconds(block: TimedBlock) -> Iterator[float]:
    """How long each round is drawn."""
    seen = set()
    for one in block.rounds:
        key = (id(one.phases), one.count_length, one.rooms)
        if key not in seen:
            seen.add(key)
            lengths = [(p.kind.is_hold, p.length(one.count_length)) for p in one.phases]
            room = sum(one.rooms) * one.count_length
            yield float(sum((min(LONG_HOLD, length) if hold else length for hold, length in lengths), room))
