"""Pacing: how a set changes from step to step, and the steps that come of it.

A step is some rounds of one pattern. Every pacing gives its steps from the set's own pattern and rounds, which are
the first step's; nothing here knows seconds but the count lengths that are written.
"""

from fractions import Fraction
from math import floor
from typing import Annotated, Literal, NamedTuple

from pydantic import Field, field_validator

from nafas.script.model.exact import Seconds, decimal_text
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import MAX_COUNTS, Model, Phase, PhaseKind

MAX_ROUNDS = 500
SHORTEST_COUNT, LONGEST_COUNT = Fraction(1, 5), Fraction(6)

CountLength = Annotated[Fraction, Seconds(str(SHORTEST_COUNT), str(LONGEST_COUNT))]
Rounds = Annotated[int, Field(ge=1, le=MAX_ROUNDS, strict=True)]


class Step(NamedTuple):
    """Some rounds of one pattern. `count_length` None: the set's."""

    phases: tuple[Phase, ...]
    rounds: int
    count_length: Fraction | None


class StepUp(Model):
    """So many counts more every step, to a limit: 4-4-4-4 by 1 to 8. Steps of one count are usual.

    Attributes:
        by: counts a step adds to each chosen phase; below 0 it takes away.
        limit: no chosen phase goes past it.
        on: the kinds of phase that grow; () is every one.
    """

    kind: Literal["step-up"] = "step-up"
    by: Annotated[int, Field(ge=-20, le=20, strict=True)] = 1
    limit: Annotated[int, Field(ge=1, le=MAX_COUNTS, strict=True)]
    on: tuple[PhaseKind, ...] = ()

    @field_validator("by")
    @classmethod
    def _goes_somewhere(cls, by: int) -> int:
        if not by:
            raise ValueError("a step of 0 counts goes nowhere; write 1, or less than 0 to step down")
        return by

    def steps(self, pattern: Pattern, rounds: int) -> list[Step]:
        """Every step until a chosen phase would pass the limit. Raises ValueError where none grows."""
        chosen = [p.counts for p in pattern.sounding if p.counts and (not self.on or p.kind in self.on)]
        if not chosen:
            raise ValueError("no phase of the pattern is stepped; choose in, out, hold-full or hold-empty of it")
        first = max(chosen) if self.by > 0 else min(chosen)
        if (self.limit - first) * self.by < 0:
            way = "above" if self.by > 0 else "below"
            raise ValueError(f"the limit {self.limit} is not {way} the first step's {first}; change it or the step")
        number = (self.limit - first) // self.by + 1
        return [Step(self._grown(pattern, n * self.by), rounds, None) for n in range(number)]

    def _grown(self, pattern: Pattern, by: int) -> tuple[Phase, ...]:
        return tuple(
            phase.resized(phase.counts + by)
            if by and phase.counts and (not self.on or phase.kind in self.on)
            else phase
            for phase in pattern.phases
        )


class Rounding(Model):
    """What a ratio that gives no whole count becomes: 3 x 1 1/2 is 5 rounded up, as is usual."""

    way: Literal["up", "down", "nearest", "refuse"] = "up"

    def whole(self, counts: Fraction) -> int:
        """Whole counts. Raises ValueError to refuse."""
        if counts.denominator == 1:
            return int(counts)
        if self.way == "refuse":
            raise ValueError(f"{decimal_text(counts)} is no whole count; round up or down, or choose another ratio")
        return {"up": -floor(-counts), "down": floor(counts), "nearest": floor(counts + Fraction(1, 2))}[self.way]


class Ladder(Model):
    """The exhale lengthens from ratio to ratio while the inhale stays: 1 : 1, 1 : 1 1/2, 1 : 2."""

    kind: Literal["ladder"] = "ladder"
    ratios: Annotated[tuple[Annotated[Fraction, Seconds("1/4", "6", unit="")], ...], Field(min_length=1, max_length=20)]
    rounding: Literal["up", "down", "nearest", "refuse"] = "up"

    def steps(self, pattern: Pattern, rounds: int) -> list[Step]:
        """A step for each ratio. Raises ValueError without an inhale and exhale, or past the bounds."""
        inhales = [phase.counts for phase in pattern.phases if phase.kind is PhaseKind.INHALE and phase.counts]
        if not inhales or not any(p.kind is PhaseKind.EXHALE and p.counts for p in pattern.phases):
            raise ValueError("a ladder of ratios needs an inhale and an exhale; write for example 3-3")
        rounding = Rounding(way=self.rounding)
        result = []
        for ratio in self.ratios:
            counts = rounding.whole(inhales[0] * ratio)
            if not 1 <= counts <= MAX_COUNTS:
                raise ValueError(f"1 : {ratio} makes an exhale of {counts} counts; keep it within 1 to {MAX_COUNTS}")
            phases = tuple(
                phase.resized(counts) if phase.kind is PhaseKind.EXHALE and phase.counts not in (0, counts) else phase
                for phase in pattern.phases
            )
            result.append(Step(phases, rounds, None))
        return result


class Glide(Model):
    """The same counts, slower or faster from round to round: the count length glides evenly to `to`."""

    kind: Literal["glide"] = "glide"
    to: CountLength

    def steps(self, pattern: Pattern, rounds: int, start: Fraction) -> list[Step]:
        """A step of one round each, from `start` seconds a count in the first round to `to` in the last."""
        way = [Fraction(n, max(1, rounds - 1)) for n in range(rounds)]
        return [Step(pattern.phases, 1, start + (self.to - start) * share) for share in way]


class TableStep(Model):
    """One row of a hand-written table."""

    pattern: Pattern
    rounds: Rounds = 1
    count_length: CountLength | None = None


class Table(Model):
    """Steps written by hand. The set's own pattern and rounds are the first; these follow."""

    kind: Literal["table"] = "table"
    steps_after: Annotated[tuple[TableStep, ...], Field(min_length=1, max_length=60)]

    def steps(self, pattern: Pattern, rounds: int) -> list[Step]:
        """The first step and those that follow."""
        own = Step(pattern.phases, rounds, None)
        return [own, *(Step(s.pattern.phases, s.rounds, s.count_length) for s in self.steps_after)]


Pacing = Annotated[StepUp | Ladder | Glide | Table, Field(discriminator="kind")]


def steps_of(pattern: Pattern, rounds: int, pacing: "Pacing | None", count_length: Fraction) -> list[Step]:
    """The steps of a set, at least one.

    Raises:
        ValueError: the pacing leaves the bounds; the words say what to write instead.
    """
    if pacing is None:
        result = [Step(pattern.phases, rounds, None)]
    elif isinstance(pacing, Glide):
        result = pacing.steps(pattern, rounds, count_length)
    else:
        result = pacing.steps(pattern, rounds)
    total = sum(step.rounds for step in result)
    if total > MAX_ROUNDS:
        raise ValueError(f"the steps make {total} rounds; keep a set within {MAX_ROUNDS}")
    return result
