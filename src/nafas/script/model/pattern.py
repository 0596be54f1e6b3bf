"""Breath patterns: an ordered list of phases, one round of breathing."""

from fractions import Fraction
from typing import Annotated, Any

from pydantic import Field, GetJsonSchemaHandler, model_serializer, model_validator

from nafas.script.model.phase import MAX_PHASES, Model, Phase, PhaseKind, Side


class Pattern(Model):
    """One round of breathing: its phases in order. In a file it is written in breath notation."""

    phases: Annotated[tuple[Phase, ...], Field(min_length=1, max_length=MAX_PHASES)]

    @model_validator(mode="before")
    @classmethod
    def _read_notation(cls, value: Any) -> Any:
        if isinstance(value, str):
            from nafas.script.notation.phases import parse_pattern

            return {"phases": parse_pattern(value)}
        return value

    @model_validator(mode="after")
    def _breath_can_flow(self) -> "Pattern":
        sounding = self.sounding
        if not sounding:
            raise ValueError("a round needs at least one phase longer than 0 counts; write for example 4-6")
        before = sounding[-1].kind
        for phase, after in zip(sounding, [*sounding[1:], None]):
            full = before in (PhaseKind.INHALE, PhaseKind.HOLD_FULL)
            if phase.kind is PhaseKind.HOLD_FULL and not full:
                raise ValueError("a full hold must follow an inhale; after an exhale write hold-empty")
            if phase.kind is PhaseKind.HOLD_EMPTY and full and before is not phase.kind:
                raise ValueError("an empty hold must follow an exhale; after an inhale write hold-full")
            if after is None and any(call.at == "release" for call in phase.calls):
                raise ValueError("a release needs a breath after the hold; write for example hold 30s ..., out 4")
            before = phase.kind
        return self

    @model_serializer
    def _write_notation(self) -> str:
        from nafas.script.notation.phases import format_pattern

        return format_pattern(self.phases)

    @classmethod
    def __get_pydantic_json_schema__(cls, core_schema: Any, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {
            "type": "string",
            "description": 'breath notation: "4-2-8" (in-hold-out-hold) or "in 4, hold 7 silent, out 8 down"',
            "examples": ["4-6", "4-7-8", "4-4-4-4", "in 2+2+2 (belly, ribs, chest), out 8", "in L 4, out R 4"],
        }

    @property
    def sounding(self) -> tuple[Phase, ...]:
        """The phases that take time."""
        return tuple(phase for phase in self.phases if phase.size)

    @property
    def counts(self) -> int:
        """Counts in one round, without holds in seconds and without any room for cues said ahead."""
        return sum(phase.counts for phase in self.phases)

    def length(self, count_length: Fraction) -> Fraction:
        """Seconds of one round at so many seconds a count, without room for cues."""
        return sum((phase.length(count_length) for phase in self.phases), Fraction(0))

    @property
    def sides(self) -> tuple[Side, ...]:
        """The sides it names, in order."""
        return tuple(phase.side for phase in self.sounding if phase.side is not None)
