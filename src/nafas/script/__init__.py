"""What the producer writes: the session, its blocks and breath patterns, and the session file.

The lowest room. Nothing here knows seconds on a clock, voices or sound; lengths are counts and exact rationals.
"""

from nafas.script.expansion import Round, expand
from nafas.script.file import load_session, save_session
from nafas.script.model.blocks import Block, BreathSet, CountStyle, Rest, Strokes, Talk
from nafas.script.model.guidance import FadeStep, Level
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Counting, Phase, PhaseKind, Route, Side, SoundKind
from nafas.script.model.session import Session
from nafas.script.notation.block import block_notation, read_block
from nafas.script.notation.set import SetNotation, parse_set
from nafas.script.notation.tokens import NotationError
from nafas.script.notation.writing import format_set

__all__ = [
    "Block",
    "BreathSet",
    "CountStyle",
    "Counting",
    "FadeStep",
    "Level",
    "NotationError",
    "Pattern",
    "Phase",
    "PhaseKind",
    "Rest",
    "Round",
    "Route",
    "Session",
    "SetNotation",
    "Side",
    "SoundKind",
    "Strokes",
    "Talk",
    "block_notation",
    "expand",
    "format_set",
    "load_session",
    "parse_set",
    "read_block",
    "save_session",
]
