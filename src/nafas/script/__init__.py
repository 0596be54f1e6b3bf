"""What the producer writes: the session, its blocks and breath patterns, and the session file.

The lowest room. Nothing here knows seconds on a clock, voices or sound; lengths are counts and exact rationals.
"""

from nafas.script.blocks import Block, BreathSet, CountStyle, Rest, Strokes, Talk
from nafas.script.entry import block_notation, read_block
from nafas.script.file import load_session, save_session
from nafas.script.guidance import FadeStep, Level
from nafas.script.notation import SetNotation, format_set, parse_set
from nafas.script.pattern import Pattern
from nafas.script.phase import Counting, Phase, PhaseKind, Route, Side, Sound
from nafas.script.rounds import Round, expand
from nafas.script.session import Session
from nafas.script.tokens import NotationError

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
    "Sound",
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
