"""Guidance: how much the voice says from round to round, thinning out until the listener practises alone."""

from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field, model_validator

from nafas.script.model.exact import Seconds
from nafas.script.model.pacing import MAX_ROUNDS, Rounds
from nafas.script.model.phase import Model


class Level(StrEnum):
    """How much is said: every count, only the cue words, chimes without the voice, or nothing at all."""

    FULL = "full"
    CUES = "cues"
    CHIMES = "chimes"
    SILENT = "silent"

    @property
    def speaks(self) -> bool:
        return self in (Level.FULL, Level.CUES)


class FadeStep(Model):
    """Some rounds of one level.

    Attributes:
        level: how much is said.
        rounds: how many rounds, or None: see `seconds`, or else all that are left.
        seconds: practice alone of about or at least so many seconds; it becomes whole rounds.
        rule: "about": the whole number of rounds nearest to it; "at-least": the fewest that last as long.
    """

    level: Level
    rounds: Rounds | None = None
    seconds: Annotated[Fraction, Seconds("1", "3600")] | None = None
    rule: Literal["about", "at-least"] = "about"

    @model_validator(mode="after")
    def _one_length(self) -> "FadeStep":
        if self.rounds is not None and self.seconds is not None:
            raise ValueError("a fade step lasts so many rounds or so many seconds, not both; take one out")
        return self


Fade = Annotated[tuple[FadeStep, ...], Field(max_length=20)]


class TooFewRounds(ValueError):  # noqa: N818 - read as "the fade asks for too few rounds"
    """The fade asks for more rounds than there are. `needed` is how many it asks for."""

    def __init__(self, needed: int, given: int) -> None:
        super().__init__(f"the fade needs {needed} rounds, the set has {given}; shorten the fade or add rounds")
        self.needed = needed


def levels(fade: tuple[FadeStep, ...], spoken: list[Fraction], bare: list[Fraction]) -> list[Level]:
    """The level of every round.

    Args:
        fade: the steps; () speaks throughout.
        spoken: seconds of each round when its cues are said (with their room).
        bare: seconds of each round without.

    Returns:
        one level a round. After the last step its level goes on.

    Raises:
        TooFewRounds: the steps need more rounds than there are.
    """
    total = len(spoken)
    result: list[Level] = []
    for index, step in enumerate(fade):
        lengths = spoken if step.level.speaks else bare
        if step.rounds is not None:
            best = step.rounds
        elif step.seconds is not None:
            best = whole_rounds(step.seconds, lengths[len(result) :] or lengths[-1:], step.rule)
        else:
            after = fade[index + 1 :]
            # What the steps behind it need is kept for them; those in seconds are taken at the set's last rounds.
            kept = sum(s.rounds or (whole_rounds(s.seconds, lengths[-1:], s.rule) if s.seconds else 0) for s in after)
            best = max(0, total - len(result) - kept)
        result += [step.level] * best
        if len(result) > MAX_ROUNDS:
            raise ValueError(f"the fade makes more than {MAX_ROUNDS} rounds; shorten it")
    if len(result) > total:
        raise TooFewRounds(len(result), total)
    last = fade[-1].level if fade else Level.FULL
    return result + [last] * (total - len(result))


def whole_rounds(seconds: Fraction, lengths: list[Fraction], rule: str) -> int:
    """How many whole rounds last about, or at least, so long; at least one.

    `lengths` are the rounds to come; past their end the last goes on. Halfway between two numbers of rounds is the
    larger.
    """
    total, number = Fraction(0), 0
    while total < seconds:
        before, total = total, total + lengths[min(number, len(lengths) - 1)]
        number += 1
        if rule == "about" and total >= seconds:
            return number if total - seconds <= seconds - before or number == 1 else number - 1
    return number
