"""What is said of where one is in a set while it goes on: "round two", "two more", "halfway", a phrase each round."""

from typing import Annotated

from pydantic import AfterValidator, Field, field_validator

from nafas.script.model.phase import Model, PhaseKind, is_one_line


def _is_plain(words: str) -> str:
    if not is_one_line(words) or words != words.strip() or '"' in words:
        raise ValueError("a phrase is one line of plain text, without quotation marks or spaces at its ends; fix it")
    return words


Phrase = Annotated[str, Field(min_length=1, max_length=120), AfterValidator(_is_plain)]


class RoundCalls(Model):
    """Calls of a set. Each is said at the end of a round, on the last counts that it needs, of the round that comes.

    Attributes:
        every: each so many rounds the round that comes is named, from the second on; 0: none is.
        left: "two more" is said before so many last rounds, in falling order.
        half: "halfway" is said before the round that begins nearest to the middle of the set.
        minute: "one minute left" is said on the count nearest to a minute before the end of the last round.
        phrases: one is said in each round, after the cue, while the voice speaks.
        phrases_in: the phase they are said in, the first of its kind in the round.
        once: each phrase is said once; else they begin again.
    """

    every: Annotated[int, Field(ge=0, le=100, strict=True)] = 0
    left: Annotated[tuple[Annotated[int, Field(ge=2, le=99, strict=True)], ...], Field(max_length=9)] = ()
    half: bool = False
    minute: bool = False
    phrases: Annotated[tuple[Phrase, ...], Field(max_length=100)] = ()
    phrases_in: PhaseKind = PhaseKind.EXHALE
    once: bool = False

    @field_validator("left")
    @classmethod
    def _falls(cls, left: tuple[int, ...]) -> tuple[int, ...]:
        if list(left) != sorted(set(left), reverse=True):
            raise ValueError("rounds that are left are written from the most to the fewest, each once: 3 2")
        return left
