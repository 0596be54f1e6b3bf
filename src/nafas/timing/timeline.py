"""The Timeline: when each thing happens, exactly.

Conventions. A time is seconds from the start of the session, an exact `Fraction`. Inside a block, times are whole
ticks from the block's start, `per_second` ticks a second (the least number that makes every one of them whole), so
a block's body can be kept and reused wherever the block stands. Rounds, phases and counts are numbered from 1;
0 means "does not apply". No event is ever placed by adding rounded lengths.
"""

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from functools import cached_property
from math import lcm
from operator import itemgetter
from typing import NamedTuple, TypeVar

from nafas.script.edits.session_edits import block_name
from nafas.script.expansion import Round, expand
from nafas.script.model.blocks import Block, BreathSet, Spoken
from nafas.script.model.phase import PhaseKind, Side
from nafas.script.model.session import Session
from nafas.script.model.voice import Speaking

_T = TypeVar("_T")


class EventKind(StrEnum):
    """What happens. Events on one time keep the order of the script: block, round, phase, chime, count.

    PREPARE, EASE and STROKES span a preparing breath, natural breath inside a block, and a run of strokes; CALL is said
    within a phase; TICK is a soft sound in the place of a word; COVERED names words that are not said, because what is
    said before them takes their time. RECORDING is what a block plays (`timing.recorded`); no body has it.
    """

    BLOCK = "block"
    ROUND = "round"
    PHASE = "phase"
    CHIME = "chime"
    CUE = "cue"
    COUNT = "count"
    TICK = "tick"
    COVERED = "covered"
    CALL = "call"
    STROKE = "stroke"
    PREPARE = "prepare"
    EASE = "ease"
    STROKES = "strokes"
    TALK = "talk"
    BELL = "bell"
    RECORDING = "recording"
    END = "end"


class Event(NamedTuple):
    """One event of a block.

    Attributes:
        tick: when, in ticks from the block's start.
        length: how long it lasts, in ticks; for words, the time they are given on the page.
        kind: what happens.
        round, phase, count: script address inside the block; 0 where it does not apply.
        text: the words spoken then, "" for none; of COVERED, those that are not.
        phase_kind: for a phase, its chime and its counts: what the breath does; else None.
        side: for a phase and its chime: the side it goes through, or None.
    """

    tick: int
    length: int
    kind: EventKind
    round: int = 0
    phase: int = 0
    count: int = 0  # type: ignore[assignment]  # hides tuple.count, which no event needs
    text: str = ""
    phase_kind: PhaseKind | None = None
    side: Side | None = None

    @property
    def said(self) -> bool:
        """Whether words are said at it."""
        return bool(self.text) and self.kind is not EventKind.COVERED


class _Ticks(NamedTuple):
    per_second: int
    length: int
    events: tuple[Event, ...]


class Body(_Ticks):
    """A block's events relative to its start, in order, and its length in ticks.

    A body lives as long as its block stays the same, so what is worked out from it is kept with it: an edit then costs
    what the changed block costs, however long the session is.
    """

    def kept(self, name: str, given: Hashable, make: "Callable[[], _T]") -> "_T":
        """What `make` gives, kept under a name until it is asked for with something else `given`."""
        known = self.__dict__.get(name)
        if known is None or known[0] != given:
            known = self.__dict__[name] = (given, make())
        made: _T = known[1]
        return made

    @property
    def seconds(self) -> Fraction:
        return Fraction(self.length, self.per_second)


def size_of_body(body: Body) -> int:
    """About how many bytes a body takes: an event is a tuple of eight, most of whose members are shared."""
    return 500 + 200 * len(body.events)


@dataclass(frozen=True)
class TimedBlock:
    """A block in its place: `start` in exact seconds; `count_length` of a breath set, in exact seconds, else None;
    `language` of what is said in it."""

    index: int
    block: Block
    start: Fraction
    body: Body
    count_length: Fraction | None = None
    language: str = "en"

    @property
    def length(self) -> Fraction:
        return self.body.seconds

    @property
    def end(self) -> Fraction:
        return self.start + self.body.seconds

    @property
    def rounds(self) -> tuple[Round, ...]:
        """A breath set written out round by round; () for other blocks."""
        if not isinstance(self.block, BreathSet) or self.count_length is None:
            return ()
        return expand(self.block, self.count_length)

    def at(self, event: Event) -> Fraction:
        """Exact session time of one of this block's events."""
        return self.start + Fraction(event.tick, self.body.per_second)


class Moment(NamedTuple):
    """An event in session time, with its whole script address.

    Times are ticks of the timeline's own `per_second`, one for all its moments, so they compare as integers.
    """

    tick: int
    span: int
    per_second: int
    kind: EventKind
    block: str = ""
    round: int = 0
    phase: int = 0
    count: int = 0  # type: ignore[assignment]  # hides tuple.count, which no event needs
    text: str = ""
    phase_kind: PhaseKind | None = None
    side: Side | None = None

    @property
    def at(self) -> Fraction:
        """Exact seconds from the session's start."""
        return Fraction(self.tick, self.per_second)

    @property
    def length(self) -> Fraction:
        """How long it lasts, in exact seconds."""
        return Fraction(self.span, self.per_second)

    def sample(self, rate: int) -> int:
        """Its sample: floor(at * rate + 1/2), in whole numbers throughout."""
        return (2 * self.tick * rate + self.per_second) // (2 * self.per_second)


