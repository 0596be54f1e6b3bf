"""What the painters of words and strokes need of the page they paint on."""

from typing import Protocol

from PySide6.QtGui import QFont

from nafas.drawing.theme import Theme
from nafas.score.layout import Layout


class Page(Protocol):
    """A layout, its colours and its lettering."""

    layout: Layout
    theme: Theme
    small: QFont
    word: QFont
    strong: QFont
    slanted: QFont
