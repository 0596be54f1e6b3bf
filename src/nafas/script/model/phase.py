"""One phase of a breath: what the breath does, for how long, and everything a cue may add to it."""

import unicodedata
from collections.abc import Mapping
from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from nafas.script.model.exact import Seconds, decimal_text

MAX_COUNTS = 60
LONGEST_HOLD = Fraction(300)
"""Seconds. A hold written in seconds is retention work; past five minutes it is refused (our own bound)."""


def is_one_line(text: str) -> bool:
    """Whether a text holds no line breaks and no control characters."""
    return not any(unicodedata.category(character) in ("Cc", "Zl", "Zp") for character in text)


class Model(BaseModel):
    """What every part of a script is: immutable, and strict about unknown keys."""

    model_config = ConfigDict(
        frozen=True, extra="forbid", validate_default=False, defer_build=True, allow_inf_nan=False
    )

    def fields(self) -> dict[str, Any]:
        """Values as they are, by name, not dumped: unchanged parts are reused, so that an edit stays cheap."""
        return {name: getattr(self, name) for name in type(self).model_fields}

    def replace(self, **fields: object) -> Self:
        """The same with some fields changed, validated. Raises ValueError for a value out of bounds."""
        return type(self).model_validate({**self.fields(), **fields})

    def __hash__(self) -> int:
        # Kept: what is built from a part of a script is looked up by it again and again.
        kept: int | None = self.__dict__.get("_kept_hash")
        if kept is None:
            kept = hash((type(self), *(self.__dict__[name] for name in type(self).model_fields)))
            self.__dict__["_kept_hash"] = kept
        return kept

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """As pydantic's, but what was worked out from the old values does not come along."""
        copied = super().model_copy(update=update, deep=deep)
        for name in copied.__dict__.keys() - type(self).model_fields.keys():
            del copied.__dict__[name]
        return copied


MAX_PHASES = 24
"""Phases in one round."""


class PhaseKind(StrEnum):
    """What the breath does in a phase."""

    INHALE = "in"
    HOLD_FULL = "hold-full"
    EXHALE = "out"
    HOLD_EMPTY = "hold-empty"

    @property
    def is_hold(self) -> bool:
        return self in (PhaseKind.HOLD_FULL, PhaseKind.HOLD_EMPTY)

    @property
    def plain(self) -> str:
        """Its name for people: "inhale", "full hold", "exhale", "empty hold"."""
        return _PLAIN_NAMES[self.value]


_PLAIN_NAMES = {"in": "inhale", "hold-full": "full hold", "out": "exhale", "hold-empty": "empty hold"}


class Counting(StrEnum):
    """How the counts of a phase are given: spoken up or down, left unspoken, or as a soft tick."""

    UP = "up"
    DOWN = "down"
    SILENT = "silent"
    TICK = "tick"


class Side(StrEnum):
    """Which nostril the breath goes through."""

    LEFT = "L"
    RIGHT = "R"
    BOTH = "both"


class Route(StrEnum):
    """Which way the breath goes."""

    NOSE = "nose"
    MOUTH = "mouth"
    PURSED = "pursed"
    THROAT = "throat"


class SoundKind(StrEnum):
    """What an exhale sounds like."""

    HUM = "hum"
    CHANT = "chant"
    SIGH = "sigh"


def _sayable(text: str | None) -> str | None:
    # A quote or a line break could not be written in breath notation and read back.
    if text is not None and ('"' in text or not is_one_line(text) or text != text.strip()):
        raise ValueError("a cue is plain words: no quotes, no line breaks, no spaces at its ends")
    return text


Words = Annotated[str, Field(min_length=1, max_length=80)]


class Movement(Model):
    """What the body does in a phase, said with its cue: in the first round only, or in every one."""

    words: Words
    always: bool = False

    _sayable = field_validator("words")(_sayable)


class Part(Model):
    """A part of a phase: its counts, the word said on its first count ("" for none), and what the body does in it."""

    counts: Annotated[int, Field(ge=1, le=MAX_COUNTS, strict=True)]
    word: Annotated[str, Field(max_length=40)] = ""
    movement: Movement | None = None

    @field_validator("word")
    @classmethod
    def _word_is_plain(cls, word: str) -> str:
        return _plain(word)

    @field_validator("movement")
    @classmethod
    def _movement_is_plain(cls, movement: Movement | None) -> Movement | None:
        if movement is not None:
            _plain(movement.words)
        return movement


def _plain(words: str) -> str:
    # It stands between brackets, commas and colons in breath notation.
    if any(mark in words for mark in '",():') or not is_one_line(words) or words != words.strip():
        raise ValueError("a part's words are plain: no quotes, commas, colons or brackets, no spaces at their ends")
    return words


class Call(Model):
    """Something said within a long hold.

    Attributes:
        at: "half" of the way, "left": `units` before the end, "in": `units` after the beginning, or "release": at the
            end, in the place of the next phase's cue.
        units: counts, or seconds where the hold is written in seconds; 0 for "half" and "release".
        text: the words, or None for the language's own.
    """

    at: Literal["half", "left", "in", "release"]
    units: Annotated[int, Field(ge=0, le=300, strict=True)] = 0
    text: Words | None = None

    _sayable = field_validator("text")(_sayable)

    @property
    def written(self) -> str:
        """As notation has it without its words: `half`, `10` (left), `+20` (after), `release`."""
        return {"left": str(self.units), "in": f"+{self.units}"}.get(self.at, self.at)

    def place(self, size: Fraction) -> Fraction:
        """Where it falls in a phase of so many counts or seconds, from its beginning; on a whole one."""
        if self.at == "half":
            return Fraction(int(size / 2))
        return {"left": size - self.units, "in": Fraction(self.units)}.get(self.at, size)

    @model_validator(mode="after")
    def _units_where_needed(self) -> "Call":
        if (self.units > 0) != (self.at in ("left", "in")):
            raise ValueError('a call stands at "half", at "release", or so many counts in or before the end; fix it')
        return self


