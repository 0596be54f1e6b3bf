"""Text from a file made harmless where it is shown: on a terminal, in a table."""

import contextlib
import io
import sys
import unicodedata
from pathlib import Path
from typing import Any, TextIO

_KEPT = "\n\t"


def printable(text: str) -> str:
    """Text for a terminal: what would control it, or turn its letters round, is written out (\\x1b)."""
    if text.isprintable():
        return text
    return "".join(c if c.isprintable() or c in _KEPT or c == " " else _written_out(c) for c in text)


def _written_out(character: str) -> str:
    if unicodedata.category(character) in ("Zs", "Mn") or character in "\u200c\u200d":
        return character  # spaces, marks, and the joiners that several scripts need
    return character.encode("unicode_escape").decode("ascii")


def short_path(path: Path) -> str:
    """A path for people, the home folder as ~."""
    with contextlib.suppress(ValueError, RuntimeError):  # it is elsewhere, or there is no home
        return str("~" / path.relative_to(Path.home()))
    return str(path)


def cell(text: str) -> str:
    """Text for a cell of a table: one that a spreadsheet would reckon as a formula is marked as text."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


class PrintableStream:
    """A text stream that writes everything as `printable`, and what its encoding lacks written out."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")

    def write(self, text: str) -> int:
        self._stream.write(printable(text))
        return len(text)

    def control(self, text: str) -> None:
        """Write as it is: our own cursor movements."""
        self._stream.write(text)
        self._stream.flush()

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)


def make_streams_printable() -> None:
    """From now on whatever this program prints is harmless to a terminal."""
    for name in ("stdout", "stderr"):
        stream = getattr(sys, name)
        if not isinstance(stream, PrintableStream):
            setattr(sys, name, PrintableStream(stream))


def pluralize(number: int, one: str, more: str = "") -> str:
    """A number of things: "1 round", "6 rounds"; `more` where the plural is not made with an s."""
    return f"{number} {one if number == 1 else more or one + 's'}"
