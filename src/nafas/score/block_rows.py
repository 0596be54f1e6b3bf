"""The rows of one block, from its title to its foot, as if it began at the top of the page."""

from collections.abc import Callable, Iterator
from fractions import Fraction

from nafas.score.drawn_time import SPANS, stops_of
from nafas.score.row import COMB, COMB_SECONDS, FOOT, PAUSE, REST, ROUND, TALK_LINE, TITLE, WRITE, Row
from nafas.score.spoken_lines import LINE
from nafas.script import Rest, Talk
from nafas.script.model.blocks import Spoken
from nafas.timing import Event, EventKind, TimedBlock

Wrap = Callable[[str, float], list[str]]


def block_rows(
    block: TimedBlock, marks: tuple[str, ...], room: int, wrap: Wrap, seconds: float, lines: int
) -> tuple[Row, ...]:
    """A block's rows, kept with its body.

    Args:
        block: in its place.
        marks: what to look at in it.
        room: px for text.
        wrap: splits text into lines no wider than so many pixels.
        seconds: of strokes in a row.
        lines: lines on which the openings of its phases stand.
    """

    def make() -> tuple[Row, ...]:
        rows, y = [Row("title", 0, TITLE, block)], TITLE
        for text in marks:
            words = tuple(wrap(f"Look at this: it {text}" if text[:1].islower() else text, room - 20))
            rows.append(Row("flag", y, 21 * len(words) + 5, block, lines=words))
            y += rows[-1].height
        return (*rows, *_body_rows(block, y, room, wrap, seconds, lines))

    return block.body.kept("rows", (marks, room, wrap, seconds, lines), make)


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
            lines = tuple(wrap(event.text, room - PAUSE))  # room at the right for how long it lasts
            pause = _pause_after(block, event, events[end] if end < len(events) else None)
            row = Row("talk", y, TALK_LINE * len(lines) + 7, block, 0, event, lines, pause=pause)
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


def _pause_after(block: TimedBlock, event: Event, after: Event | None) -> Fraction | None:
    """Seconds from a sentence of talk or natural breath to the next, or to the end of talk that has no fixed length."""
    if not isinstance(block.block, Spoken):
        return None
    if after is None and (not isinstance(block.block, Talk) or block.block.slot is not None):
        return None
    until = block.body.length if after is None else after.tick
    return Fraction(until - event.tick - event.length, block.body.per_second)


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
    number = fit - fit % 10 if fit >= 10 else 5 if fit >= 5 else fit
    for first in range(0, len(strokes), number):
        after = first + number
        part = events[strokes[first] : strokes[after] if after < len(strokes) else len(events)]
        yield Row("strokes", y, COMB, block, event.round, part[0], (), part)
        y += COMB
