"""Compile a Session to a Timeline of exact times.

Only words of some length depend on anything but the script: talk lasts as long as its sentences take to say, and a
long form covers the counts it takes. What says how long is passed in (`SpokenLength`), so this room needs no voice.
Bodies of blocks are kept, so an edit recompiles one block.
"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from itertools import count

from nafas.errors import InputError
from nafas.script.expansion import set_seconds
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes, ease_parts
from nafas.script.model.sentences import sentences
from nafas.script.model.session import MAX_SESSION, Session
from nafas.script.model.voice import Speaking
from nafas.timing.bodies.set import openings_to_time, set_body
from nafas.timing.bodies.strokes import stroke_body
from nafas.timing.bodies.talk import talk_body
from nafas.timing.timeline import Body, TimedBlock, Timeline, way_of


@dataclass(frozen=True)
class SpokenLengths:
    """Exact seconds that words take to say: a sentence of talk, and what opens a phase, which is read quicker."""

    talk: Callable[[str], Fraction]
    opening: Callable[[str], Fraction]
    of: "Callable[[Speaking], SpokenLengths] | None" = None
    """The same of another voice, for blocks that have one of their own; None: all are alike."""

    def __call__(self, text: str) -> Fraction:
        return self.talk(text)


_NONE = Fraction(0)
SpokenLength = Callable[[str], Fraction] | SpokenLengths
"""Exact seconds that words take to say; where it is no `SpokenLengths`, openings take as long as talk."""


def paced(words_a_minute: int = 105) -> SpokenLengths:
    """Spoken lengths by pace alone, for planning without a voice (guided practice: 90 to 120 words a
    minute; common practice, no source). Rounded up to a tenth of a second."""

    def length(text: str) -> Fraction:
        words = max(1, len(text.split()))
        tenths = -(-words * 600 // words_a_minute)
        return Fraction(tenths, 10)

    return SpokenLengths(length, length, lambda speaking: paced(speaking.voice.pace))


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
        count_length = session.count_length_of(block) if isinstance(block, BreathSet) else None
        blocks.append(TimedBlock(index, block, at, body, count_length, block.language or session.language))
        at += body.seconds
    length = at + session.closing
    if length > MAX_SESSION:
        raise _too_long(session, length)
    return Timeline(session, tuple(blocks), at if session.end_bell else None, length)


class SessionLengths:
    """How long sessions last that are much alike: the length of their timelines, without making one.

    Blocks that several of them share are measured once.
    """

    def __init__(self, spoken_length: SpokenLength) -> None:
        self._spoken_length = spoken_length
        self._known: dict[tuple[int, Fraction], tuple[Block, Fraction]] = {}  # a block is held, so its id stays its own

    def __call__(self, session: Session) -> Fraction:
        """Exact seconds of a session. Raises InputError as `compile_session`."""
        total: Fraction = session.opening + session.closing
        for block in session.blocks:
            count_length = session.count_length_of(block) if isinstance(block, BreathSet) else _NONE
            known = self._known.get((id(block), count_length))
            if known is None:
                known = self._known[id(block), count_length] = (block, self._block(session, block))
            total += known[1]
        if total > MAX_SESSION:
            raise _too_long(session, total)
        return total

    def _block(self, session: Session, block: Block) -> Fraction:
        if isinstance(block, BreathSet):
            return set_seconds(block, session.count_length_of(block))
        if isinstance(block, Rest | Strokes):
            return block.seconds
        return _body(session, block, self._spoken_length).seconds


def _too_long(session: Session, length: Fraction) -> InputError:
    message = f"lasts {float(length / 3600):.2f} h with its talk"
    return InputError(session.title or "session", message, "keep a session within 4 h")


def _body(session: Session, block: Block, spoken_length: SpokenLength) -> Body:
    def voice(way: float = 0.0) -> SpokenLength:
        speaking = session.speaking_in(block, way)
        if speaking is session.speaking or not isinstance(spoken_length, SpokenLengths) or spoken_length.of is None:
            return spoken_length
        return spoken_length.of(speaking)

    lexicon = session.lexicon_of(block)
    if isinstance(block, BreathSet):
        count_length = session.count_length_of(block)
        slowest = min((0.0, 1.0), key=lambda way: session.speaking_in(block, way).voice.pace)
        slow = voice(slowest)
        opening = slow.opening if isinstance(slow, SpokenLengths) else slow
        openings = tuple(map(opening, openings_to_time(block, count_length, lexicon)))
        eases = tuple(voice()(text) for part in ease_parts(block.ease_words) for text in part)
        return set_body(block, count_length, lexicon, openings, eases)
    if isinstance(block, Strokes):
        lengths = tuple(map(voice(), sentences(block.recovery_words)))
        return stroke_body(block, lexicon, lengths)
    number, last = count(1), sum(map(len, block.lines))
    lengths_ = (tuple(voice(way_of(next(number), last))(each.text) for each in paragraph) for paragraph in block.lines)
    return talk_body(block, tuple(lengths_))
