"""Small pictures in the colours of the window: arrows for choices and numbers, marks for messages."""

import contextlib
import tempfile
from functools import cache
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen, QPixmap, QPolygonF

from nafas.state.folder import cache_folder

_ARROW = 10  # px


@cache
def arrow_file(colour: str, up: bool) -> str:
    """A picture of an arrow in a colour, as a file that a style sheet can name; "" where none can be written."""
    picture = QPixmap(2 * _ARROW, 2 * _ARROW)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(colour), 2.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    tip, foot = (6.0, 13.0) if up else (14.0, 7.0)
    painter.drawPolyline(QPolygonF([QPointF(4, foot), QPointF(10, tip), QPointF(16, foot)]))
    painter.end()
    name = f"arrow-{'up' if up else 'down'}-{colour.lstrip('#')}.png"
    for folder in (cache_folder() / "look", Path(tempfile.gettempdir())):
        with contextlib.suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
            if picture.save(str(folder / name)):
                return (folder / name).as_posix()
    return ""


def message_mark(letter: str, colour: QColor, written: QFont) -> QPixmap:
    """A letter in a ring: "?", "!" or "i"."""
    size = 44
    picture = QPixmap(size, size)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour, 2.2))
    painter.drawEllipse(QRectF(4, 4, size - 8, size - 8))
    painter.setFont(written)
    painter.drawText(QRectF(0, 0, size, size - 2), Qt.AlignmentFlag.AlignCenter, letter)
    painter.end()
    return picture
