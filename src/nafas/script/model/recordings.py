"""Recordings placed in a block: a chant, a bell of one's own, a breath sound, a jingle, a bit of an interview."""

import re
from collections.abc import Callable
from fractions import Fraction
from typing import Annotated, Any

from pydantic import Field, model_validator

from nafas.script.model.assets import Asset
from nafas.script.model.exact import Seconds, decimal_text, parse_seconds
from nafas.script.model.phase import Model, is_one_line

MOST_RECORDINGS = 50
_Number = Annotated[int, Field(ge=1, le=9_999, strict=True)]
_Length = Annotated[Fraction, Seconds("0", "3600")]


class PlacedRecording(Model):
    """A recording and its place in a block.

    Attributes:
        file: the recording.
        round, phase, count: where in a breath set, each from 1: of a round, or of every round where only a phase is
            named; of a phase, a count. None for all three: the beginning of the block.
        after: seconds after that place, 0 to 3,600.
        begin, end: what of the recording sounds, in its own seconds; None: to its end.
        beat: its own second that falls on the place; what comes before that sounds earlier. None: its beginning.
        fade_in, fade_out: seconds, 0 to 60; a little of both is there always, against clicks.
        level: dB over the level that the voice is brought to, -40 to 12.
        over: the bed stays as loud under it.
        by: whose it is and under which licence, for the credits.
    """

    file: Asset
    round: _Number | None = None
    phase: _Number | None = None
    count: _Number | None = None
    after: _Length = Fraction(0)
    begin: _Length = Fraction(0)
    end: _Length | None = None
    beat: _Length | None = None
    fade_in: Annotated[Fraction, Seconds("0", "60")] = Fraction(0)
    fade_out: Annotated[Fraction, Seconds("0", "60")] = Fraction(0)
    level: Annotated[float, Field(ge=-40, le=12)] = 0.0
    over: bool = False
    by: Annotated[str, Field(max_length=200)] = ""

    @model_validator(mode="after")
    def _is_sound(self) -> "PlacedRecording":
        if self.end is not None and self.end <= self.begin:
            raise ValueError("a recording ends after it begins; write a later end")
        if self.beat is not None and not self.begin <= self.beat <= (self.beat if self.end is None else self.end):
            raise ValueError("its beat lies outside what of it sounds; write one between from and to")
        if self.count is not None and self.phase is None:
            raise ValueError("a count belongs to a phase; write phase 1 as well")
        if not is_one_line(self.by):
            raise ValueError("a credit is one line of plain text")
        return self

    @property
    def name(self) -> str:
        """Of its file."""
        return self.file.path.rsplit("/", 1)[-1]

    @property
    def text(self) -> str:
        """All but its file, as `placed` reads it: `round 2 phase 1 after 0.5s level -6`; "" for all as usual."""
        usual = type(self).model_fields
        said = {name: getattr(self, _FIELDS.get(name, name)) for name, _, _ in _WORDS}
        words = [
            f"{name} {write(said[name])}"
            for name, _, write in _WORDS
            if said[name] != usual[_FIELDS.get(name, name)].default
        ]
        return " ".join([*words, *(["over"] if self.over else []), *([f"by {self.by}"] if self.by else [])])


def _seconds(text: str) -> Fraction:
    return parse_seconds(text.replace(",", "."))


def _whole(text: str) -> int:
    return int(text)


def _decibels(text: str) -> float:
    return float(text.replace(",", "."))


def _in_seconds(value: Fraction) -> str:
    return f"{decimal_text(value)}s"


def _plain(value: float) -> str:
    return f"{value:g}"


_WORDS: tuple[tuple[str, Callable[[str], Any], Callable[[Any], str]], ...] = (
    ("round", _whole, str), ("phase", _whole, str), ("count", _whole, str), ("after", _seconds, _in_seconds),
    ("from", _seconds, _in_seconds), ("to", _seconds, _in_seconds), ("beat", _seconds, _in_seconds),
    ("fade-in", _seconds, _in_seconds), ("fade-out", _seconds, _in_seconds), ("level", _decibels, _plain),
)  # fmt: skip
_FIELDS = {"from": "begin", "to": "end", "fade-in": "fade_in", "fade-out": "fade_out"}
_PIECE = re.compile(r"(over\b)|by\s+(.+)$|([a-z-]+)\s+([+-]?[\d.,/]+)\s*(s|dB)?(?![\w.])", re.IGNORECASE)


def placed(file: Asset, text: str) -> PlacedRecording:
    """A recording by its file and its place in words, as `PlacedRecording.text` writes them; commas may stand between.

    Raises:
        ValueError: what is not understood, or out of bounds.
    """
    fields: dict[str, Any] = {"file": file}
    known = {name: read for name, read, _ in _WORDS}
    rest = text.strip().replace("\N{MINUS SIGN}", "-")
    while rest:
        piece = _PIECE.match(rest)
        name = piece[3].lower() if piece is not None and piece[3] else ""
        if piece is None or (name and name not in known):
            asked = "after 5s, round 2, phase 1, count 3, level -6, from 2s, to 20s, beat 0.3s, fade-out 2s, over, by …"
            raise ValueError(f"{rest[:30]!r} is not understood; write for example {asked}")
        if piece[1]:
            fields["over"] = True
        elif piece[2]:
            fields["by"] = piece[2].strip()
        else:
            fields[_FIELDS.get(name, name)] = known[name](piece[4].rstrip(","))
        rest = rest[piece.end() :].lstrip(" ,")
    return PlacedRecording(**fields)
