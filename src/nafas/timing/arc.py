"""The arc of a session: how fast it breathes, and how much it is led, from its beginning to its end."""

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from itertools import pairwise
from math import floor
from typing import NamedTuple

from nafas.script.expansion import Round
from nafas.script.model.blocks import Strokes
from nafas.script.model.guidance import Level
from nafas.script.model.phase import PhaseKind
from nafas.timing.timeline import Body, EventKind, TimedBlock, Timeline

WORD = Fraction(1)
"""Seconds a counted word is taken to last where only the script is known; a cast knows better."""


class Guidance(StrEnum):
    """What leads the listener."""

    VOICE = "voice"
    CUE = "cue"
    CHIME = "chime"
    SILENCE = "silence"


_LEADS = (EventKind.ROUND, EventKind.PREPARE, EventKind.STROKES, EventKind.TALK)
_OF_LEVEL = {
    Level.FULL: Guidance.VOICE,
    Level.CUES: Guidance.CUE,
    Level.CHIMES: Guidance.CHIME,
    Level.SILENT: Guidance.SILENCE,
}


@dataclass(frozen=True)
class Span:
    """A stretch in which nothing changes. Times are exact seconds of the session.

    Attributes:
        block: the place of its block; -1 for the opening and the closing.
        breaths: breaths (or strokes) a minute, or None where the breath is the listener's own.
    """

    start: Fraction
    end: Fraction
    block: int
    breaths: Fraction | None
    guidance: Guidance


@dataclass(frozen=True)
class Arc:
    """A session's arc.

    Attributes:
        spans: one after another, from 0 to the session's end.
        silence: begin and end of the longest time without a word, by the script.
        talk_share: seconds of talk over the session's length, 0 to 1.
        breaths: breaths led, strokes aside.
        strong: the longest stretch of led breathing without natural breath between, in seconds.
    """

    spans: tuple[Span, ...]
    silence: tuple[Fraction, Fraction]
    talk_share: float
    breaths: int
    strong: Fraction


_TickSpan = tuple[int, int, int, Fraction | None, Guidance]
"""From, to, block, breaths and guidance of a `Span`, in ticks of the timeline: whole numbers add up far faster."""


def arc_of(timeline: Timeline) -> Arc:
    """The arc of a compiled session."""
    per_second = timeline.per_second
    length = _ticks(timeline.length, per_second)
    spans: list[_TickSpan] = []
    at = talk = breaths = 0
    for timed in timeline.blocks:
        start, scale = _ticks(timed.start, per_second), per_second // timed.body.per_second
        if start > at:
            spans.append((at, start, -1, None, Guidance.SILENCE))
        spans += [
            (start + begin * scale, start + end * scale, timed.index, rate, guidance)
            for begin, end, rate, guidance in _body_spans(timed)
        ]
        at = start + timed.body.length * scale
        facts = _facts(timed.body)
        talk, breaths = talk + facts.talk * scale, breaths + facts.breaths
    if length > at:
        spans.append((at, length, -1, None, Guidance.SILENCE))
    joined = _joined(spans, 4 * per_second)
    quiet, until = _longest_silence(timeline, length)
    return Arc(
        tuple(
            Span(Fraction(begin, per_second), Fraction(end, per_second), block, rate, guidance)
            for begin, end, block, rate, guidance in joined
        ),
        (Fraction(quiet, per_second), Fraction(until, per_second)),
        talk / length if length else 0.0,
        breaths,
        Fraction(_strong(joined), per_second),
    )


