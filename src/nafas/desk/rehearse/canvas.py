"""The guide on the screen: one in the view, and one that fills the screen, dark."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.drawing.guide.painter import GuidePainter
from nafas.drawing.theme import NIGHT, Theme, font, theme
from nafas.rehearsal.breathing import Breath
from nafas.rehearsal.guide import Guide
from nafas.score.row import Row
from nafas.script.edits.session_edits import block_name
from nafas.timing.clock import clock

Keys = Callable[[QKeyEvent, bool], bool]
"""Takes a key that went down (True) or up; says whether it was one of its own."""

_NAMED = (Qt.Key.Key_Space, Qt.Key.Key_Escape, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Backspace)


def _row_words(row: Row, at: float) -> str:
    """A row and when it begins."""
    number = f", round {row.round} of {len(row.block.rounds)}" if row.kind == "round" else ""
    said = f": {row.event.text}" if row.kind == "talk" and row.event is not None else ""
    return f"{clock(at)}, {block_name(row.block.block) or row.kind}{number}{said}"


class GuideCanvas(QWidget):
    """Shows a guide at a time.

    Args:
        keys: takes the keys while this has the focus.
        dark: night colours, whatever the window's are.
    """

    def __init__(self, keys: Keys, dark: bool = False) -> None:
        super().__init__()
        self._keys, self._dark = keys, dark
        self._guide: Guide | None = None
        self._painter: GuidePainter | None = None
        self._seconds, self._own, self._counting = 0.0, tuple[Breath, ...](), 0
        self.still = self.blind = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Guide")
        self.setMinimumSize(320, 240)

    @property
    def guide(self) -> Guide | None:
        return self._guide

    def show_guide(self, guide: Guide) -> None:
        """Show another session, or the same one changed."""
        self._guide, self._painter = guide, None
        self.update()

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds in it: what is breathed now, what comes next, and how long it still lasts."""
        if self._guide is None:
            return []
        now = self._guide.at(max(0.0, self._seconds))
        parts = [
            _row_words(row, at) for row, at in ((now.row, self._seconds), (now.after, now.after_at)) if row is not None
        ]
        if now.phase_words:
            count = f", {now.count.text}" if now.count is not None and now.count.text else ""
            parts[0] += f": {now.phase_words}{count}"
        if now.rounds_left:
            parts[0] += f", {now.rounds_left} more after it"
        return [SpokenPart(words) for words in (*parts, f"{clock(now.seconds_left)} left")]

    def show_time(self, seconds: float, own: Sequence[Breath] = (), counting: int = 0) -> None:
        """Show a time of the session, the breather's own line, and while it leads in the seconds that are left."""
        self._seconds, self._own, self._counting = seconds, tuple(own), counting
        self.update()

    def painter_now(self) -> GuidePainter | None:
        """What paints the guide at this size."""
        colours: Theme = NIGHT if self._dark else theme()
        made = self._painter
        if self._guide is not None and (
            made is None or made.theme is not colours or made.still is not self.still
            or (made.width, made.height) != (self.width(), self.height())
        ):  # fmt: skip
            self._painter = GuidePainter(self._guide, self.width(), self.height(), colours, self.still)
        return self._painter

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        colours = NIGHT if self._dark else theme()
        drawn = self.painter_now()
        if self.blind or drawn is None or self._guide is None:
            painter.fillRect(self.rect(), colours.page)
            if self.blind:
                self._words(painter, "Eyes closed: sound only.", colours)
            return
        drawn.paint(painter, self._guide.at(max(0.0, self._seconds)), self._own)
        if self._counting:
            painter.fillRect(self.rect(), colours.page)
            self._words(painter, f"{self._counting}", colours)

    def _words(self, painter: QPainter, text: str, colours: Theme) -> None:
        letters = font(10)
        letters.setPixelSize(max(18, self.height() // (4 if text.isdecimal() else 18)))
        painter.setFont(letters)
        painter.setPen(colours.muted)
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._painter = None

    # -- keys: its own before the window's, while it has the focus

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and self._is_own(event):
            event.accept()
            return True
        return super().event(event)

    def _is_own(self, event: QKeyEvent) -> bool:
        plain = event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        named = event.key() in (
            Qt.Key.Key_Space,
            Qt.Key.Key_Escape,
            Qt.Key.Key_Up,
            Qt.Key.Key_Down,
            Qt.Key.Key_Backspace,
        )
        return plain == Qt.KeyboardModifier.NoModifier and (named or bool(event.text().strip()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat() or not self._keys(event, True):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat() or not self._keys(event, False):
            super().keyReleaseEvent(event)


class FullScreenGuide(QWidget):
    """The guide alone on the screen, dark. Signals: closed."""

    closed = Signal()

    def __init__(self, keys: Keys) -> None:
        super().__init__(None, Qt.WindowType.Window)
        self.setWindowTitle("Rehearse - Nafas")
        self.canvas = GuideCanvas(keys, dark=True)
        fill(QVBoxLayout(self), self.canvas, margins=(0, 0, 0, 0))
        self.setCursor(Qt.CursorShape.BlankCursor)

    def closeEvent(self, event: QCloseEvent) -> None:
        super().closeEvent(event)
        self.closed.emit()
