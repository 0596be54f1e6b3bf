"""The body of talk and of natural breath: sentences one after another."""

from collections.abc import Sequence
from fractions import Fraction

from nafas.bounded_cache import bounded_cache
from nafas.script.model.blocks import Rest, Talk
from nafas.script.model.sentences import Sentence, with_pauses
from nafas.timing.bodies.ticks import Ticks
from nafas.timing.timeline import Body, Event, EventKind, size_of_body

Said = tuple[Fraction, Fraction, str]
"""When a sentence begins, how long it takes, and its words."""


def place_sentences(
    paragraphs: Sequence[Sequence[Sentence]],
    lengths: Sequence[Sequence[Fraction]],
    between: Fraction = Fraction(6, 5),
    apart: Fraction = Fraction(3),
    lead: Fraction = Fraction(0),
) -> list[Said]:
    """Sentences in their order, `between` seconds from one to the next and `apart` between paragraphs, or as long after
    each as is written there; the first after `lead` seconds."""
    at = lead
    said: list[Said] = []
    pause = Fraction(0)
    for paragraph, times in zip(paragraphs, lengths):
        for number, (sentence, time) in enumerate(zip(paragraph, times), 1):
            at += pause
            said.append((at, time, sentence.text))
            at += time
            usual = between if number < len(paragraph) else apart
            pause = usual if sentence.pause is None else sentence.pause
    return said


def short_talk(words: str, lengths: Sequence[Fraction]) -> list[Said]:
    """The sentences of a few words said over the start of some natural breath."""
    read = with_pauses(words)
    lead = read[0].pause or Fraction(0) if read and not read[0].text else Fraction(0)
    return place_sentences([[each for each in read if each.text]], [lengths], lead=lead)


@bounded_cache(16 * 2**20, size_of_body)
def talk_body(block: Talk | Rest, lengths: tuple[tuple[Fraction, ...], ...]) -> Body:
    """A block of talk or natural breath; `lengths` are the seconds of each sentence, by paragraph."""
    said = place_sentences(block.lines, lengths, block.sentence_pause, block.paragraph_pause, block.lead)
    if isinstance(block, Rest):
        length: Fraction = block.seconds
    else:
        end = said[-1][0] + said[-1][1] if said else block.lead
        after = block.lines[-1][-1].pause if said else None
        length = end + (block.pause_after if after is None else after) if block.slot is None else block.slot
    ticks = Ticks([length, *(time for begin, lasts, _ in said for time in (begin, lasts))])
    events = [Event(0, ticks(length), EventKind.BLOCK)]
    # The count of a sentence is its place in the block, so every one has an address.
    events += [
        Event(ticks(begin), ticks(time), EventKind.TALK, count=number, text=text)
        for number, (begin, time, text) in enumerate(said, 1)
    ]
    return Body(ticks.per_second, ticks(length), tuple(events))