def _ticks(at: Fraction, per_second: int) -> int:
    return at.numerator * (per_second // at.denominator)


class _Facts(NamedTuple):
    """What is known of a body alone, in its ticks: talk, breaths led, and `(from, to)` of every word."""

    talk: int
    breaths: int
    words: tuple[tuple[int, int], ...]


def _facts(body: Body) -> _Facts:
    return body.kept("facts", None, lambda: _facts_of(body))


def _facts_of(body: Body) -> _Facts:
    talk = sum(event.length for event in body.events if event.kind is EventKind.TALK)
    breaths = sum(
        event.kind is EventKind.PHASE and event.phase_kind is PhaseKind.INHALE and event.round > 0
        for event in body.events
    )
    word = WORD * body.per_second
    said = sorted((event for event in body.events if event.said), key=lambda event: event.tick)
    # Only silences matter, so that words which touch or overlap count as one.
    words: list[tuple[int, int]] = []
    for event in said:
        lasts = event.length if event.kind is EventKind.TALK else min(event.length, floor(word))
        if words and event.tick <= words[-1][1]:
            words[-1] = (words[-1][0], max(words[-1][1], event.tick + lasts))
        else:
            words.append((event.tick, event.tick + lasts))
    return _Facts(talk, breaths, tuple(words))


_BodySpan = tuple[int, int, Fraction | None, Guidance]


def _body_spans(block: TimedBlock) -> list[_BodySpan]:
    return block.body.kept("spans", None, lambda: _spans_of(block))


def _spans_of(block: TimedBlock) -> list[_BodySpan]:
    """The spans of a block in ticks of its body, equal neighbours as one."""
    body = block.body
    rounds = block.rounds
    spans: list[_BodySpan] = []

    def add(begin: int, end: int, breaths: Fraction | None, guidance: Guidance) -> None:
        if end <= begin:
            return
        if spans and breaths is not None and spans[-1][1:] == (begin, breaths, guidance):
            spans[-1] = (spans[-1][0], end, breaths, guidance)
        else:
            spans.append((begin, end, breaths, guidance))

    at = 0
    for event in body.events:
        end = event.tick + event.length
        if event.kind in _LEADS:
            add(at, event.tick, None, Guidance.SILENCE)  # ease, or a pause between sentences
        if event.kind is EventKind.ROUND:
            one = rounds[event.round - 1]
            add(event.tick, end, breaths_a_minute(one), _OF_LEVEL[one.level])
        elif event.kind is EventKind.PREPARE:
            add(event.tick, end, None, Guidance.CUE)
        elif event.kind is EventKind.STROKES and isinstance(block.block, Strokes):
            slow = event.round == 1
            rate = block.block.demonstration_per_minute if slow else block.block.per_minute
            add(event.tick, end, rate, Guidance.VOICE if slow or block.block.every else Guidance.CHIME)
        elif event.kind is EventKind.TALK:
            add(event.tick, end, None, Guidance.VOICE)
        else:
            continue
        at = max(at, end)
    add(at, body.length, None, Guidance.SILENCE)
    return spans


def breaths_a_minute(one: Round) -> Fraction:
    """How many breaths a minute a round goes at: its inhales over its length."""
    inhales = sum(phase.kind is PhaseKind.INHALE for phase in one.phases)
    return Fraction(60 * max(1, inhales)) / one.seconds


def _joined(spans: list[_TickSpan], pause: int) -> list[_TickSpan]:
    """Pauses between sentences, shorter than `pause`, belong to the voice; equal neighbours become one."""
    spans_: list[_TickSpan] = []
    for index, (begin, end, block, breaths, guidance) in enumerate(spans):
        last = spans_[-1] if spans_ else None
        short = end - begin < pause and breaths is None and guidance is Guidance.SILENCE
        if short and last and last[2] == block and index + 1 < len(spans):
            guidance = last[4]
        if last and last[2:] == (block, breaths, guidance):
            spans_[-1] = (last[0], end, block, breaths, guidance)
        else:
            spans_.append((begin, end, block, breaths, guidance))
    return spans_


def _longest_silence(timeline: Timeline, length: int) -> tuple[int, int]:
    """From and to, in ticks of the timeline."""
    per_second = timeline.per_second
    best, quiet = (0, 0), 0

    def note(begin: int, end: int) -> None:
        nonlocal best
        if end - begin > best[1] - best[0]:
            best = (begin, end)

    for block in timeline.blocks:
        words = _facts(block.body).words
        if not words:
            continue
        start, scale = _ticks(block.start, per_second), per_second // block.body.per_second
        if quiet <= start + words[0][0] * scale:
            note(quiet, start + words[0][0] * scale)
            begin, end = _longest_gap(block.body)
            note(start + begin * scale, start + end * scale)
            quiet = start + words[-1][1] * scale
        else:  # words of the block before reach into this one: one after another
            for begin, end in words:
                note(quiet, start + begin * scale)
                quiet = max(quiet, start + end * scale)
    note(quiet, length)
    return best


def _longest_gap(body: Body) -> tuple[int, int]:
    """From the end of a word to the next, where that is longest; in ticks. (0, 0) for a single word."""

    def find() -> tuple[int, int]:
        gaps = ((before[1], after[0]) for before, after in pairwise(_facts(body).words))
        return max(gaps, key=lambda gap: gap[1] - gap[0], default=(0, 0))

    return body.kept("silence", None, find)


def _strong(spans: list[_TickSpan]) -> int:
    longest = run = 0
    for begin, end, _, breaths, _ in spans:
        run = run + end - begin if breaths is not None else 0
        longest = max(longest, run)
    return longest
