"""Words that producers type, in seven languages (`languages/*.toml`), and what each stands for.

All of them are known in every session: no word of one means another thing in another, but for those that only fill a
sentence. Where two kinds would claim a word, the one that stands first in `Kind` has it.
"""

from dataclasses import dataclass
from enum import Enum, auto
from fractions import Fraction
from functools import cache
from typing import NamedTuple

from nafas.languages import READ, typed_words


class Kind(Enum):
    """What a token is."""

    NUMBER = auto()
    PARTS = auto()
    TIME = auto()
    QUOTE = auto()
    MARK = auto()
    PHASE = auto()
    SIDE = auto()
    ROUTE = auto()
    SOUND = auto()
    COUNTING = auto()
    FULLNESS = auto()
    FAMILY = auto()
    ROUNDS = auto()
    TIMES = auto()
    HOURS = auto()
    MINUTES = auto()
    HALF = auto()
    SECONDS = auto()
    COUNTS = auto()
    BPM = auto()
    GROWTH = auto()
    RATIO = auto()
    PER = auto()
    AT = auto()
    FOR = auto()
    TO = auto()
    THEN = auto()
    REST = auto()
    STROKES = auto()
    VOICE = auto()
    CLAUSE = auto()
    CALL = auto()
    CHANGE = auto()
    FILLER = auto()
    UNKNOWN = auto()


@dataclass(frozen=True)
class Typed:
    """A token: its kind, what it stands for ("" where the kind says all), its number if it has one, and where it is."""

    kind: Kind
    value: str
    begin: int
    end: int
    number: Fraction = Fraction(0)

    def is_mark(self, *marks: str) -> bool:
        return self.kind is Kind.MARK and self.value in marks


class Word(NamedTuple):
    kind: Kind
    value: str = ""


_ORDER = {kind.name: place for place, kind in enumerate(Kind)}


@cache
def known_words() -> dict[str, Word]:
    """Every word in lower case, with what it stands for; where two would claim one, the first named keeps it."""
    typed = sorted(typed_words(), key=lambda row: _ORDER[row[0].upper()])
    known = {"hold-full": Word(Kind.PHASE, "hold-full"), "hold-empty": Word(Kind.PHASE, "hold-empty")}
    for kind, value, word in typed:
        known.setdefault(word, Word(Kind[kind.upper()], value))
    return known


@cache
def number_words() -> dict[str, int]:
    """One to a hundred in words of the seven languages."""
    from num2words import num2words

    numbers: dict[str, int] = {}
    for language in READ:
        for number in range(1, 101):
            word = str(num2words(number, lang=language)).lower()
            if " " not in word and word not in known_words():
                numbers.setdefault(word, number)
    return numbers
