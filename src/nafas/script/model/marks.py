"""Marks of a rehearsal: what was felt, at its place in the script."""

from enum import StrEnum
from fractions import Fraction
from typing import Annotated

from pydantic import Field, TypeAdapter

from nafas.script.model.exact import Seconds
from nafas.script.model.phase import Model

MOST_MARKS = 2_000


class Felt(StrEnum):
    """What a mark says of its place."""

    RUSHED = "rushed"
    SLOW = "too slow"
    BREATH = "short of breath"
    LOST = "lost"
    LOVELY = "lovely"
    LOUD = "too loud"
    QUIET = "too quiet"
    WORDS = "words"
    NOTE = "spoken note"


class Mark(Model):
    """Something felt in a rehearsal.

    Attributes:
        felt: what.
        block: id of its block; "" before the first and after the last.
        round, phase, count: script address of what had last begun; 0 where it does not apply.
        after: seconds since that began; for one without a block, since the session began.
        note: words of the producer's own.
        sound: the name of a spoken note's file, in the folder "spoken-notes" next to the session; "" for none.
        settled: it was seen to.
    """

    felt: Felt
    block: Annotated[str, Field(max_length=80)] = ""
    round: Annotated[int, Field(ge=0, le=100_000)] = 0
    phase: Annotated[int, Field(ge=0, le=1_000)] = 0
    count: Annotated[int, Field(ge=0, le=100_000)] = 0
    after: Annotated[Fraction, Seconds("0", "14400")] = Fraction(0)
    note: Annotated[str, Field(max_length=500)] = ""
    sound: Annotated[str, Field(max_length=120, pattern=r"^[^/\\\x00]*$")] = ""
    settled: bool = False


MARKS: TypeAdapter[tuple[Mark, ...]] = TypeAdapter(Annotated[tuple[Mark, ...], Field(max_length=MOST_MARKS)])
"""Checks the marks of a session on their own."""
