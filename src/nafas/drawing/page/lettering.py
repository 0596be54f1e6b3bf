"""Words on the score: how wide they are, and number words as figures."""

from functools import lru_cache

from PySide6.QtCore import Qt, QTextBoundaryFinder
from PySide6.QtGui import QFontMetricsF

from nafas.drawing.theme import font

RIGHT_MIDDLE = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


@lru_cache(maxsize=4096)
def width_of(text: str, strong: bool, points: float = 9.5) -> float:
    """Width of a word under its count."""
    return QFontMetricsF(font(points, bold=strong)).horizontalAdvance(text)


def opening_width(words: str) -> float:
    """Width of what opens a phase. One function for all layouts: rows are kept by it."""
    return width_of(words, True)


def wrapped(text: str, width: float, metrics: QFontMetricsF) -> list[str]:
    """Text in lines no wider than `width` pixels, broken at spaces; a word that is wider, as whole sentences are in
    Thai, is broken where its language may be, else between letters. At least one line."""
    lines, line = [], ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if metrics.horizontalAdvance(longer) <= width:
            line = longer
            continue
        if line:
            lines.append(line)
        *whole, line = [word] if metrics.horizontalAdvance(word) <= width else _broken(word, width, metrics)
        lines += whole
    return [*lines, line]


def _broken(word: str, width: float, metrics: QFontMetricsF) -> list[str]:
    """A word in pieces no wider than `width`, each at least one letter with its marks."""
    pieces, begin = [], 0
    while begin < len(word) and metrics.horizontalAdvance(word[begin:]) > width:
        fits = begin
        for kind in (QTextBoundaryFinder.BoundaryType.Line, QTextBoundaryFinder.BoundaryType.Grapheme):
            finder = QTextBoundaryFinder(kind, word)
            ends = []
            finder.setPosition(begin)
            while (end := finder.toNextBoundary()) != -1 and metrics.horizontalAdvance(word[begin:end]) <= width:
                ends.append(end)
            if ends and ends[-1] < len(word):
                fits = ends[-1]
                break
        if fits == begin:
            finder.setPosition(begin)
            fits = finder.toNextBoundary()
            if fits <= begin:
                break
        pieces.append(word[begin:fits])
        begin = fits
    return [*pieces, word[begin:]] if begin < len(word) or not pieces else pieces
