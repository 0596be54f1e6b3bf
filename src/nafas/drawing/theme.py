"""Every colour and font, in one place. Light is paper and ink, dark is slate by lamplight.

Text colours keep a contrast of 4.5 : 1 or more against the page (WCAG AA).
"""

from dataclasses import dataclass
from functools import cache
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase

from nafas.script import PhaseKind

_FONTS = Path(__file__).parent / "fonts"
FAMILY = "Vollkorn"


@dataclass(frozen=True)
class Theme:
    """One set of colours."""

    paper: QColor
    page: QColor
    ink: QColor
    muted: QColor
    rule: QColor
    accent: QColor
    on_accent: QColor
    chosen: QColor
    warning: QColor
    inhale: QColor
    hold: QColor
    exhale: QColor
    rest: QColor

    def tint(self, kind: PhaseKind) -> QColor:
        """The wash under a phase's line. The line's shape tells phases apart first; this only helps."""
        return {
            PhaseKind.INHALE: self.inhale,
            PhaseKind.HOLD_FULL: self.hold,
            PhaseKind.EXHALE: self.exhale,
            PhaseKind.HOLD_EMPTY: self.rest,
        }[kind]


def _theme(*colours: str) -> Theme:
    return Theme(*map(QColor, colours))


DAY = _theme(
    "#f1eadd", "#fbf7ee", "#2a2520", "#6a6055", "#d8ccb8", "#1b5e63", "#fdfaf3", "#ede4cf", "#9c3417",
    "#d5e6e2", "#efe0bd", "#dfdcec", "#ece7dc",
)  # fmt: skip
NIGHT = _theme(
    "#1b2025", "#232a30", "#ece4d6", "#aaa193", "#3c454d", "#7cc4bd", "#12201f", "#293a3d", "#f39a80",
    "#2c4a4a", "#4d4430", "#3b3a55", "#30363b",
)  # fmt: skip

_current = DAY


def theme() -> Theme:
    """The colours in use."""
    return _current


@cache
def paper_font(points: float) -> QFont:
    """The typeface for files that others read: every letter and figure by its own glyph. What is drawn by a glyph for
    two letters, or by another form of a figure, cannot be found or copied in a PDF of Qt's."""
    made = QFont(FAMILY)
    made.setPointSizeF(points)
    for feature in ("liga", "clig", "dlig", "calt", "tnum", "lnum", "onum", "kern"):
        made.setFeature(QFont.Tag(feature), 0 if feature != "kern" else 1)
    return made


@cache
def font(points: float = 10.5, bold: bool = False, italic: bool = False) -> QFont:
    """The typeface with tabular lining figures, so that columns of numbers stand still."""
    made = QFont(FAMILY)
    made.setPointSizeF(points)
    made.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    if italic:
        made.setItalic(True)
        made.setWeight(QFont.Weight.Medium)
    for feature in ("tnum", "lnum"):
        made.setFeature(QFont.Tag(feature), 1)
    return made


def use(night: bool) -> Theme:
    """Take the colours of the night or of the day, and load the typeface. An application must be there."""
    global _current
    _current = NIGHT if night else DAY
    for path in sorted(_FONTS.glob("*.ttf")):
        if str(path) not in _loaded:
            _loaded.add(str(path))
            QFontDatabase.addApplicationFont(str(path))
    return _current


_loaded: set[str] = set()
