"""The prompt: a line in large type to be read aloud, and what comes after it."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from nafas.drawing.theme import font, theme

_SIZES = (54, 46, 40, 34, 29, 25, 21, 18)


class Prompt(QWidget):
    """Shows the line and the one after it, and a word on what to do now."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(230)
        self.setAccessibleName("The line to read")
        self._line = self._after = self._cue = self._facts = ""
        self._lit = False

    def show_line(self, line: str, after: str, facts: str) -> None:
        self._line, self._after, self._facts = line, after, facts
        self.setAccessibleDescription(line)
        self.update()

    def show_cue(self, cue: str, lit: bool) -> None:
        """A word above the line; `lit` while it is to be said."""
        self._cue, self._lit = cue, lit
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        page = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setBrush(t.page)
        painter.setPen(t.accent if self._lit else t.rule)
        painter.drawRoundedRect(page, 8, 8)
        if self._lit:
            painter.fillRect(QRectF(page.left() + 6, page.top() + 6, 6, page.height() - 12), t.accent)
        inner = page.adjusted(30, 12, -24, -12)
        centre = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(13, bold=True))
        painter.setPen(t.accent if self._lit else t.muted)
        painter.drawText(QRectF(inner.left(), inner.top(), inner.width(), 26), centre, self._cue)
        small = font(11)
        painter.setFont(small)
        painter.setPen(t.muted)
        metrics = QFontMetricsF(small)
        text = self._after and f"then: {self._after}"
        text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, inner.width())
        painter.drawText(QRectF(inner.left(), inner.bottom() - 22, inner.width(), 22), centre, text)
        painter.setFont(font(10, italic=True))
        painter.drawText(QRectF(inner.left(), inner.bottom() - 46, inner.width(), 20), centre, self._facts)
        words = QRectF(inner.left(), inner.top() + 34, inner.width(), inner.height() - 86)
        flags = int(centre) | int(Qt.TextFlag.TextWordWrap)
        for size in _SIZES:
            large = font(size, bold=True)
            box = QFontMetricsF(large).boundingRect(words, flags, self._line)
            if (box.height() <= words.height() and box.width() <= words.width()) or size == _SIZES[-1]:
                painter.setFont(large)
                break
        painter.setPen(t.ink)
        painter.drawText(words, flags, self._line)
