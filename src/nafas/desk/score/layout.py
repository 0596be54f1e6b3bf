"""Where everything stands on the score: one row a round, talk as text, all rounds on one scale of seconds.

Pixels from the page's top left. Rows are sorted by y and do not overlap, so a painter finds the visible ones by
bisection and a thousand rounds cost no more than ten. A very long hold is drawn shortened, with a break in its line, so
that one retention does not make every other round too small to read.
"""

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from operator import itemgetter

from nafas.script import BreathSet, Rest, Round, Strokes
from nafas.timing import Event, EventKind, TimedBlock, Timeline
from nafas.voice import Cast, Misfit, Placement

MARGIN, GUTTER = 14, 62
LEFT = MARGIN + GUTTER
RIGHT = 22
NOTES = 58  # px at the right of a round for its length and its step
TITLE, ROUND, TALK_LINE, REST, COMB, FOOT, GAP = 44, 76, 23, 30, 58, 10, 18
WIDEST_SECOND = 58.0  # px; a short round is not blown up past this
NARROWEST_SECOND = 5.0
LONG_HOLD = Fraction(14)  # seconds; a longer hold is drawn this long
COMB_SECONDS = 20.0  # a row of strokes lasts at most about this long

Wrap = Callable[[str, float], list[str]]


@dataclass(frozen=True, eq=False)
class Row:
    """One row.

    Attributes:
        kind: "title", "talk", "rest", "round", "prepare", "ease", "strokes", "flag" or "foot".
        event: what it shows, or None; `events` are a round's or a comb's own.
        lines: wrapped text.
        one: the round written out, or None.
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


@dataclass
class Layout:
    """The whole page."""

    rows: list[Row]
    height: int
    width: int
    scale: float
    """Pixels a drawn second on every round."""
    placements: dict[str, list[Placement]] = field(default_factory=dict)
    """By block id, in order of time."""
    misfits: dict[int, Misfit] = field(default_factory=dict)
    """By the id of the placement that does not fit."""
    rate: int = 48_000
    language: str = "en"
    page: int = 0
    """Pixels that are seen at once; rounds may be wider when zoomed in, titles and talk are not."""

    def __post_init__(self) -> None:
        self._tops = [row.y for row in self.rows]
        self._times = {name: [p.target for p in found] for name, found in self.placements.items()}
        sounding: list[tuple[float, Row]] = []
        before: Row | None = None
        for row in self.rows:
            if row.kind not in ("title", "flag", "foot"):
                # The words over natural breath come first, then its own row.
                after = row.kind in ("rest", "ease") and before and before.kind == "talk" and before.block is row.block
                sounding.append((before.begin + before.seconds if after and before else row.begin, row))
                before = row
        sounding.sort(key=itemgetter(0))  # words that overrun their block come after what they overlap
        self._begins, self._sounding = [begin for begin, _ in sounding], [row for _, row in sounding]

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
        place = bisect_right(self._begins, seconds) - 1
        return self._sounding[place] if place >= 0 else None

    def x_of(self, row: Row, seconds: float) -> float:
        """Where a session time lies on a round's line."""
        return LEFT + row.drawn(seconds - row.begin) * self.scale

    def time_at(self, row: Row, x: float) -> float:
        """Seconds from a row's start that are drawn at `x`."""
        return row.meant((x - LEFT) / self.scale)

    def placements_of(self, row: Row) -> list[Placement]:
        """The takes that sound in a row, in order of time."""
        found = self.placements.get(row.block.block.id, [])
        if row.kind == "talk" and row.event is not None:
            near = self._between(row, found, 1)
            return [p for p in near if p.moment.kind is EventKind.TALK and p.moment.count == row.event.count]
        if row.kind in ("round", "prepare", "strokes"):
            return [p for p in self._between(row, found, 0) if p.moment.kind is not EventKind.TALK]
        return []

    def _between(self, row: Row, found: list[Placement], spare: int) -> list[Placement]:
        times = self._times.get(row.block.block.id, [])
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
) -> Layout:
    """Lay a timeline out on a page.

    Args:
        timeline: what to show.
        cast: its cast, or None while that is being made.
        width: pixels to fill; zoomed in, the page may become wider.
        wrap: splits text into lines no wider than so many pixels.
        zoom: how much wider than fitting a second is drawn.
        flagged: what to look at, by the block's place.
    """
    room = max(120, width - LEFT - RIGHT)
    for_rounds = max(100, room - NOTES)
    longest = max((drawn for block in timeline.blocks for drawn in _drawn_seconds(block)), default=0.0)
    fitting = min(WIDEST_SECOND, for_rounds / longest) if longest else WIDEST_SECOND
    scale = max(NARROWEST_SECOND, fitting) * zoom
    rows: list[Row] = []
    y = MARGIN // 2
    for block in timeline.blocks:
        rows.append(Row("title", y, TITLE, block))
        y += TITLE
        for text in (flagged or {}).get(block.index, []):
            lines = tuple(wrap(f"Look at this: it {text}" if text[:1].islower() else text, room - 20))
            rows.append(Row("flag", y, 21 * len(lines) + 5, block, lines=lines))
            y += rows[-1].height
        for row in _body_rows(block, y, room, wrap, for_rounds / scale):
            rows.append(row)
            y = row.y + row.height
        y += GAP
    placements: dict[str, list[Placement]] = defaultdict(list)
    misfits: dict[int, Misfit] = {}
    if cast is not None:
        for placement in cast.placements:
            placements[placement.moment.block].append(placement)
        misfits = {id(misfit.placement): misfit for misfit in cast.misfits}
    widest = max(width, round(LEFT + longest * scale + NOTES + RIGHT))
    rate, language = cast.rate if cast else 48_000, timeline.session.language
    return Layout(rows, y + MARGIN, widest, scale, dict(placements), misfits, rate, language, width)


def _drawn_seconds(block: TimedBlock) -> Iterator[float]:
    """How long each round is drawn."""
    seen = set()
    for one in block.rounds:
        key = (id(one.phases), one.count_length, one.room)
        if key not in seen:
            seen.add(key)
            lengths = [(p.kind.is_hold, p.length(one.count_length)) for p in one.phases]
            room = one.room * len(one.phases) * one.count_length
            yield float(sum((min(LONG_HOLD, length) if hold else length for hold, length in lengths), room))


def _body_rows(block: TimedBlock, y: int, room: int, wrap: Wrap, seconds: float) -> Iterator[Row]:
    events = block.body.events
    spans = (EventKind.ROUND, EventKind.PREPARE, EventKind.STROKES, EventKind.EASE, EventKind.TALK)
    starts = [i for i, event in enumerate(events) if event.kind in spans]
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
            row = _round_row(block, event, events[begin + 1 : end], y)
        yield row
        y += row.height
    if ease is not None:
        yield Row("ease", y, REST, block, 0, ease)
        y += REST
    if isinstance(block.block, Rest):
        yield Row("rest", y, REST, block)
        y += REST
    if isinstance(block.block, BreathSet | Strokes):
        yield Row("foot", y, FOOT, block)


def _round_row(block: TimedBlock, event: Event, events: tuple[Event, ...], y: int) -> Row:
    if event.kind is EventKind.PREPARE:
        return Row("prepare", y, ROUND, block, 0, event, (), events)
    one = block.rounds[event.round - 1]
    return Row("round", y, ROUND, block, event.round, event, (), events, one, _stops(one, event, events, block))


def _stops(one: Round, event: Event, events: tuple[Event, ...], block: TimedBlock) -> tuple[tuple[float, float], ...]:
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
