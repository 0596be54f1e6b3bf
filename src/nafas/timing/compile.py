"""Compile a Session to a Timeline of exact times.

Only talk depends on anything but the script: it lasts as long as its sentences take to say. What says how long is
passed in (`SpokenLength`), so this room needs no voice. Bodies of blocks are kept, so an edit recompiles one block.
"""

from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import lru_cache
from itertools import chain
from math import lcm

from nafas.errors import InputError
from nafas.script.pattern import Counting, Phase, PhaseKind
from nafas.script.session import MAX_SESSION, Block, BreathSet, Rest, Session, Talk
from nafas.script.words import count_word, cue_word
from nafas.timing.timeline import Body, Event, EventKind, TimedBlock, Timeline

SpokenLength = Callable[[str], Fraction]
"""Exact seconds that a sentence takes to say."""


def paced(words_a_minute: int = 105) -> SpokenLength:
    """Spoken lengths by pace alone, for planning without a voice (guided practice: 90 to 120 words a
    minute; common practice, no source). Rounded up to a tenth of a second."""

    def length(text: str) -> Fraction:
        words = max(1, len(text.split()))
        tenths = -(-words * 600 // words_a_minute)
        return Fraction(tenths, 10)

    return length


def compile_session(session: Session, spoken_length: SpokenLength) -> Timeline:
    """Give every event of a session its exact time.

    Args:
        session: the script.
        spoken_length: seconds each sentence of talk takes.

    Raises:
        InputError: with its talk the session is longer than 4 hours.
    """
    blocks: list[TimedBlock] = []
    at: Fraction = session.opening
    for index, block in enumerate(session.blocks):
        body = _body(session, block, spoken_length)
        blocks.append(TimedBlock(index, block, at, body))
        at += body.seconds
    length = at + session.closing
    if length > MAX_SESSION:
        raise InputError(
            session.title or "session",
            f"lasts {float(length / 3600):.2f} h with its talk",
            "keep a session within 4 h",
        )
    return Timeline(session, tuple(blocks), at if session.end_bell else None, length)


def _body(session: Session, block: Block, spoken_length: SpokenLength) -> Body:
    if isinstance(block, BreathSet):
        return _set_body(block, session.count_length_of(block), session.language)
    lengths = tuple(tuple(map(spoken_length, paragraph)) for paragraph in block.lines)
    return _talk_body(block, lengths)


@lru_cache(maxsize=1024)
def _talk_body(block: Talk | Rest, lengths: tuple[tuple[Fraction, ...], ...]) -> Body:
    at = Fraction(0)
    said: list[tuple[Fraction, Fraction, str]] = []
    for place, (paragraph, times) in enumerate(zip(block.lines, lengths)):
        if place:
            at += block.paragraph_pause
        for sentence, (text, time) in enumerate(zip(paragraph, times)):
            if sentence:
                at += block.sentence_pause
            said.append((at, time, text))
            at += time
    if isinstance(block, Rest):
        length: Fraction = block.seconds
    else:
        length = at + block.pause_after if block.slot is None else block.slot
    per_second = lcm(length.denominator, *(f.denominator for f in chain.from_iterable(t[:2] for t in said)))
    ticks = _Ticks(per_second)
    events = [Event(0, ticks(length), EventKind.BLOCK)]
    # The count of a sentence is its place in the block, so every one has an address.
    events += [
        Event(ticks(begin), ticks(time), EventKind.TALK, count=number, text=text)
        for number, (begin, time, text) in enumerate(said, 1)
    ]
    return Body(per_second, ticks(length), tuple(events))


class _Ticks:
    def __init__(self, per_second: int) -> None:
        self.per_second = per_second

    def __call__(self, seconds: Fraction) -> int:
        return seconds.numerator * (self.per_second // seconds.denominator)


@lru_cache(maxsize=1024)
def _set_body(block: BreathSet, count_length: Fraction, language: str) -> Body:
    # One count is `step` ticks of 1/denominator s, so a position is one integer product: nothing accumulates.
    step, per_second = count_length.numerator, count_length.denominator
    one_round = _round_events(block, language)
    counts = block.round_counts
    length = block.rounds * counts * step
    events = [Event(0, length, EventKind.BLOCK)]
    make = Event._make
    for number in range(1, block.rounds + 1):
        base = (number - 1) * counts
        events.append(Event(base * step, counts * step, EventKind.ROUND, number))
        events += [make(((base + at) * step, lasts * step, kind, number, *rest)) for at, lasts, kind, rest in one_round]
    return Body(per_second, length, tuple(events))


_Rest = tuple[int, int, str, PhaseKind | None]


def _round_events(block: BreathSet, language: str) -> list[tuple[int, int, EventKind, _Rest]]:
    """One round's events as (counts from its start, counts it lasts, kind, the rest of the event)."""
    found: list[tuple[int, int, EventKind, _Rest]] = []
    ahead = block.style.cue == "ahead"
    at = 0
    for number, phase in enumerate(block.pattern.phases, 1):
        if not phase.counts:
            continue
        cue = phase.cue or cue_word(phase.kind, language)
        room = block.style.cue_room if ahead else 0
        if ahead:
            found.append((at, room, EventKind.CUE, (number, 0, cue, phase.kind)))
        at += room
        found.append((at, phase.counts, EventKind.PHASE, (number, 0, "", phase.kind)))
        if block.chimes:
            found.append((at, phase.counts, EventKind.CHIME, (number, 0, "", phase.kind)))
        words = _count_words(phase, phase.counting or block.style.counting, "" if ahead else cue, language)
        found += [(at + i, 1, EventKind.COUNT, (number, i + 1, word, phase.kind)) for i, word in enumerate(words)]
        at += phase.counts
    return found


def _count_words(phase: Phase, counting: Counting, cue_on_one: str, language: str) -> Sequence[str]:
    """The word on each count of a phase; "" is unspoken. A cue on one takes the first count's place."""
    if counting is Counting.SILENT:
        words = [""] * phase.counts
    elif counting is Counting.UP:
        words = [count_word(n, language) for n in range(1, phase.counts + 1)]
    else:
        words = [count_word(n, language) for n in range(phase.counts, 0, -1)]
    if cue_on_one:
        words[0] = cue_on_one
    return words