def way_of(number: int, last: int) -> float:
    """How far into a block its nth sentence or round is: 0.0 for the first, 1.0 for the last."""
    return max(0, number - 1) / max(1, last - 1)


_NAMES = {EventKind.BELL: "End bell", EventKind.END: "End"}
_COUNT_WORDS = {EventKind.TALK: "sentence", EventKind.STROKE: "stroke"}
_COUNTED = (EventKind.COUNT, EventKind.STROKE, EventKind.CUE)


def to_sample(at: Fraction, rate: int) -> int:
    """The sample of an exact time: floor(at * rate + 1/2)."""
    return (2 * at.numerator * rate + at.denominator) // (2 * at.denominator)


@dataclass(frozen=True)
class Timeline:
    """A compiled session.

    Attributes:
        session: the script it was compiled from.
        blocks: every block in its place, in order.
        bell_at: when the end bell sounds, or None.
        length: the whole session, opening and closing included.
    """

    session: Session
    blocks: tuple[TimedBlock, ...]
    bell_at: Fraction | None
    length: Fraction

    @cached_property
    def per_second(self) -> int:
        """Ticks a second that make every time of this session whole."""
        return lcm(
            self.length.denominator,
            *(n for b in self.blocks for n in (b.body.per_second, b.start.denominator)),
        )

    @cached_property
    def _titles(self) -> dict[str, str]:
        return {block.id: block_name(block) for block in self.session.blocks}

    def address(self, moment: Moment) -> str:
        """Where in the script a moment is, for people: "Long exhale, round 2, inhale, count 3"."""
        words = [self._titles.get(moment.block, moment.block) or _NAMES.get(moment.kind, moment.kind.value)]
        if moment.round:
            words.append(f"round {moment.round}")
        if moment.phase:
            kind = moment.phase_kind
            words.append(f"phase {moment.phase}" if kind is None else kind.plain)
        if moment.count:
            words.append(f"{_COUNT_WORDS.get(moment.kind, 'count')} {moment.count}")
        return ", ".join(words)

    @cached_property
    def _by_id(self) -> dict[str, TimedBlock]:
        return {timed.block.id: timed for timed in self.blocks}

    def speaking_at(self, moment: Moment) -> Speaking:
        """Who says what is said at a moment."""
        timed = self._by_id.get(moment.block)
        if timed is None:
            return self.session.speaking
        block = timed.block
        if block.pace is None or block.pace.to is None:
            return self.session.speaking_in(block)
        if isinstance(block, Spoken):
            number, last = moment.count, sum(map(len, block.lines))
        else:  # what is said in an ease is said at the pace of the set's beginning
            number, last = (0 if moment.kind is EventKind.TALK else moment.round), len(timed.rounds)
        return self.session.speaking_in(block, way_of(number, last))

    @cached_property
    def moments(self) -> tuple[Moment, ...]:
        """Every event in session time, strictly ordered by (time, place in the script)."""
        per_second = self.per_second
        moments_ = [moment for block in self.blocks for moment in _moments(block, per_second)]
        end = _ticks(self.length, per_second)
        if self.bell_at is not None:
            bell = _ticks(self.bell_at, per_second)
            moments_.append(Moment(bell, end - bell, per_second, EventKind.BELL))
        moments_.append(Moment(end, 0, per_second, EventKind.END))
        # Words may overrun into the next block. The sort is stable: on one time, script order stays.
        moments_.sort(key=itemgetter(0))
        return tuple(moments_)

    def round_span(self, block: int, number: int) -> tuple[float, float]:
        """From and to, in seconds, of a round of a block; of the whole block where it has no such round."""
        timed = self.blocks[block]
        for event in timed.body.events:
            if event.kind is EventKind.ROUND and event.round == number:
                begin = timed.at(event)
                return float(begin), float(begin + Fraction(event.length, timed.body.per_second))
        return float(timed.start), float(timed.end)

    @cached_property
    def counted(self) -> tuple[Moment, ...]:
        """The moments of counts, cues and strokes, said aloud or not."""
        return tuple(moment for moment in self.moments if moment.kind in _COUNTED)

    @cached_property
    def spoken(self) -> tuple[Moment, ...]:
        """The moments at which words are said."""
        return tuple(moment for moment in self.moments if moment.text and moment.kind is not EventKind.COVERED)

    @cached_property
    def covered(self) -> tuple[Moment, ...]:
        """Words that were to be said and are not: what comes before them takes their time."""
        return tuple(moment for moment in self.moments if moment.kind is EventKind.COVERED)


def _ticks(at: Fraction, per_second: int) -> int:
    return at.numerator * (per_second // at.denominator)


def _moments(block: TimedBlock, per_second: int) -> list[Moment]:
    start = _ticks(block.start, per_second)
    scale = per_second // block.body.per_second
    name = block.block.id
    new = tuple.__new__  # as Moment(...) does, without the call in between: an hour has thousands
    return [
        new(
            Moment,
            (start + tick * scale, length * scale, per_second, kind, name, number, phase, count, text, breath, side),
        )
        for tick, length, kind, number, phase, count, text, breath, side in block.body.events
    ]
