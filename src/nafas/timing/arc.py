"""The arc of a session: how fast it breathes, and how much it is led, from its beginning to its end."""

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from itertools import pairwise
from math import floor
from typing import NamedTuple

from nafas.script.blocks import Strokes
from nafas.script.guidance import Level
from nafas.script.phase import PhaseKind
from nafas.script.rounds import Round
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


def arc_of(timeline: Timeline) -> Arc:
    """The arc of a compiled session."""
    spans: list[Span] = []
    at = Fraction(0)
    for block in timeline.blocks:
        if block.start > at:
            spans.append(Span(at, block.start, -1, None, Guidance.SILENCE))
        spans += _block_spans(block)
        at = block.end
    if timeline.length > at:
        spans.append(Span(at, timeline.length, -1, None, Guidance.SILENCE))
    joined = _joined(spans)
    facts = [_facts(block.body) for block in timeline.blocks]
    talk = sum((Fraction(fact.talk, b.body.per_second) for fact, b in zip(facts, timeline.blocks)), Fraction(0))
    breaths = sum(fact.breaths for fact in facts)
    share = float(talk / timeline.length) if timeline.length else 0.0
    return Arc(joined, _longest_silence(timeline), share, breaths, _strong(joined))


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
    said = sorted((event for event in body.events if event.text), key=lambda event: event.tick)
    # Only silences matter, so that words which touch or overlap count as one.
    words: list[tuple[int, int]] = []
    for event in said:
        lasts = event.length if event.kind is EventKind.TALK else min(event.length, floor(word))
        if words and event.tick <= words[-1][1]:
            words[-1] = (words[-1][0], max(words[-1][1], event.tick + lasts))
        else:
            words.append((event.tick, event.tick + lasts))
    return _Facts(talk, breaths, tuple(words))


def _block_spans(block: TimedBlock) -> list[Span]:
    """The spans of a block, equal neighbours as one; worked out in ticks and kept with its body."""
    per_second, start = block.body.per_second, block.start
    spans = block.body.kept("spans", None, lambda: _spans_of(block))
    return [
        Span(start + Fraction(begin, per_second), start + Fraction(end, per_second), block.index, breaths, guidance)
        for begin, end, breaths, guidance in spans
    ]


_TickSpan = tuple[int, int, Fraction | None, Guidance]


def _spans_of(block: TimedBlock) -> list[_TickSpan]:
    body = block.body
    rounds = block.rounds
    found: list[_TickSpan] = []

    def add(begin: int, end: int, breaths: Fraction | None, guidance: Guidance) -> None:
        if end <= begin:
            return
        if found and breaths is not None and found[-1][1:] == (begin, breaths, guidance):
            found[-1] = (found[-1][0], end, breaths, guidance)
        else:
            found.append((begin, end, breaths, guidance))

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
    return found


def breaths_a_minute(one: Round) -> Fraction:
    """How many breaths a minute a round goes at: its inhales over its length."""
    inhales = sum(phase.kind is PhaseKind.INHALE for phase in one.phases)
    return Fraction(60 * max(1, inhales)) / one.seconds


def _joined(spans: list[Span]) -> tuple[Span, ...]:
    """Short pauses between sentences belong to the voice; equal neighbours become one."""
    found: list[Span] = []
    for place, span in enumerate(spans):
        guidance = span.guidance
        pause = span.end - span.start < 4 and span.breaths is None and guidance is Guidance.SILENCE
        if pause and found and found[-1].block == span.block and place + 1 < len(spans):
            guidance = found[-1].guidance
        last = found[-1] if found else None
        if last and (last.block, last.breaths, last.guidance) == (span.block, span.breaths, guidance):
            found[-1] = Span(last.start, span.end, span.block, span.breaths, guidance)
        else:
            found.append(Span(span.start, span.end, span.block, span.breaths, guidance))
    return tuple(found)


def _longest_silence(timeline: Timeline) -> tuple[Fraction, Fraction]:
    best, quiet = (Fraction(0), Fraction(0)), Fraction(0)

    def note(begin: Fraction, end: Fraction) -> None:
        nonlocal best
        if end - begin > best[1] - best[0]:
            best = (begin, end)

    for block in timeline.blocks:
        body, words = block.body, _facts(block.body).words
        if not words:
            continue
        at = [block.start + Fraction(tick, body.per_second) for tick in (words[0][0], words[-1][1])]
        if quiet <= at[0]:
            note(quiet, at[0])
            begin, end = body.kept("silence", None, lambda words=words: _longest_gap(words))  # type: ignore[misc]
            note(block.start + Fraction(begin, body.per_second), block.start + Fraction(end, body.per_second))
            quiet = at[1]
        else:  # words of the block before reach into this one: one after another
            for begin, end in words:
                note(quiet, block.start + Fraction(begin, body.per_second))
                quiet = max(quiet, block.start + Fraction(end, body.per_second))
    note(quiet, timeline.length)
    return best


def _longest_gap(words: tuple[tuple[int, int], ...]) -> tuple[int, int]:
    """From the end of a word to the next, where that is longest; in ticks. (0, 0) for a single word."""
    gaps = ((before[1], after[0]) for before, after in pairwise(words))
    return max(gaps, key=lambda gap: gap[1] - gap[0], default=(0, 0))


def _strong(spans: tuple[Span, ...]) -> Fraction:
    longest = run = Fraction(0)
    for span in spans:
        run = run + span.end - span.start if span.breaths is not None else Fraction(0)
        longest = max(longest, run)
    return longest
