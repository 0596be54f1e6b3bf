"""What the producer writes: the session, its blocks and breath patterns, and the session file.

The lowest room. Nothing here knows seconds on a clock, voices or sound; lengths are counts and exact rationals.
"""

from nafas.script.file import load_session, save_session
from nafas.script.notation import NotationError, SetNotation, format_set, parse_set
from nafas.script.pattern import Counting, Pattern, Phase, PhaseKind
from nafas.script.session import Block, BreathSet, CountStyle, Rest, Session, Talk

__all__ = [
    "Block",
    "BreathSet",
    "CountStyle",
    "Counting",
    "NotationError",
    "Pattern",
    "Phase",
    "PhaseKind",
    "Rest",
    "Session",
    "SetNotation",
    "Talk",
    "format_set",
    "load_session",
    "parse_set",
    "save_session",
]
