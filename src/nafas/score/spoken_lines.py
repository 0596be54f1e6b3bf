"""The lines under a breath: what opens each phase above, the counts on the last, so that a wide word takes no count's
place. Openings that would run into each other stand on lines of their own, three at most."""

from collections.abc import Callable, Sequence
from functools import lru_cache

from nafas.score.drawn_time import drawn, rounds_of, stops_of
from nafas.script import Level, Round
from nafas.script.words.lexicon import count_word
from nafas.timing import Event, EventKind, TimedBlock

CUE_LINE, COUNT_LINE = 57, 72
"""Baselines, px below the row's top; with more lines of openings the counts stand `LINE` lower for each."""
CUE_TOP, COUNT_TOP, COUNT_BOTTOM = 45, 61, 77
LINE, MOST_LINES = 14, 3
_ONE_DIGIT, _TWO_DIGITS = 8.5, 15.0  # px a count with its figure
_GAP = 6.0  # px between two openings on one line


Measure = Callable[[str], float]
"""Px of words."""


@lru_cache(maxsize=64)
def figures_of(language: str) -> dict[str, str]:
    """Number words as figures."""
    return {count_word(n, language): str(n) for n in range(61)}


def figure(text: str, language: str) -> str | None:
    """A count as a figure, without its carrier word; None for what is no count."""
    figures = figures_of(language)
    result = figures.get(text)
    if result is None and " " in text:
        result = figures.get(text.split(" ", 1)[1]) or figures.get(text.rsplit(" ", 1)[-1])
    return result


def is_count(event: Event, language: str) -> bool:
    """Whether an event stands on the line of counts: a number, or a count that is not spoken. A cue, a part's name and
    a call stand above."""
    return event.kind is EventKind.COUNT and (not event.text or figure(event.text, language) is not None)


def is_opening(event: Event, language: str) -> bool:
    """Whether an event stands on the lines of openings: a cue, a part's name, a call outside a hold."""
    if event.kind is EventKind.CALL:
        return event.phase_kind is None or not event.phase_kind.is_hold
    if event.kind is EventKind.CUE:
        return True
    return event.kind is EventKind.COUNT and bool(event.text) and not is_count(event, language)


def opening_lines(openings: Sequence[tuple[float, str]], width: Callable[[str], float]) -> list[int]:
    """The line, from 0, that each opening stands on: the first where it has room, else the one that is free soonest.

    Args:
        openings: (px from the left, words), rising.
        width: px of words.
    """
    ends = [float("-inf")] * MOST_LINES
    result = []
    for x, words in openings:
        line = next((n for n, end in enumerate(ends) if end <= x), min(range(MOST_LINES), key=ends.__getitem__))
        ends[line] = x + width(words) + _GAP
        result.append(line)
    return result


def column_for(one: Round) -> float:
    """Px a second that a round needs for the figures of its counts; 0 where none are spoken."""
    if one.level is not Level.FULL:
        return 0.0
    most = max((phase.counts for phase in one.phases), default=0)
    return (_ONE_DIGIT if most < 10 else _TWO_DIGITS) / float(one.count_length)


def about_width(words: str) -> float:
    """Px of words where nothing better is known."""
    return 6.6 * len(words)


def opening_lines_of(block: TimedBlock, scale: float, measure: Measure) -> int:
    """Lines that the openings of a block's phases need at a scale; the same for all its rounds."""

    def make() -> int:
        most, seen, per_second = 1, set(), block.body.per_second
        for event, events in rounds_of(block):
            one = block.rounds[event.round - 1] if event.round else None
            alike = (
                None
                if one is None
                else (id(one.phases), one.count_length, one.level, one.long, one.before_last, one.calls)
            )
            if alike in seen:
                continue
            seen.add(alike)
            stops = () if one is None else stops_of(one, event, events, block)
            openings = [
                (drawn((each.tick - event.tick) / per_second, stops) * scale, each.text)
                for each in events
                if is_opening(each, block.language)
            ]
            most = max(most, 1 + max(opening_lines(openings, measure), default=0))
        return most

    return block.body.kept("opening lines", (scale, measure, block.language), make)
