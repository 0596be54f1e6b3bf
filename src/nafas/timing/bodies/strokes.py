"""The body of rapid strokes: a slow demonstration, the strokes themselves, and recovery."""

from fractions import Fraction

from nafas.bounded_cache import bounded_cache
from nafas.script.model.blocks import Strokes
from nafas.script.model.phase import Counting, PhaseKind
from nafas.script.words.lexicon import Lexicon
from nafas.timing.bodies.talk import short_talk
from nafas.timing.bodies.ticks import Ticks
from nafas.timing.timeline import Body, Event, EventKind, size_of_body

DEMONSTRATION, SET = 1, 2
"""The `round` of a stroke's events: which of the two runs it belongs to."""


@bounded_cache(8 * 2**20, size_of_body)
def stroke_body(block: Strokes, lexicon: Lexicon, lengths: tuple[Fraction, ...]) -> Body:
    """A block of strokes; `lengths` are the seconds of each sentence of its recovery."""
    slow, fast = 60 / block.demonstration_per_minute, 60 / block.per_minute
    ease = short_talk(block.recovery_words, lengths)
    ticks = Ticks([slow / 2, fast / 2, block.recovery, Fraction(1), *(time for said in ease for time in said[:2])])
    events: list[Event] = []
    begin = ticks(block.demonstration_seconds)
    if block.demonstration:
        step = ticks(slow)
        events.append(Event(0, begin, EventKind.STROKES, DEMONSTRATION, count=block.demonstration))
        for n in range(block.demonstration):
            events.append(Event(n * step, step, EventKind.STROKE, DEMONSTRATION, count=n + 1))
            events += _shown(block, lexicon, n * step, step, n + 1)
    if block.count_in:
        second = ticks(Fraction(1))
        events.append(Event(begin, block.count_in * second, EventKind.PREPARE))
        for n in range(block.count_in):
            word = lexicon.count(block.count_in - n)
            events.append(Event(begin + n * second, second, EventKind.COUNT, 0, 0, n + 1, word, PhaseKind.EXHALE))
        begin += block.count_in * second
    step, length = ticks(fast), ticks(block.stroke_seconds)
    events.append(Event(begin, length, EventKind.STROKES, SET, count=block.strokes))
    for n in range(block.strokes):
        events += _stroke(block, lexicon, begin + n * step, step, n + 1)
    end = begin + length
    if block.recovery:
        events.append(Event(end, ticks(block.recovery), EventKind.EASE))
        events += [
            Event(end + ticks(at), ticks(lasts), EventKind.TALK, count=n, text=text)
            for n, (at, lasts, text) in enumerate(ease, 1)
        ]
        end += ticks(block.recovery)
    return Body(ticks.per_second, end, (Event(0, end, EventKind.BLOCK), *events))


def _shown(block: Strokes, lexicon: Lexicon, at: int, step: int, number: int) -> list[Event]:
    """One slow stroke with its words: bellows in and out, with the arms; rapid exhale out alone."""
    up, down = (f", {lexicon.say(f'arms_{way}')}" if block.arms else "" for way in ("up", "down"))
    out = lexicon.say("stroke") if block.form == "rapid" else lexicon.kind(PhaseKind.EXHALE)
    said = [(PhaseKind.EXHALE, at, out + down)]
    if block.form == "bellows":
        said = [
            (PhaseKind.INHALE, at, lexicon.kind(PhaseKind.INHALE) + up),
            (PhaseKind.EXHALE, at + step // 2, out + down),
        ]
    return [
        Event(when, step // len(said), EventKind.CUE, DEMONSTRATION, index, number, text, kind)
        for index, (kind, when, text) in enumerate(said, 1)
    ]


def _stroke(block: Strokes, lexicon: Lexicon, at: int, step: int, number: int) -> list[Event]:
    events = [Event(at, step, EventKind.STROKE, SET, count=number)]
    left = block.strokes - number + 1
    shown = number if block.counting is Counting.UP else left
    # Counting down by tens, the calls fall where ten, twenty ... are left.
    if block.every and shown % block.every == 0:
        word = lexicon.count(shown)
        events.append(Event(at, step, EventKind.COUNT, SET, 0, number, word, PhaseKind.EXHALE))
    if block.ticks:
        first = PhaseKind.INHALE if block.form == "bellows" else PhaseKind.EXHALE
        events.append(Event(at, step, EventKind.TICK, SET, 1, number, "", first))
        if block.form == "bellows":
            events.append(Event(at + step // 2, step // 2, EventKind.TICK, SET, 2, number, "", PhaseKind.EXHALE))
    return events
