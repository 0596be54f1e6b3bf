"""Which word stands on which count of a phase: its opening, its parts one after the other, and the numbers between.

What is said may take longer than a count; the counts it covers are then left unspoken, and what was to be said there
comes after it, while its own part lasts. Nothing is talked over, and what finds no room is reported.
"""

from collections.abc import Callable, Sequence
from itertools import accumulate
from typing import NamedTuple

from nafas.script.expansion import Round
from nafas.script.model.guidance import Level
from nafas.script.model.phase import Counting, Phase
from nafas.timing.bodies.manner import Manner
from nafas.timing.bodies.openings import call_words, joined, may_run_over, names_movement, part_words


class Line(NamedTuple):
    """Something to be said within a phase.

    Attributes:
        text: its words.
        wanted: the count it is to stand on, from 0.
        until: the count by which it must have begun.
        covers: how many counts it takes.
        told: numbers that it covers are reported as lost: it comes in every round, so they are never heard.
        call: it is said of where one is, and is not what the phase begins with.
    """

    text: str
    wanted: int
    until: int
    covers: int = 1
    told: bool = False
    call: bool = False


class PhaseWords(NamedTuple):
    """The word on each count, "" for none; what is lost: (count from 0, words) of what found no room; and calls:
    (count from 0, words, counts they take)."""

    words: list[str]
    lost: list[tuple[int, str]]
    calls: list[tuple[int, str, int]]


def phase_words(
    index: int, one: Round, manner: Manner, opening: str, counting: Counting, covers: Callable[[str], int]
) -> PhaseWords:
    """The words of a round's phase.

    Args:
        index: of the phase in the round, from 0.
        one, manner: the round, and how its set is led.
        opening: what opens it; "" where nothing does, or where it was said ahead.
        counting: how its counts are given.
        covers: how many counts a text takes that may run over one.
    """
    phase = one.phases[index]
    counts = phase.counts if phase.seconds is None else int(phase.seconds)
    words = [""] * counts
    if one.level is Level.FULL and counting in (Counting.UP, Counting.DOWN):
        words = [_number(number, manner) for number in _numbers(phase, counts, counting)]
    lines: list[Line] = []
    if one.level.speaks:
        lines = _lines(index, one, manner, opening, covers, counts)
    lines += _call_lines(index, one, manner, covers, counts)
    return _laid_out(words, lines)


def _laid_out(words: list[str], lines: Sequence[Line]) -> PhaseWords:
    lost: list[tuple[int, str]] = []
    calls: list[tuple[int, str, int]] = []
    free = 0
    for line in lines:
        at = max(line.wanted, free)
        if at >= min(line.until, len(words)):
            lost.append((line.wanted, line.text))
            continue
        covered = range(at + 1, min(at + line.covers, len(words)))
        lost += [(count, words[count]) for count in covered if line.told and words[count]]
        for count in covered:
            words[count] = ""
        if line.call:
            words[at] = ""
            calls.append((at, line.text, line.covers))
        else:
            words[at] = line.text
        free = at + line.covers
    merged: dict[int, str] = {}
    for count, text in lost:  # a number and a part may be lost on one count
        merged[count] = f"{merged[count]}, {text}" if count in merged else text
    return PhaseWords(words, list(merged.items()), calls)


def _call_lines(index: int, one: Round, manner: Manner, covers: Callable[[str], int], counts: int) -> list[Line]:
    """Calls of the phase. They end while it lasts: what comes after it is not talked over."""
    lines = []
    for call in one.calls:
        if call.phase == index:
            text = call_words(call, manner.lexicon)
            takes = covers(text)
            wanted = max(0, counts - takes)
            if call.on is not None:  # earlier, where it would not end in time
                wanted = min(call.on, wanted)
            lines.append(Line(text, wanted, counts - takes + 1, takes, call=True))
    return sorted(lines, key=lambda line: line.wanted)


def _lines(
    index: int, one: Round, manner: Manner, opening: str, covers: Callable[[str], int], counts: int
) -> list[Line]:
    phase = one.phases[index]
    longer = bool(opening) and may_run_over(index, one, manner)
    always = phase.movement is not None and phase.movement.always
    lines: list[Line] = []
    if not phase.parts:
        return [Line(opening, 0, counts, covers(opening) if longer else 1, always)] if opening else []
    ends = accumulate(part.counts for part in phase.parts)
    for number, (part, until) in enumerate(zip(phase.parts, ends)):
        otherwise = manner.lexicon.cue(phase) if number and opening and not phase.smooth else ""
        text = part_words(part, one, otherwise)
        moves = names_movement(part.movement, one)
        message = part.movement is not None and part.movement.always
        if number or not opening:
            if text:
                lines.append(Line(text, until - part.counts, until, covers(text) if moves else 1, message))
            continue
        whole, first = joined(opening, text), covers(opening) if longer else 1
        if text and covers(whole) > 1 and first < part.counts:
            # Too long for one count, but there is room for both: the part's word on the first count after the opening.
            lines.append(Line(opening, 0, counts, first, always))
            lines.append(Line(text, 0, until, covers(text) if moves else 1, message))
        else:
            message = message or always or (bool(text) and not longer)
            lines.append(Line(whole, 0, counts, covers(whole) if text or longer else 1, message))
    return lines


def _numbers(phase: Phase, counts: int, counting: Counting) -> list[int]:
    """Numbers in order. Parts with pauses are counted each by itself, unless they are counted through; places of one
    breath straight on."""
    apart = phase.parts and not phase.smooth and not phase.through
    runs = [range(1, size + 1) for size in ([part.counts for part in phase.parts] if apart else [counts])]
    if counting is Counting.DOWN:
        runs = [run[::-1] for run in runs]
    return [number for run in runs for number in run]


def _number(number: int, manner: Manner) -> str:
    word, carrier = manner.lexicon.count(number), manner.style.carrier
    return f"{carrier} {word}" if carrier else word
