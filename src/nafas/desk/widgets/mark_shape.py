"""The sign of a mark on the score and the ribbon: a small pennant that hangs at its time."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPolygonF


def mark_shape(x: float, y: float) -> QPolygonF:
    """A pennant whose staff stands at `x` and hangs from `y`, in px."""
    corners = ((0, 0), (9, 4), (1.4, 8), (1.4, 15), (0, 15))
    return QPolygonF([QPointF(x + across, y + down) for across, down in corners])
