"""A level meter: how loud it is now, how loud it has been, and where it should be."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from nafas.drawing.theme import font, theme

_LOW, _HIGH = -60.0, 0.0
_GOOD = (-30.0, -10.0)


class Meter(QWidget):
    """Shows dB full scale."""

    def __init__(self) -> None:
        super().__init__()
        self.level = self.peak = _LOW
        self.clipped = False
        self.setFixedHeight(34)
        self.setMinimumWidth(260)
        self.setAccessibleName("Level of the microphone")

    def show_level(self, level: float, peak: float, clipped: bool) -> None:
        """Levels in dB."""
        # Falls slowly, as an eye can follow.
        self.level = max(level, self.level - 2.5, _LOW)
        self.peak, self.clipped = max(peak, _LOW), clipped
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        bar = QRectF(1, 4, self.width() - 2, 12)

        def x(level: float) -> float:
            return bar.left() + (min(level, _HIGH) - _LOW) / (_HIGH - _LOW) * bar.width()

        painter.fillRect(bar, t.page)
        painter.fillRect(QRectF(x(_GOOD[0]), bar.top(), x(_GOOD[1]) - x(_GOOD[0]), bar.height()), t.chosen)
        painter.fillRect(QRectF(bar.left(), bar.top() + 3, x(self.level) - bar.left(), 6), t.accent)
        painter.fillRect(QRectF(x(self.peak) - 1, bar.top(), 2, bar.height()), t.warning if self.clipped else t.ink)
        painter.setPen(t.rule)
        painter.drawRect(bar)
        painter.setFont(font(8.5))
        painter.setPen(t.muted)
        for level in (-60, -40, -30, -20, -10):
            box = QRectF(x(level) - (0 if level == _LOW else 20), bar.bottom() + 1, 40, 15)
            side = Qt.AlignmentFlag.AlignLeft if level == _LOW else Qt.AlignmentFlag.AlignHCenter
            painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, f"{level}".replace("-", "\N{MINUS SIGN}"))
        right = QRectF(self.width() - 62, bar.bottom() + 1, 60, 15)
        painter.setPen(t.warning if self.clipped else t.muted)
        painter.drawText(right, Qt.AlignmentFlag.AlignRight, "clipped" if self.clipped else "0 dB")
