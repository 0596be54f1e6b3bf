"""One row of the page, and the sizes rows are laid out by, in pixels."""

from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

from nafas.script import Round
from nafas.timing import Event, TimedBlock

MARGIN, GUTTER = 14, 62
LEFT = MARGIN + GUTTER
RIGHT = 22
NOTES = 58  # px at the right of a round for its length and its step
TITLE, ROUND, TALK_LINE, REST, COMB, FOOT, GAP = 44, 91, 23, 30, 58, 10, 18
PAUSE = 84  # px at the right of talk, for how long a sentence lasts and the pause after it
PAUSE_TOP = 14  # px from the top of its row to where that pause is written
WRITE = 12  # px under talk, to write more on
WIDEST_SECOND = 58.0  # px; a short round is not blown up past this
NARROWEST_SECOND = 5.0
MOST_FOR_COUNTS = 40.0  # px a second, to which a page is widened so that every count has room for its figure
COMB_SECONDS = 20.0  # a row of strokes lasts at most about this long


@dataclass(frozen=True, eq=False)
class Row:
    """One row.

    Attributes:
        kind: "title", "talk", "rest", "round", "prepare", "ease", "strokes", "flag", "write" or "foot".
        event: what it shows, or None; `events` are a round's or a comb's own.
        lines: wrapped text.
        one: the round written out, or None.
        opening_lines: lines on which the openings of its phases stand.
        pause: seconds from the end of a sentence to what follows it; None where nothing can be changed about that.
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
    pause: Fraction | None = None

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
        best = min(max(1, bisect_right(self.stops, (seconds, float("inf")))), len(self.stops) - 1)
        (a, x), (b, y) = self.stops[best - 1], self.stops[best]
        return x + (seconds - a) * (y - x) / (b - a)

    def meant(self, drawn: float) -> float:
        """The other way round: the time at which something drawn there happens."""
        if not self.stops:
            return drawn
        xs = [x for _, x in self.stops]
        best = min(max(1, bisect_right(xs, drawn)), len(xs) - 1)
        (a, x), (b, y) = self.stops[best - 1], self.stops[best]
        return a + (drawn - x) * (b - a) / (y - x)
