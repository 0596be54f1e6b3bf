"""Rows of the score as pictures, kept so that scrolling paints only what comes into sight; and an empty page."""

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QPainter, QPixmap

from nafas.drawing.page.painter import ScorePainter
from nafas.drawing.theme import NIGHT, font, theme
from nafas.score.row import Row


class Pictures:
    """The rows painted last, of those that look as they always do.

    Attributes:
        most: how many are kept.
    """

    most = 48  # about 12 MB; a window shows ten rows

    def __init__(self) -> None:
        self._kept: dict[tuple[int, int, bool], QPixmap] = {}

    def clear(self) -> None:
        self._kept.clear()

    def has(self, page: ScorePainter, row: Row) -> bool:
        """Whether a row is kept."""
        return _key(page, row) in self._kept

    def of(self, page: ScorePainter, row: Row, ratio: float) -> QPixmap:
        """A row's picture, `ratio` pixels of the screen to a pixel."""
        key = _key(page, row)
        picture = self._kept.pop(key, None)
        if picture is None:
            picture = QPixmap(round(page.layout.width * ratio), round(row.height * ratio))
            picture.setDevicePixelRatio(ratio)
            picture.fill(theme().page)
            painter = QPainter(picture)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(0, -row.y)
            page.paint(painter, row)
            painter.end()
        self._kept[key] = picture
        if len(self._kept) > self.most:
            del self._kept[next(iter(self._kept))]
        return picture


def _key(page: ScorePainter, row: Row) -> tuple[int, int, bool]:
    return (id(page.layout), row.y, theme() is NIGHT)


def paint_empty(painter: QPainter, page: QRect) -> None:
    """A page with nothing on it, and what to do first."""
    painter.setPen(theme().ink)
    painter.setFont(font(16, bold=True))
    area = page.adjusted(40, 0, -40, -60)
    painter.drawText(area, Qt.AlignmentFlag.AlignCenter, "An empty page")
    painter.setFont(font(11.5))
    painter.setPen(theme().muted)
    area.adjust(0, 64, 0, 64)
    hint = (
        "Type a breath such as 4-2-8 x6 in the field above and press Enter,\n"
        "add talk from the running order, or start from a whole session in Plan."
    )
    painter.drawText(area, Qt.AlignmentFlag.AlignCenter, hint)
