"""A set written out round by round: pacing, dropped holds and fade applied. What the timing, the score and the details
all read."""

from collections import Counter
from fractions import Fraction
from functools import lru_cache
from typing import NamedTuple

from nafas.bounded_cache import bounded_cache
from nafas.script.model.blocks import BreathSet, CountStyle
from nafas.script.model.guidance import Level, TooFewRounds, levels
from nafas.script.model.pacing import steps_of
from nafas.script.model.phase import Phase
from nafas.script.running_calls import RunningCall, Span, running_calls


class Round(NamedTuple):
    """One round.

    Attributes:
        number: from 1 through the whole set.
        step: from 1; `opens_step` in a step's first round.
        phases: as breathed here, those of 0 counts left out.
        numbers: each phase's place in its pattern, from 1.
        count_length: seconds a count.
        level: how much is said.
        long: the first round of its step: cues are said in full, routes, fills and movements named.
        before_last: the round after it is the last, and that is announced here.
        calls: what is said in it of where one is, and its phrase.
        rooms: counts of room before each phase for a cue said ahead, phase by phase; 0 for none.
        seconds: exact length.
    """

    number: int
    step: int
    opens_step: bool
    phases: tuple[Phase, ...]
    numbers: tuple[int, ...]
    count_length: Fraction
    level: Level
    long: bool
    before_last: bool
    calls: tuple[RunningCall, ...]
    rooms: tuple[int, ...]
    seconds: Fraction

    @property
    def counts(self) -> int:
        """Counts with the room of its cues; holds in seconds aside."""
        return sum(phase.counts for phase in self.phases) + sum(self.rooms)


def seconds_of(phases: tuple[Phase, ...], count_length: Fraction, room: int) -> Fraction:
    """Exact length of one round with so many counts of room for its cues."""
    counts = sum(phase.counts for phase in phases) + room
    held = [phase.seconds for phase in phases if phase.seconds is not None]
    return sum(held, counts * count_length)


@bounded_cache(16 * 2**20, lambda rounds: 300 * len(rounds))
def expand(block: BreathSet, count_length: Fraction) -> tuple[Round, ...]:
    """Every round of a set, at its count length.

    A set without pacing grows to what its fade asks for; a paced one does not.

    Raises:
        ValueError: the pacing or the fade leaves the bounds; the words say what to write instead.
    """
    try:
        return _expand(block, count_length, block.rounds)
    except TooFewRounds as fault:
        if block.pacing is not None:
            raise
        return _expand(block, count_length, fault.needed)


def _expand(block: BreathSet, count_length: Fraction, rounds: int) -> tuple[Round, ...]:
    steps = steps_of(block.pattern, rounds, block.pacing, count_length)
    flat = [(index, n, step) for index, step in enumerate(steps, 1) for n in range(1, step.rounds + 1)]
    total = len(flat)
    bodies: list[tuple[Phase, ...]] = []
    for index, step in enumerate(steps, 1):
        ends = block.drop_hold == "step" or (block.drop_hold == "last" and index == len(steps))
        bodies += [_breathed(step.phases, False)] * (step.rounds - 1) + [_breathed(step.phases, ends)]
    counts = [count_length if step.count_length is None else step.count_length for _, _, step in flat]
    rooms = [rooms_of(phases, block.style, number == 1) for number, phases in enumerate(bodies, 1)]
    result = [Level.FULL] * total
    if block.fade:
        spoken = [seconds_of(phases, count, sum(room)) for phases, count, room in zip(bodies, counts, rooms)]
        bare = [seconds_of(phases, count, 0) for phases, count in zip(bodies, counts)]
        result = levels(block.fade, spoken, bare)
    glides = len(steps) > 1 and all(step.phases == steps[0].phases for step in steps)
    lengths: dict[tuple[int, Fraction, tuple[int, ...]], Fraction] = {}
    none: dict[int, tuple[int, ...]] = {}
    spans: list[Span] = []
    seconds: list[Fraction] = []
    at = Fraction(0)
    for number, ((_, n, _), phases, count, room, level) in enumerate(zip(flat, bodies, counts, rooms, result)):
        room = room if level.speaks else none.setdefault(len(phases), (0,) * len(phases))
        alike = (id(phases), count, room)
        if alike not in lengths:
            lengths[alike] = seconds_of(phases, count, sum(room))
        at += block.ease if number and n == 1 and not glides else 0
        spans.append(Span(at, phases, room, count, level))
        seconds.append(lengths[alike])
        at += lengths[alike]
    said = running_calls(block, spans, at)
    written: list[Round] = []
    for number, ((index, n, step), (_, phases, room, count, level), calls, lasts) in enumerate(
        zip(flat, spans, said, seconds), 1
    ):
        written.append(
            Round(
                number=number,
                step=1 if glides else index,
                opens_step=n == 1 and (number == 1 or not glides),
                phases=phases,
                numbers=_numbers(step.phases)[: len(phases)],
                count_length=count,
                level=level,
                long=number == 1 or (n == 1 and not glides),
                before_last=block.style.announce_last and number == total - 1,
                calls=calls,
                rooms=room,
                seconds=lasts,
            )
        )
    return tuple(written)


@lru_cache(maxsize=4096)
def _numbers(phases: tuple[Phase, ...]) -> tuple[int, ...]:
    return tuple(at for at, phase in enumerate(phases, 1) if phase.size)


@lru_cache(maxsize=4096)
def rooms_of(phases: tuple[Phase, ...], style: CountStyle, first: bool) -> tuple[int, ...]:
    """Counts of room before each phase for its cue: its own number, else the set's."""
    usual = 0
    if style.cue == "ahead":
        usual = style.first_room if first and style.first_room is not None else style.cue_room
    return tuple(usual if phase.cue_room is None else phase.cue_room for phase in phases)


@lru_cache(maxsize=4096)
def _breathed(phases: tuple[Phase, ...], drops: bool) -> tuple[Phase, ...]:
    """Phases that take time, without a final hold where it is dropped. One object for equal ones."""
    sounding = tuple(phase for phase in phases if phase.size)
    return sounding[:-1] if drops and sounding[-1].kind.is_hold and len(sounding) > 1 else sounding


@lru_cache(maxsize=4096)
def set_seconds(block: BreathSet, count_length: Fraction) -> Fraction:
    """Exact length of a set: preparing breath, rounds, and the ease between its steps."""
    rounds = expand(block, count_length)
    lengths = Counter(one.seconds for one in rounds)
    total = sum((times * seconds for seconds, times in lengths.items()), Fraction(0))
    if block.prepare is not None:
        total += block.prepare.length(rounds[0].count_length)
    return total + block.ease * sum(one.opens_step and one.number > 1 for one in rounds)


def cue_room_seconds(block: BreathSet, count_length: Fraction) -> Fraction:
    """What cues said ahead cost in time over the whole set."""
    return sum((sum(r.rooms) * r.count_length for r in expand(block, count_length)), Fraction(0))


def runs(rounds: tuple[Round, ...], words: bool = True) -> list[tuple[Round, Round]]:
    """Rounds that are led alike, run by run: the first and the last of each. Without `words`, what is announced in a
    round makes no difference."""
    runs_: list[tuple[Round, Round]] = []
    names = _ALIKE if words else _ALIKE[:-1]
    for one in rounds:
        if runs_ and all(getattr(one, name) == getattr(runs_[-1][0], name) for name in names):
            runs_[-1] = (runs_[-1][0], one)
        else:
            runs_.append((one, one))
    return runs_


_ALIKE = ("step", "phases", "count_length", "level", "rooms", "before_last", "calls")
