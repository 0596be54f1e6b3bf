"""Where everything stands on the score: one row a round, talk as text, all rounds on one scale of seconds.

Pixels from the page's top left. Rows are sorted by y and do not overlap, so a painter finds the visible ones by
bisection and a thousand rounds cost no more than ten; a block's rows are laid out once, as long as it stays the same.
A very long hold is drawn shortened, with a break in its line, so that one retention does not make every other round too
small to read.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from nafas.score.drawn_time import LONG_HOLD, SPANS, stops_of
from nafas.score.spoken_lines import LINE, Measure, about_width, column_for, opening_lines_of
from nafas.script import Rest, Round, Strokes, Talk
from nafas.timing import Event, EventKind, TimedBlock, Timeline
from nafas.voice import Cast, Misfit, Placement

MARGIN, GUTTER = 14, 62
LEFT = MARGIN + GUTTER
RIGHT = 22
NOTES = 58  # px at the right of a round for its length and its step
TITLE, ROUND, TALK_LINE, REST, COMB, FOOT, GAP = 44, 91, 23, 30, 58, 10, 18
WRITE = 12  # px under talk, to write more on
WIDEST_SECOND = 58.0  # px; a short round is not blown up past this
NARROWEST_SECOND = 5.0
MOST_FOR_COUNTS = 40.0  # px a second, to which a page is widened so that every count has room for its figure
COMB_SECONDS = 20.0  # a row of strokes lasts at most about this long

Wrap = Callable[[str, float], list[str]]


@dataclass(frozen=True, eq=False)
class Row:
    """One row.

    Attributes:
        kind: "title", "talk", "rest", "round", "prepare", "ease", "strokes", "flag", "write" or "foot".
        event: what it shows, or None; `events` are a round's or a comb's own.
        lines: wrapped text.
        one: the round written out, or None.
        opening_lines: lines on which the openings of its phases stand.
        stops: (seconds from its start, seconds as drawn), rising, where a long hold is shortened; () for none.
    """

    kind: str
    y: int
    height: int
    block: TimedBlock
    round: int = 0
    event: Event | None = None
    lines: tuple[str, ...] = ()
    events: tuple[Event, ...] = ()
    one: Round | None = None
    stops: tuple[tuple[float, float], ...] = ()
    opening_lines: int = 1

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
        if self.kind == "strokes" and self.events:
            last = self.events[-1]
            return (last.tick + last.length - self.events[0].tick) / self.block.body.per_second
        return float(
            self.block.length if self.event is None else Fraction(self.event.length, self.block.body.per_second)
        )

    def drawn(self, seconds: float) -> float:
        """Seconds as drawn of a time `seconds` after the row's start."""
        if not self.stops:
            return seconds
        place = min(max(1, bisect_right(self.stops, (seconds, float("inf")))), len(self.stops) - 1)
        (a, x), (b, y) = self.stops[place - 1], self.stops[place]
        return x + (seconds - a) * (y - x) / (b - a)

    def meant(self, drawn: float) -> float:
        """The other way round: the time at which something drawn there happens."""
        if not self.stops:
            return drawn
        xs = [x for _, x in self.stops]
        place = min(max(1, bisect_right(xs, drawn)), len(xs) - 1)
        (a, x), (b, y) = self.stops[place - 1], self.stops[place]
        return a + (drawn - x) * (b - a) / (y - x)


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

    def __init__(
        self, parts: list[_Part], height: int, width: int, scale: float, cast: Cast | None, language: str, page: int
    ) -> None:
        self._parts, self.height, self.width, self.scale = parts, height, width, scale
        self.cast, self.language, self.page = cast, language, page
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
        found = [row for part in parts for row in part.placed if row.y <= bottom]
        return found[max(0, bisect_right([row.y for row in found], top) - 1) :]

    def row_at(self, y: int) -> Row | None:
        found = self.rows_between(y, y)
        return found[-1] if found and found[-1].y <= y < found[-1].y + found[-1].height else None

    def row_of_time(self, seconds: float) -> Row | None:
        """The row sounding at a time: the last that has begun, titles aside."""
        place = bisect_right(self._begins, seconds)
        # Words that overrun their block come after what they overlap: the block before may still be heard.
        for first in (max(0, place - 2), 0):
            sounding = [pair for part in self._parts[first:place] for pair in _sounding(part)]
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
        found = self.cast.of_block(row.block.block.id) if self.cast is not None else []
        if row.kind == "talk" and row.event is not None:
            near = self._between(row, found, 1)
            return [p for p in near if p.moment.kind is EventKind.TALK and p.moment.count == row.event.count]
        if row.kind in ("round", "prepare", "strokes"):
            return [p for p in self._between(row, found, 0) if p.moment.kind is not EventKind.TALK]
        return []

    def _between(self, row: Row, found: list[Placement], spare: int) -> list[Placement]:
        name = row.block.block.id
        if name not in self._times:
            self._times[name] = [placement.target for placement in found]
        times = self._times[name]
        begin = int(row.start * self.rate) - 1 - spare
        end = int((row.start + Fraction(row.seconds)) * self.rate) - 1 + spare
        return found[bisect_left(times, begin) : bisect_left(times, end)]


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
        lines = opening_lines_of(block, scale, measure, timeline.session.language)
        rows = _block_rows(block, marks, room, wrap, seconds, lines)
        height = rows[-1].y + rows[-1].height
        parts.append(_Part(block, y, rows, height))
        y += height + GAP
    widest = max(width, round(LEFT + longest * scale + NOTES + RIGHT))
    return Layout(parts, y + MARGIN, widest, scale, cast, timeline.session.language, width)


