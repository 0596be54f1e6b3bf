"""Label files that come with a recording: tab-separated labels, SRT and WebVTT."""

import math
import re
from dataclasses import dataclass
from pathlib import Path

from nafas.errors import InputError
from nafas.files import read_whole
from nafas.tables import decoded


@dataclass(frozen=True)
class Label:
    """A labelled stretch of a recording, in seconds."""

    start: float
    end: float
    text: str


_TIME = r"(?:(\d{1,4}):)?(\d{1,4}):(\d{1,4})[.,](\d{1,3})"
LONGEST = 100_000.0
"""Seconds; a recording lasts at most half a day."""
_ARROW = re.compile(rf"\s*{_TIME}\s*-->\s*{_TIME}.*")
_MOST_BYTES = 4_000_000


def read_labels(path: Path) -> list[Label]:
    """Read a label file, in order of time.

    Tab-separated: `start<TAB>end<TAB>text` in seconds. SRT and VTT: by their arrows.

    Raises:
        InputError: naming the line at fault, or that there are no labels in it.
    """
    text = decoded(read_whole(path, _MOST_BYTES))
    labels = _captions(text) if "-->" in text else _tabbed(path, text)
    if not labels:
        raise InputError(str(path), "holds no labels", "write start, tab, end, tab, words on each line; or SRT or VTT")
    for label in labels:
        if not (math.isfinite(label.start) and math.isfinite(label.end) and 0 <= label.start < LONGEST):
            where = f"{path}: {label.text[:40]!r}"
            raise InputError(where, "has times that are none", "write seconds from the start of the recording")
        if label.end < label.start:
            raise InputError(str(path), f"a label ends at {label.end:g} s before it begins", "swap its times")
    return sorted(labels, key=lambda label: label.start)


def _tabbed(path: Path, text: str) -> list[Label]:
    labels = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.startswith("\\"):  # a second line of frequencies
            continue
        parts = line.split("\t")
        try:
            start, end = (float(part[:40].replace(",", ".")) for part in parts[:2])
        except ValueError:
            raise InputError(f"{path}: line {number}", "is no label", "write start, tab, end, tab, words") from None
        labels.append(Label(start, end, " ".join(" ".join(parts[2:]).split())))
    return labels


def _captions(text: str) -> list[Label]:
    labels = []
    blocks = re.split(r"\n\s*\n", text.replace("\r\n", "\n"))
    for block in blocks:
        lines = block.strip().split("\n")
        for where, line in enumerate(lines):
            match = _ARROW.fullmatch(line)
            if match is not None:
                words = re.sub(r"<[^>]*>", "", " ".join(lines[where + 1 :]))
                labels.append(
                    Label(_seconds(match.groups()[:4]), _seconds(match.groups()[4:]), " ".join(words.split()))
                )
                break
    return labels


def _seconds(parts: tuple[str | None, ...]) -> float:
    hours, minutes, seconds, rest = parts
    return 3600 * int(hours or 0) + 60 * int(minutes or 0) + int(seconds or 0) + float(f"0.{rest}")
