"""The form of a session's text: its marks, and the lines `key: value` of a session and of every kind of block."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from nafas.script.model.assets import Asset
from nafas.script.model.beds import BlockBed
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes, Talk
from nafas.script.model.exact import decimal_text, parse_seconds
from nafas.script.model.recordings import PlacedRecording, placed
from nafas.script.model.voice import pace_of
from nafas.script.model.voice_level import voice_level_of
from nafas.script.notation.phases import format_pattern

MARK = "nafas script"
"""The key by which such a text is known; its value is the version of the form."""
VERSION = "1"
RULE = "---"
KINDS = {"Breath": BreathSet, "Rest": Rest, "Strokes": Strokes}
ESCAPED = re.compile(r"^(?:\\|#{1,6}(?:\s|$)|-{3,}\s*$|(?:Breath|Rest|Strokes):)", re.IGNORECASE)
HEADING = re.compile(r"^(#{1,6})(?:\s+(.*))?$")
KEY_LINE = re.compile(r"^([^\W\d_][\w '-]{0,40}?)\s*:\s*(.*)$")


@dataclass(frozen=True)
class Key:
    """A line `name: value` of a session or a block: the field it says, how it is written and read."""

    name: str
    field: str
    write: Callable[[Any], str]
    read: Callable[[str], Any]


def _seconds(text: str) -> Fraction:
    return parse_seconds(re.sub(r"\s*(?:s|sec|seconds?)\s*$", "", text.replace(",", ".")))


def _in_seconds(value: Fraction | None) -> str:
    return "" if value is None else f"{decimal_text(value)}s"


def _truth(text: str) -> bool:
    if text.lower() not in ("yes", "no", "on", "off"):
        raise ValueError(f"{text!r} is neither yes nor no; write one of them")
    return text.lower() in ("yes", "on")


def _yes(value: bool) -> str:
    return "yes" if value else "no"


def _played(recordings: tuple[PlacedRecording, ...]) -> str:
    return " | ".join(f'"{each.file.path}" {each.text}'.strip() for each in recordings)


def _recordings(text: str) -> tuple[PlacedRecording, ...]:
    found = [re.fullmatch(r'"([^"]+)"\s*(.*)', part.strip()) for part in text.split(" | ")]
    if not all(found):
        raise ValueError(f'{text[:30]!r} names no recording; write "chant.wav" after 5s')
    return tuple(placed(Asset(path=each[1]), each[2]) for each in found if each)


SESSION_KEYS = (
    Key("language", "language", str, str),
    Key("count", "count_length", _in_seconds, _seconds),
    Key("length", "target_length", _in_seconds, _seconds),
    Key("opening", "opening", _in_seconds, _seconds),
    Key("closing", "closing", _in_seconds, _seconds),
    Key("end bell", "end_bell", _yes, _truth),
)
_EVERY = (
    Key("locked", "locked", _yes, _truth),
    Key("voice", "voice", lambda level: level.text if level else "", voice_level_of),
    Key("language", "language", lambda code: code or "", str),
    Key("narrator", "narrator", lambda name: name or "", str),
    Key("takes", "take_book", lambda book: book.path if book else "", lambda path: Asset(path=path)),
    Key("pace", "pace", lambda pace: pace.text if pace else "", pace_of),
    Key("recordings", "recordings", _played, _recordings),
)
_SPOKEN = (
    Key("pause after a sentence", "sentence_pause", _in_seconds, _seconds),
    Key("pause after a paragraph", "paragraph_pause", _in_seconds, _seconds),
)
BLOCK_KEYS: dict[type, tuple[Key, ...]] = {
    Talk: (
        *_SPOKEN,
        Key("pause after", "pause_after", _in_seconds, _seconds),
        Key("lasts", "slot", _in_seconds, _seconds),
        *_EVERY,
    ),
    Rest: (
        *_SPOKEN,
        Key("at least", "shortest", _in_seconds, _seconds),
        Key("at most", "longest", _in_seconds, _seconds),
        *_EVERY,
    ),
    BreathSet: (
        Key("breath before it", "prepare", lambda pattern: format_pattern(pattern.phases) if pattern else "", str),
        Key("words in the ease", "ease_words", str, str),
        Key("chimes", "chimes", _yes, _truth),
        Key("starts on", "starts_on", str, str),
        Key("in the mind", "mind", _yes, _truth),
        Key("breath heard", "pacer", _yes, _truth),
        *_EVERY,
    ),
    Strokes: (Key("words in the recovery", "recovery_words", str, str), *_EVERY),
}
USUAL: dict[type, Block] = {Talk: Talk(id="x"), Rest: Rest(id="x", seconds=Fraction(1))}
NOTED = {
    BreathSet: (
        "pattern", "rounds", "count_length", "count_from", "pacing", "drop_hold", "fade", "ease", "style", "calls",
    ),
    Rest: ("seconds",),
    Strokes: (
        "form", "strokes", "per_minute", "every", "counting", "ticks", "demonstration", "demonstration_per_minute",
        "count_in", "arms", "recovery",
    ),
}  # fmt: skip


def spaced(text: str) -> str:
    """A text as one line, its spaces single."""
    return " ".join(text.split())


def bed_text(bed: BlockBed | None) -> str:
    """What a block does with the bed, as its line says it; "" for nothing."""
    if bed is None or (bed.on and not round(bed.level, 2)):
        return ""
    return f"{round(bed.level, 2):+g} dB" if bed.on else "off"
