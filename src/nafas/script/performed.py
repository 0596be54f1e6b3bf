"""Words that are called and counted, heard in a recording or spelled out in a text, as phases, rounds and sets."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from statistics import median

from nafas.script.model.phase import PhaseKind

_SET_APART = 3.6
"""Counts without a word after which another set begins, where numbers are spoken; holds may be silent for longer."""
_LEAST_APART, _MOST_APART = 4.5, 15.0
"""The same in seconds: never sooner, always later."""


@dataclass(frozen=True)
class CountedWord:
    """A cue or a number.

    Attributes:
        text: one of the vocabulary's.
        number: its number from 1; 0 for a cue.
        kind: the phase a cue begins; None for a number.
        start, end: seconds.
        beat: seconds at which it is felt.
        confidence: 0 to 1, by how evenly it comes among its like; 0 where that is not known yet.
        room: seconds of no speech on the nearer side.
    """

    text: str
    number: int
    kind: PhaseKind | None
    start: float
    end: float
    beat: float
    confidence: float = 0.0
    room: float = 0.0


@dataclass(frozen=True)
class PerformedPhase:
    """A cue and the numbers after it.

    Attributes:
        kind: what the cue calls for.
        words: the cue first, unless the first cue of a set was missed.
        until: when the next phase begins; None for the last of a set.
    """

    kind: PhaseKind
    words: tuple[CountedWord, ...]
    until: float | None

    @property
    def start(self) -> float:
        return self.words[0].beat

    @property
    def length(self) -> float | None:
        """Seconds to the next phase."""
        return None if self.until is None else self.until - self.start

    @property
    def numbers(self) -> tuple[int, ...]:
        return tuple(word.number for word in self.words if word.number)

    @cached_property
    def falls(self) -> bool:
        """Whether it is counted down."""
        steps = [after - before for before, after in pairwise(self.numbers)]
        return sum(step < 0 for step in steps) > sum(step > 0 for step in steps)

    @property
    def counts(self) -> int:
        """Counts it has by its numbers, the cue taken for count one; 1 for a cue alone."""
        numbers = self.numbers
        if not numbers:
            return 1
        return numbers[0] + (numbers[0] > 1 or len(numbers) == 1) if self.falls else numbers[-1]

    @property
    def steps(self) -> list[tuple[float, float]]:
        """(time, seconds a count) of each pair of words that are one count apart."""
        steps_ = []
        for before, after in pairwise(self.words):
            away = abs(after.number - before.number) if before.number else 1
            if before.number == 0 and after.number not in (1, 2) and not self.falls:
                continue
            if away == 1:
                steps_.append((before.beat, after.beat - before.beat))
        return steps_


@dataclass(frozen=True)
class PerformedSet:
    """Rounds one after another; each is a tuple of phases."""

    rounds: tuple[tuple[PerformedPhase, ...], ...]

    @property
    def start(self) -> float:
        return self.rounds[0][0].start

    @property
    def end(self) -> float:
        """When its last word is over."""
        return self.rounds[-1][-1].words[-1].end

    @cached_property
    def pattern(self) -> tuple[tuple[PhaseKind, int], ...]:
        """What most rounds are: kinds and counts."""
        shapes = Counter(tuple((phase.kind, phase.counts) for phase in one) for one in self.rounds)
        return shapes.most_common(1)[0][0]

    @cached_property
    def count_lengths(self) -> list[tuple[float, float]]:
        """(time, seconds a count) of every round in which a count can be known."""
        lengths = []
        for one in self.rounds:
            steps = [step for phase in one for step in phase.steps]
            if len(steps) >= 2:
                lengths.append((one[0].start, float(median([length for _, length in steps]))))
        return lengths

    @property
    def count_length(self) -> float | None:
        """Seconds a count, the middle of its rounds'."""
        lengths = [length for _, length in self.count_lengths]
        return float(median(lengths)) if lengths else None


def performed(words: Sequence[CountedWord]) -> tuple[PerformedSet, ...]:
    """The sets of a recording, of the words called and counted in it, in order of time."""
    return tuple(
        _set(phases) for group in _groups(words) if (phases := _phases(group)) and any(len(p.words) > 1 for p in phases)
    )


def performed_set(words: Sequence[CountedWord]) -> PerformedSet:
    """Words that are known to be one set, as its rounds; there is one at least."""
    return _set(_phases(words))


def _groups(words: Sequence[CountedWord]) -> list[list[CountedWord]]:
    if not words:
        return []
    steps = [after.beat - before.beat for before, after in pairwise(words)]
    usual = float(median(steps)) if steps else 1.0
    groups: list[list[CountedWord]] = [[words[0]]]
    for before, after, step in zip(words, words[1:], steps):
        apart = min(_MOST_APART, max(_LEAST_APART, _SET_APART * usual))
        silent = before.kind is not None and before.kind.is_hold  # its counts may be left unsaid
        longest = _MOST_APART if silent else apart
        if step > (longest if after.kind is not None else _MOST_APART):  # a cue may have been missed
            groups.append([])
        groups[-1].append(after)
    return groups


def _phases(words: Sequence[CountedWord]) -> list[PerformedPhase]:
    parts: list[list[CountedWord]] = []
    for word in words:
        if word.kind is not None or not parts:
            parts.append([])
        parts[-1].append(word)
    phases: list[PerformedPhase] = []
    for part, after in zip(parts, [*parts[1:], None]):
        kind = part[0].kind or PhaseKind.INHALE
        if kind is PhaseKind.HOLD_FULL and phases and phases[-1].kind is PhaseKind.EXHALE:
            kind = PhaseKind.HOLD_EMPTY
        phases.append(PerformedPhase(kind, tuple(part), None if after is None else after[0].beat))
    return phases


def _set(phases: Sequence[PerformedPhase]) -> PerformedSet:
    first = phases[0].kind if phases[0].kind in (PhaseKind.INHALE, PhaseKind.EXHALE) else PhaseKind.INHALE
    rounds: list[list[PerformedPhase]] = []
    for phase in phases:
        if phase.kind is first or not rounds:
            rounds.append([])
        rounds[-1].append(phase)
    return PerformedSet(tuple(map(tuple, rounds)))
