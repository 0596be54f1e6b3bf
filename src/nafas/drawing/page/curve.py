"""The breath of a round as a path to be drawn; colours and pens are the painter's."""

from PySide6.QtGui import QPainterPath

from nafas.score.breath_line import Piece, pieces
from nafas.score.layout import Layout
from nafas.score.row import Row


def add_piece(path: QPainterPath, piece: Piece) -> None:
    """Add a phase to a path that has come as far; an empty one begins there."""
    if path.elementCount():
        path.lineTo(piece.x0, piece.y0)
    else:
        path.moveTo(piece.x0, piece.y0)
    phase = piece.phase
    if phase is None or not phase.parts or phase.smooth:
        _ease(path, piece.x0, piece.y0, piece.x1, piece.y1)
        return
    at, height = 0, piece.y1 - piece.y0
    for part in phase.parts:  # a slight pause at the end of each part
        share0, share1 = at / phase.counts, (at + part.counts) / phase.counts
        x0, x1 = (piece.x0 + share * (piece.x1 - piece.x0) for share in (share0, share1))
        rest = x1 - min(5.0, (x1 - x0) * 0.3)
        _ease(path, x0, piece.y0 + share0 * height, rest, piece.y0 + share1 * height)
        path.lineTo(x1, piece.y0 + share1 * height)
        at += part.counts


def _ease(path: QPainterPath, x0: float, y0: float, x1: float, y1: float) -> None:
    if y0 == y1:
        path.lineTo(x1, y1)
    else:
        middle = (x0 + x1) / 2
        path.cubicTo(middle, y0, middle, y1, x1, y1)


def breath_path(layout: Layout, row: Row) -> QPainterPath:
    """The whole line of a row."""
    path = QPainterPath()
    for piece in pieces(layout, row):
        add_piece(path, piece)
    return path
