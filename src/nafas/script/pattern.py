"""Breath patterns: an ordered list of phases, each so many counts long."""

import unicodedata
from enum import StrEnum
from typing import Annotated, Any

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    GetJsonSchemaHandler,
    field_validator,
    model_serializer,
    model_validator,
)

MAX_COUNTS = 60
MAX_PHASES = 24


def is_one_line(text: str) -> bool:
    """Whether a text holds no line breaks and no control characters."""
    return not any(unicodedata.category(character) in ("Cc", "Zl", "Zp") for character in text)


class PhaseKind(StrEnum):
    """What the breath does in a phase."""

    INHALE = "in"
    HOLD_FULL = "hold-full"
    EXHALE = "out"
    HOLD_EMPTY = "hold-empty"

    @property
    def is_hold(self) -> bool:
        return self in (PhaseKind.HOLD_FULL, PhaseKind.HOLD_EMPTY)


class Counting(StrEnum):
    """How the counts of a phase are said."""

    UP = "up"
    DOWN = "down"
    SILENT = "silent"


class Model(BaseModel):
    """What every part of a script is: immutable, and strict about unknown keys."""

    model_config = ConfigDict(frozen=True, extra="forbid", validate_default=False)


class Phase(Model):
    """One phase of a round.

    Attributes:
        kind: what the breath does.
        counts: length, 0 to 60 counts; a phase of 0 counts is passed over (4-0-6).
        counting: how this phase is counted aloud, or None for the set's own way.
        cue: the words said for it instead of the language's usual ones, or None.
    """

    kind: PhaseKind
    counts: Annotated[int, Field(ge=0, le=MAX_COUNTS, strict=True)]
    counting: Counting | None = None
    cue: Annotated[str, Field(min_length=1, max_length=80)] | None = None

    @field_validator("cue")
    @classmethod
    def _cue_is_sayable(cls, cue: str | None) -> str | None:
        # A quote or a line break could not be written in breath notation and read back.
        if cue is not None and ('"' in cue or not is_one_line(cue) or cue != cue.strip()):
            raise ValueError("a cue is plain words: no quotes, no line breaks, no spaces at its ends")
        return cue


class Pattern(Model):
    """One round of breathing: its phases in order. In a file it is written in breath notation."""

    phases: Annotated[tuple[Phase, ...], Field(min_length=1, max_length=MAX_PHASES)]

    @model_validator(mode="before")
    @classmethod
    def _read_notation(cls, value: Any) -> Any:
        if isinstance(value, str):
            from nafas.script.notation import parse_pattern

            return {"phases": parse_pattern(value)}
        return value

    @model_validator(mode="after")
    def _breath_can_flow(self) -> "Pattern":
        sounding = [phase for phase in self.phases if phase.counts]
        if not sounding:
            raise ValueError("a round needs at least one phase longer than 0 counts; write for example 4-6")
        before = sounding[-1].kind
        for phase in sounding:
            full = before in (PhaseKind.INHALE, PhaseKind.HOLD_FULL)
            if phase.kind is PhaseKind.HOLD_FULL and not full:
                raise ValueError("a full hold must follow an inhale; after an exhale write hold-empty")
            if phase.kind is PhaseKind.HOLD_EMPTY and full and before is not phase.kind:
                raise ValueError("an empty hold must follow an exhale; after an inhale write hold-full")
            before = phase.kind
        return self

    @model_serializer
    def _write_notation(self) -> str:
        from nafas.script.notation import format_pattern

        return format_pattern(self.phases)

    @classmethod
    def __get_pydantic_json_schema__(cls, core_schema: Any, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {
            "type": "string",
            "description": 'breath notation: "4-2-8" (in-hold-out-hold) or "in 4, hold 7 silent, out 8 down"',
            "examples": ["4-6", "4-7-8", "4-4-4-4", "in 4, hold 7 silent, out 8 down"],
        }

    @property
    def counts(self) -> int:
        """Counts in one round, without any room for cues said ahead."""
        return sum(phase.counts for phase in self.phases)
