"""Techniques a producer names, and how to see that a set is one (common practice, no source)."""

import re
from collections.abc import Callable
from dataclasses import dataclass

from nafas.script.model.blocks import Block, BreathSet, Strokes
from nafas.script.model.phase import Phase, PhaseKind, Side


@dataclass(frozen=True)
class Technique:
    """A name, how it is said in English, and what a set of it is like."""

    name: str
    named: re.Pattern[str]
    built: Callable[[Block], bool]


def phases_of(block: Block) -> tuple[Phase, ...]:
    """The phases of a set's first step; () for other blocks."""
    return tuple(phase for phase in block.pattern.phases if phase.size) if isinstance(block, BreathSet) else ()


def _square(block: Block) -> bool:
    phases = phases_of(block)
    return len(phases) == 4 and len({phase.counts for phase in phases}) == 1


def _sided(block: Block) -> bool:
    return {Side.LEFT, Side.RIGHT} <= {phase.side for phase in phases_of(block)}


def _hums(block: Block) -> bool:
    return any(phase.sound is not None for phase in phases_of(block))


def _long_out(block: Block) -> bool:
    phases = phases_of(block)
    into = max((phase.counts for phase in phases if phase.kind is PhaseKind.INHALE), default=0)
    grows = isinstance(block, BreathSet) and block.pacing is not None
    return grows or any(phase.kind is PhaseKind.EXHALE and phase.counts > into for phase in phases)


def _equal(block: Block) -> bool:
    phases = [phase for phase in phases_of(block) if not phase.kind.is_hold]
    return len({phase.counts for phase in phases}) == 1 if phases else False


TECHNIQUES = (
    Technique("square", re.compile(r"\b(?:square|box) breath\w*"), _square),
    Technique("alternate sides", re.compile(r"\balternat\w+ (?:sides?|nostrils?)\b"), _sided),
    Technique("humming", re.compile(r"\bhumming\b"), _hums),
    Technique("rapid exhale", re.compile(r"\brapid (?:exhales?|breath\w*)\b"), lambda b: isinstance(b, Strokes)),
    Technique("bellows", re.compile(r"\bbellows\b"), lambda b: isinstance(b, Strokes) and b.form == "bellows"),
    Technique("long exhale", re.compile(r"\b(?:long|longer|extended) exhales?\b"), _long_out),
    Technique("even breath", re.compile(r"\b(?:equal|even) breath\w*"), _equal),
)  # fmt: skip