class Phase(Model):
    """One phase of a round.

    Attributes:
        kind: what the breath does.
        counts: length, 0 to 60 counts; a phase of 0 counts is passed over (4-0-6).
        seconds: for a hold of retention: its length in seconds, 1 to 300, instead of counts.
        counting: how this phase is counted aloud, or None for the set's own way.
        cue: the words said for it instead of the language's usual ones, or None.
        long_cue: the words said for it in the first round, where long forms are on; None for the language's own.
        side, route, fill, sound: which nostril, which way, how full (1/4 to 1), how it sounds; None: not said.
        parts: the phase in parts that make up its counts; () for one whole.
        smooth: parts are places named within one smooth breath; else the breath pauses slightly between them.
        through: numbers go on through its parts (one to eight); else each part with a pause is counted from one.
        cue_room: counts of its own before it, in which its cue is said ahead; 0: its cue takes count one; None: as the
            set.
        movement: what the body does meanwhile.
        calls: what is said within a long hold.
    """

    kind: PhaseKind
    counts: Annotated[int, Field(ge=0, le=MAX_COUNTS, strict=True)] = 0
    seconds: Annotated[Fraction, Seconds("1", str(LONGEST_HOLD))] | None = None
    counting: Counting | None = None
    cue: Words | None = None
    long_cue: Words | None = None
    side: Side | None = None
    route: Route | None = None
    fill: Annotated[Fraction, Seconds("1/4", "1", unit="")] | None = None
    sound: SoundKind | None = None
    parts: Annotated[tuple[Part, ...], Field(max_length=MAX_COUNTS)] = ()
    smooth: bool = False
    through: bool = False
    cue_room: Annotated[int, Field(ge=0, le=12, strict=True)] | None = None
    movement: Movement | None = None
    calls: Annotated[tuple[Call, ...], Field(max_length=20)] = ()

    _sayable = field_validator("cue", "long_cue")(_sayable)

    @model_validator(mode="after")
    def _is_sound(self) -> "Phase":
        if self.seconds is not None and (self.counts or not self.kind.is_hold or self.parts):
            raise ValueError("only a hold is written in seconds, and then without counts or parts; write counts")
        if self.kind.is_hold and (self.parts or self.side or self.route or self.sound):
            raise ValueError("a hold has no parts, side, route or sound; write them at the inhale or exhale")
        if self.sound and self.kind is not PhaseKind.EXHALE:
            raise ValueError("only an exhale is sounded; write it at the exhale")
        if self.fill and self.kind is not PhaseKind.INHALE:
            raise ValueError("only an inhale has a fill; write it at the inhale")
        total = sum(part.counts for part in self.parts)
        if self.parts and total != self.counts:
            raise ValueError(f"its parts make {total} counts, not {self.counts}; change one of them")
        if len(self.parts) == 1 or (self.smooth and not self.parts):
            raise ValueError("one part is the whole; write two or more, or none")
        if self.through and (not self.parts or self.smooth):
            raise ValueError("only parts with pauses between them are counted through; write 2+2+2 through")
        self._calls_stand_inside()
        return self

    def _calls_stand_inside(self) -> None:
        if self.calls and not self.kind.is_hold:
            raise ValueError("calls belong to a hold; write them there")
        size = self.size
        if len({(call.at, call.units) for call in self.calls}) < len(self.calls):
            raise ValueError("two calls stand at one place; move one or leave it out")
        for call in self.calls:
            if call.units and not call.units < size:
                raise ValueError(f"a call at {call.units} is not inside a hold of {decimal_text(size)}; write less")

    @property
    def size(self) -> Fraction:
        """Length as written: seconds where it has them, else counts."""
        return Fraction(self.counts) if self.seconds is None else self.seconds

    @property
    def lost_calls(self) -> tuple[Call, Call] | None:
        """Two calls on one moment, the one that is said and the one that is not; None where each has its own."""
        said: dict[Fraction, Call] = {}
        for call in self.calls:
            first = said.setdefault(call.place(self.size), call)
            if first is not call:
                return first, call
        return None

    @property
    def is_plain(self) -> bool:
        """Nothing but a kind and its counts."""
        return self == Phase(kind=self.kind, counts=self.counts)

    def length(self, count_length: Fraction) -> Fraction:
        """Seconds, at so many seconds a count."""
        return self.counts * count_length if self.seconds is None else self.seconds

    def resized(self, counts: int) -> "Phase":
        """The phase with other counts. Parts are kept in their proportions, each at least 1; too few counts for that
        make it whole again."""
        if self.seconds is not None:
            return self.replace(seconds=counts)
        parts: tuple[Part, ...] = ()
        if len(self.parts) <= counts and self.parts:
            ends = [round(Fraction(counts * sum(p.counts for p in self.parts[: n + 1]), self.counts))
                    for n in range(len(self.parts))]  # fmt: skip
            for n in range(len(ends)):  # rounding may leave a part empty: push the ends apart
                ends[n] = min(max(ends[n], ends[n - 1] + 1 if n else 1), counts - (len(ends) - 1 - n))
            sizes = [end - before for before, end in zip([0, *ends], ends)]
            parts = tuple(part.model_copy(update={"counts": size}) for size, part in zip(sizes, self.parts))
        calls = tuple(call for call in self.calls if call.units < counts)
        joints = {"smooth": self.smooth and bool(parts), "through": self.through and bool(parts)}
        return self.replace(counts=counts, parts=parts, calls=calls, **joints)
