"""The body of talk and of natural breath: sentences one after another."""

from collections.abc import Sequence
from fractions import Fraction

from nafas.bounded_cache import bounded_cache
from nafas.script.model.blocks import Rest, Talk, sentences
from nafas.timing.bodies.ticks import Ticks
from nafas.timing.timeline import Body, Event, EventKind, size_of_body

Said = tuple[Fraction, Fraction, str]
"""When a sentence begins, how long it takes, and its words."""


def place_sentences(
    paragraphs: Sequence[Sequence[str]],
    lengths: Sequence[Sequence[Fraction]],
    between: Fraction = Fraction(6, 5),
    apart: Fraction = Fraction(3),
) -> list[Said]:
    """Sentences in their order, `between` seconds from one to the next and `apart` between paragraphs."""
    at = Fraction(0)
    said: list[Said] = []
    for place, (paragraph, times) in enumerate(zip(paragraphs, lengths)):
        if place:
            at += apart
        for number, (text, time) in enumerate(zip(paragraph, times)):
            if number:
                at += between
            said.append((at, time, text))
            at += time
    return said


def short_talk(words: str, lengths: Sequence[Fraction]) -> list[Said]:
    """The sentences of a few words said over the start of some natural breath."""
    return place_sentences([sentences(words)], [lengths])


@bounded_cache(16 * 2**20, size_of_body)
def talk_body(block: Talk | Rest, lengths: tuple[tuple[Fraction, ...], ...]) -> Body:
    """A block of talk or natural breath; `lengths` are the seconds of each sentence, by paragraph."""
    said = place_sentences(block.lines, lengths, block.sentence_pause, block.paragraph_pause)
    if isinstance(block, Rest):
        length: Fraction = block.seconds
    else:
        end = said[-1][0] + said[-1][1] if said else Fraction(0)
        length = end + block.pause_after if block.slot is None else block.slot
    ticks = Ticks([length, *(time for begin, lasts, _ in said for time in (begin, lasts))])
    events = [Event(0, ticks(length), EventKind.BLOCK)]
    # The count of a sentence is its place in the block, so every one has an address.
    events += [
        Event(ticks(begin), ticks(time), EventKind.TALK, count=number, text=text)
        for number, (begin, time, text) in enumerate(said, 1)
    ]
    return Body(ticks.per_second, ticks(length), tuple(events))