def _block_rows(
    block: TimedBlock, marks: tuple[str, ...], room: int, wrap: Wrap, seconds: float, lines: int
) -> tuple[Row, ...]:
    """A block's rows as if it began at the top, kept with its body."""

    def make() -> tuple[Row, ...]:
        rows, y = [Row("title", 0, TITLE, block)], TITLE
        for text in marks:
            words = tuple(wrap(f"Look at this: it {text}" if text[:1].islower() else text, room - 20))
            rows.append(Row("flag", y, 21 * len(words) + 5, block, lines=words))
            y += rows[-1].height
        return (*rows, *_body_rows(block, y, room, wrap, seconds, lines))

    return block.body.kept("rows", (marks, room, wrap, seconds, lines), make)


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
    found: list[tuple[float, Row]] = []
    before: Row | None = None
    for row in part.placed:
        if row.kind not in ("title", "flag", "foot", "write"):
            # The words over natural breath come first, then its own row.
            after = row.kind in ("rest", "ease") and before is not None and before.kind == "talk"
            found.append((before.begin + before.seconds if after and before else row.begin, row))
            before = row
    return found


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


def _body_rows(block: TimedBlock, y: int, room: int, wrap: Wrap, seconds: float, openings: int) -> Iterator[Row]:
    events = block.body.events
    starts = [i for i, event in enumerate(events) if event.kind in SPANS]
    ease: Event | None = None
    for begin, end in zip(starts, [*starts[1:], len(events)]):
        event = events[begin]
        if ease is not None and event.kind is not EventKind.TALK:
            yield Row("ease", y, REST, block, 0, ease)
            y, ease = y + REST, None
        if event.kind is EventKind.EASE:
            ease = event  # below its words
            continue
        if event.kind is EventKind.STROKES:
            for comb in _combs(block, event, events[begin + 1 : end], y, seconds):
                yield comb
                y = comb.y + comb.height
            continue
        if event.kind is EventKind.TALK:
            lines = tuple(wrap(event.text, room - 60))  # room at the right for how long it lasts
            row = Row("talk", y, TALK_LINE * len(lines) + 7, block, 0, event, lines)
        else:
            row = _round_row(block, event, events[begin + 1 : end], y, openings)
        yield row
        y += row.height
    if ease is not None:
        yield Row("ease", y, REST, block, 0, ease)
        y += REST
    if isinstance(block.block, Talk):
        yield Row("write", y, WRITE if block.block.paragraphs else TALK_LINE + 7, block)
    else:
        rest = isinstance(block.block, Rest)
        yield Row("rest" if rest else "foot", y, REST if rest else FOOT, block)


def _round_row(block: TimedBlock, event: Event, events: tuple[Event, ...], y: int, openings: int) -> Row:
    height = ROUND + LINE * (openings - 1)
    if event.kind is EventKind.PREPARE:
        return Row("prepare", y, height, block, 0, event, (), events, opening_lines=openings)
    one = block.rounds[event.round - 1]
    stops = stops_of(one, event, events, block)
    return Row("round", y, height, block, event.round, event, (), events, one, stops, openings)


def _combs(block: TimedBlock, event: Event, events: tuple[Event, ...], y: int, seconds: float) -> Iterator[Row]:
    """A run of strokes in rows of whole fives or tens, as many as fit."""
    strokes = [i for i, each in enumerate(events) if each.kind is EventKind.STROKE]
    if not strokes:
        return
    period = events[strokes[0]].length / block.body.per_second
    fit = max(1, int(min(seconds, COMB_SECONDS) / period))
    many = fit - fit % 10 if fit >= 10 else 5 if fit >= 5 else fit
    for first in range(0, len(strokes), many):
        after = first + many
        part = events[strokes[first] : strokes[after] if after < len(strokes) else len(events)]
        yield Row("strokes", y, COMB, block, event.round, part[0], (), part)
        y += COMB
