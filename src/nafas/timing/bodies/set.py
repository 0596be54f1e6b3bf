"""The body of a breath set: a preparing breath, its rounds one by one, and the ease between its steps."""

from fractions import Fraction
from itertools import chain, islice

from nafas.bounded_cache import bounded_cache
from nafas.script.expansion import expand
from nafas.script.model.blocks import BreathSet
from nafas.script.model.phase import Phase, PhaseKind
from nafas.script.model.sentences import sentences
from nafas.script.words.lexicon import Lexicon
from nafas.timing.bodies.manner import Manner
from nafas.timing.bodies.openings import texts_to_time
from nafas.timing.bodies.round_words import round_events
from nafas.timing.bodies.talk import short_talk
from nafas.timing.bodies.ticks import Ticks
from nafas.timing.timeline import Body, Event, EventKind, size_of_body


@bounded_cache(4 * 2**20, lambda words: 200 + 60 * len(words))
def openings_to_time(block: BreathSet, count_length: Fraction, lexicon: Lexicon) -> tuple[str, ...]:
    """The openings whose spoken length matters for the times of a set: long forms, movements, parts; each once."""
    manner = Manner(block.style, block.chimes, block.mind, lexicon)
    rounds = expand(block, count_length)
    distinct = {(id(one.phases), one.long, one.level, one.number == 1, one.calls): one for one in rounds}
    phases = ((index, one) for one in distinct.values() for index in range(len(one.phases)))
    return tuple(dict.fromkeys(text for index, one in phases for text in texts_to_time(index, one, manner)))


@bounded_cache(48 * 2**20, size_of_body)
def set_body(
    block: BreathSet,
    count_length: Fraction,
    lexicon: Lexicon,
    openings: tuple[Fraction, ...],
    said: tuple[Fraction, ...] = (),
) -> Body:
    """A breath set.

    Args:
        block: the set.
        count_length: seconds a count in it.
        lexicon: its words.
        openings: seconds to say each of `openings_to_time`.
        said: seconds to say each sentence of its ease, part by part.
    """
    rounds = expand(block, count_length)
    spoken = dict(zip(openings_to_time(block, count_length, lexicon), openings))
    seconds = iter(said)
    eases = [short_talk(part, list(islice(seconds, len(sentences(part))))) for part in block.ease_words.split("|")]
    ticks = Ticks(
        chain(
            {one.count_length for one in rounds},
            {phase.seconds for one in rounds for phase in one.phases if phase.seconds is not None},
            [block.ease, Fraction(1)],
            (time for ease in eases for begin, lasts, _ in ease for time in (begin, lasts)),
        )
    )
    events: list[Event] = []
    at = 0
    if block.prepare is not None:
        events, at = _prepare(block, lexicon, rounds[0].count_length, ticks)
    manner = Manner(block.style, block.chimes, block.mind, lexicon)
    # Rounds that are alike are written once: what a round says depends on all of it but its number.
    alike: dict[tuple[object, ...], tuple[list[tuple[int, int, EventKind, tuple[object, ...]]], int]] = {}
    new = tuple.__new__  # as Event(...) does, without the call in between
    message = 0
    # The first round differs from the others only where something is said in full or once.
    first_differs = (
        block.style.long_forms
        or block.mind
        or any(map(_differs_at_first, block.pattern.phases))
        or any(_differs_at_first(phase) for one in rounds if one.opens_step for phase in one.phases)
    )
    step = 0
    for one in rounds:
        if one.opens_step and one.number > 1 and block.ease:
            events.append(Event(at, ticks(block.ease), EventKind.EASE, one.number - 1))
            ease = eases[min(step, len(eases) - 1)]
            step += 1
            events += [
                Event(at + ticks(begin), ticks(lasts), EventKind.TALK, count=message + n, text=text)
                for n, (begin, lasts, text) in enumerate(ease, 1)
            ]
            at, message = at + ticks(block.ease), message + len(ease)
        key = (
            id(one.phases),
            one.count_length,
            one.level,
            one.long and first_differs,
            one.before_last,
            one.calls,
            one.rooms,
            one.number == 1 and block.mind,
        )
        if key not in alike:
            alike[key] = (list(round_events(one, manner, ticks, spoken)), ticks(one.seconds))
        body, length = alike[key]
        number = one.number
        events.append(Event(at, length, EventKind.ROUND, number))
        events += [new(Event, (at + begin, lasts, kind, number, *tail)) for begin, lasts, kind, tail in body]
        at += length
    return Body(ticks.per_second, at, (Event(0, at, EventKind.BLOCK), *events))


def _differs_at_first(phase: Phase) -> bool:
    """Whether a phase is opened in other words in the first round of a step."""
    moves = phase.movement is not None or any(part.movement is not None for part in phase.parts)
    return moves or bool(phase.long_cue or phase.route or phase.fill)


def _prepare(block: BreathSet, lexicon: Lexicon, count_length: Fraction, ticks: Ticks) -> tuple[list[Event], int]:
    """A breath in and out before the first round: said, not counted."""
    assert block.prepare is not None
    step = ticks(count_length)
    at = 0
    events: list[Event] = []
    for number, phase in enumerate(block.prepare.phases, 1):
        if phase.size:
            length = ticks(phase.length(count_length))
            words = _prepare_words(phase, lexicon)
            rest = (phase.kind, phase.side)
            events.append(Event(at, length, EventKind.PHASE, 0, number, 0, "", *rest))
            events.append(Event(at, min(step, length), EventKind.CUE, 0, number, 0, words, *rest))
            at += length
    return [Event(0, at, EventKind.PREPARE), *events], at


def _prepare_words(phase: Phase, lexicon: Lexicon) -> str:
    if phase.cue is not None or phase.kind.is_hold:
        return lexicon.cue(phase)
    return lexicon.say("normal_in" if phase.kind is PhaseKind.INHALE else "normal_out")
