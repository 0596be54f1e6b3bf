"""Where the calls of a set fall: which is said in which round, phase and count."""

from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

from nafas.script.model.blocks import BreathSet
from nafas.script.model.guidance import Level
from nafas.script.model.phase import Phase

_MINUTE = 60
_ROOM = 15  # seconds over a minute that a set must last for its last minute to be called
_TAKES = 2  # counts, about


class RunningCall(NamedTuple):
    """One call.

    Attributes:
        key: "round", "left", "half", "minute" or "phrase".
        number: of rounds; 0 where there is none.
        phase: the phase it is said in, from 0 in its round.
        on: the count it is to begin on, from 0; None: so that it ends with the phase.
        phrase: the words of a phrase.
    """

    key: str
    number: int
    phase: int
    on: int | None
    phrase: str = ""


class Span(NamedTuple):
    """What of a round decides where calls fall: its start in seconds of its set, and as `expansion.Round`."""

    start: Fraction
    phases: tuple[Phase, ...]
    rooms: tuple[int, ...]
    count_length: Fraction
    level: Level


def running_calls(block: BreathSet, spans: Sequence[Span], end: Fraction) -> list[tuple[RunningCall, ...]]:
    """The calls of each round, in the order of their phases.

    Of several that fall before one round the rarest is said: so many left, halfway, its number; none of these where
    the last round is announced.

    Args:
        block: the set.
        spans: its rounds in order.
        end: of the last one, in seconds of the set.
    """
    calls, total = block.calls, len(spans)
    if calls == type(calls)():
        return [()] * total
    found: list[list[RunningCall]] = [[] for _ in spans]
    middle = min(range(total), key=lambda index: abs(spans[index].start - end / 2))
    for index in range(1, total):
        left, number = total - index, index + 1
        key, said = "", 0
        if block.style.announce_last and left == 1:
            continue
        if left in calls.left:
            key, said = "left", left
        elif calls.half and index == middle:
            key = "half"
        elif calls.every and number % calls.every == 0:
            key, said = "round", number
        if key:
            found[index - 1].append(RunningCall(key, said, len(spans[index - 1].phases) - 1, None))
    if calls.minute and end >= _MINUTE + _ROOM:
        index, phase, count = _nearest(spans, end - _MINUTE)
        found[index].append(RunningCall("minute", 0, phase, count))
    for index, span in enumerate(spans):
        words = _phrase(block, index)
        places = [n for n, phase in enumerate(span.phases) if phase.kind is calls.phrases_in]
        if words and places and span.level.speaks:
            found[index].append(RunningCall("phrase", 0, places[0], 1, words))
    return [
        () if span.level is Level.SILENT else tuple(sorted(each, key=lambda call: call.phase))
        for span, each in zip(spans, found)
    ]


def _phrase(block: BreathSet, index: int) -> str:
    phrases = block.calls.phrases
    if not phrases or (block.calls.once and index >= len(phrases)):
        return ""
    return phrases[index % len(phrases)]


def _nearest(spans: Sequence[Span], moment: Fraction) -> tuple[int, int, int]:
    """Round, phase and count, all from 0, that begin nearest to a moment; never a phase's first count, which its cue
    has, or so late in it that there is no room, unless there is no other."""
    places: list[tuple[bool, Fraction, int, int, int]] = []
    late = [index for index, span in enumerate(spans) if span.start <= moment]
    for index in range(max(0, late[-1] - 1 if late else 0), min(len(spans), (late[-1] if late else 0) + 2)):
        span, at = spans[index], spans[index].start
        for number, (phase, room) in enumerate(zip(span.phases, span.rooms)):
            at += room * span.count_length
            unit = Fraction(1) if phase.seconds is not None else span.count_length
            counts = int(phase.size)
            for count in range(counts):
                places.append(
                    (not 1 <= count <= counts - _TAKES, abs(at + count * unit - moment), index, number, count)
                )
            at += phase.length(span.count_length)
    return min(places)[2:]
