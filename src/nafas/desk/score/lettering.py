"""Words on the score: how wide they are, and number words as figures."""

from functools import lru_cache

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetricsF

from nafas.desk.theme import font
from nafas.script.lexicon import count_word

NARROW = 27.0
"""Pixels a count, under which numbers are written as figures."""
RIGHT_MIDDLE = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


@lru_cache(maxsize=4096)
def width_of(text: str, strong: bool, points: float = 9.5) -> float:
    """Width of a word under its count."""
    return QFontMetricsF(font(points, bold=strong)).horizontalAdvance(text)


@lru_cache(maxsize=64)
def figures_of(language: str) -> dict[str, str]:
    """Number words as figures."""
    return {count_word(n, language): str(n) for n in range(61)}


def wrapped(text: str, width: float, metrics: QFontMetricsF) -> list[str]:
    """Text in lines no wider than `width` pixels; a longer word stands alone. At least one line."""
    lines, line = [], ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if line and metrics.horizontalAdvance(longer) > width:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line]
