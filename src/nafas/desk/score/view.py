"""The score: the session as a page, a line to each round. Click to choose; digits set the chosen phase."""

import time

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPixmap
from PySide6.QtWidgets import QAbstractScrollArea, QToolTip

from nafas.desk.score.layout import Layout, Row, lay_out
from nafas.desk.score.painter import Chosen, ScorePainter
from nafas.desk.theme import NIGHT, font, theme
from nafas.script import BreathSet
from nafas.timing import EventKind, Timeline
from nafas.voice import Cast

_KEPT_PICTURES = 48  # about 12 MB; a window shows ten rows
_TWO_DIGITS = 0.9  # seconds within which a second digit joins the first


class ScoreView(QAbstractScrollArea):
    """Shows a timeline and its cast.

    Signals:
        chose: something was selected.
        counts_typed: (block, phase, counts) for the chosen phase.
        edit_asked: the person wants to change what is chosen (Enter or double click).
    """

    chose = Signal(object)
    counts_typed = Signal(int, int, int)
    edit_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Score")
        self.setAccessibleDescription("Every round of the session on a line of its own")
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self.chosen = Chosen()
        self.layout_: Layout | None = None
        self._timeline: Timeline | None = None
        self._cast: Cast | None = None
        self._playhead: float | None = None
        self._typed = (0.0, "")
        self._pictures: dict[tuple[int, int, bool], QPixmap] = {}

    # -- what is shown

    def show_timeline(self, timeline: Timeline, cast: Cast | None) -> None:
        self._timeline, self._cast = timeline, cast
        self._lay_out()

    def set_chosen(self, chosen: Chosen, reveal: bool = True) -> None:
        self.chosen = chosen
        if reveal:
            self._reveal(self._chosen_row())
        self.viewport().update()

    def set_playhead(self, seconds: float | None, follow: bool) -> None:
        before = self._playhead
        self._playhead = seconds
        if self.layout_ is None or seconds is None:
            return
        rows = {self.layout_.row_of_time(at) for at in (before, seconds) if at is not None}
        now = self.layout_.row_of_time(seconds)
        for row in rows:
            if row is not None:
                self.viewport().update(0, row.y - self._top(), self.viewport().width(), row.height)
        if follow and now is not None and rows != {now}:
            self._reveal(now)

    def _lay_out(self) -> None:
        if self._timeline is None:
            return
        metrics = QFontMetricsF(font(11.5))
        self.layout_ = lay_out(
            self._timeline,
            self._cast,
            self.viewport().width(),
            lambda text, width: wrapped(text, width, metrics),
        )
        self._pictures.clear()
        bar = self.verticalScrollBar()
        bar.setRange(0, max(0, self.layout_.height - self.viewport().height()))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(38)
        self.viewport().update()

    def _top(self) -> int:
        return self.verticalScrollBar().value()

    def _reveal(self, row: Row | None) -> None:
        if row is None or self.layout_ is None:
            return
        height, top = self.viewport().height(), self._top()
        if row.y < top + 20 or row.y + row.height > top + height - 20:
            self.verticalScrollBar().setValue(max(0, row.y - height // 4))

    def _chosen_row(self) -> Row | None:
        if self.layout_ is None:
            return None
        wanted = "round" if self.chosen.round else "title"
        for row in self.layout_.rows:
            same = row.block.index == self.chosen.block and row.kind == wanted
            if same and row.round == self.chosen.round:
                return row
        return None

    # -- painting

    def paintEvent(self, event: QEvent) -> None:
        painter = QPainter(self.viewport())
        painter.fillRect(event.rect(), theme().page)
        if self.layout_ is None or not self.layout_.rows:
            self._paint_empty(painter)
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top = self._top()
        painter.translate(0, -top)
        page = ScorePainter(self.layout_, theme(), self.chosen, self._playhead)
        for row in self.layout_.rows_between(top + event.rect().top(), top + event.rect().bottom()):
            if page.is_plain(row):
                painter.drawPixmap(0, row.y, self._picture(page, row))
            else:
                page.paint(painter, row)

    def _picture(self, page: ScorePainter, row: Row) -> QPixmap:
        """A row that looks as it always does, kept, so that scrolling paints only what comes into sight."""
        key = (id(self.layout_), row.y, theme() is NIGHT)
        found = self._pictures.pop(key, None)
        if found is None:
            ratio = self.devicePixelRatioF()
            found = QPixmap(round(self.viewport().width() * ratio), round(row.height * ratio))
            found.setDevicePixelRatio(ratio)
            found.fill(theme().page)
            painter = QPainter(found)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(0, -row.y)
            page.paint(painter, row)
            painter.end()
        self._pictures[key] = found
        if len(self._pictures) > _KEPT_PICTURES:
            del self._pictures[next(iter(self._pictures))]
        return found

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(theme().ink)
        painter.setFont(font(16, bold=True))
        area = self.viewport().rect().adjusted(40, 0, -40, -60)
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, "An empty page")
        painter.setFont(font(11.5))
        painter.setPen(theme().muted)
        area.adjust(0, 54, 0, 54)
        hint = "Type a breath such as 4-2-8 x6 in the field above and press Enter,\nor add talk from the running order."
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, hint)

    # -- mouse and keys

    def resizeEvent(self, event: QEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._under(event)
        if found is not None:
            self.set_chosen(found, reveal=False)
            self.chose.emit(found)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._under(event) is not None:
            self.edit_asked.emit()

    def _under(self, event: QMouseEvent) -> Chosen | None:
        if self.layout_ is None:
            return None
        point = event.position()
        row = self.layout_.row_at(int(point.y()) + self._top())
        if row is None:
            return None
        phase = 0
        if row.kind == "round" and row.event is not None:
            from nafas.desk.score.layout import LEFT

            tick = row.event.tick + (point.x() - LEFT) / self.layout_.scale * row.block.body.per_second
            for each in row.events:
                if each.kind is EventKind.PHASE and each.tick <= tick < each.tick + each.length:
                    phase = each.phase
        return Chosen(row.block.index, row.round, phase)

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and self.layout_ is not None:
            row = self.layout_.row_at(event.pos().y() + self._top())
            text = ""
            if row is not None:
                placements = self.layout_.placements.get((row.block.block.id, row.round), [])
                faults = [self.layout_.misfits[id(p)] for p in placements if id(p) in self.layout_.misfits]
                text = "\n".join(map(str, faults[:4]))
            QToolTip.showText(event.globalPos(), text, self)
            return True
        return super().viewportEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, keys = event.key(), Qt.Key
        if event.modifiers() not in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier):
            super().keyPressEvent(event)
        elif key in (keys.Key_Up, keys.Key_Down):
            self._step(1 if key == keys.Key_Down else -1)
        elif key in (keys.Key_Left, keys.Key_Right):
            self._step_phase(1 if key == keys.Key_Right else -1)
        elif key in (keys.Key_Return, keys.Key_Enter):
            self.edit_asked.emit()
        elif event.text().isdecimal() and self.chosen.phase:
            self._type_digit(event.text())
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        if self.layout_ is None:
            return
        rows = [row for row in self.layout_.rows if row.kind in ("title", "round")]
        if not rows:
            return
        now = self._chosen_row()
        place = rows.index(now) + by if now in rows else 0
        row = rows[min(max(0, place), len(rows) - 1)]
        phase = max(1, self.chosen.phase) if row.round else 0
        self.set_chosen(Chosen(row.block.index, row.round, phase))
        self.chose.emit(self.chosen)

    def _step_phase(self, by: int) -> None:
        row = self._chosen_row()
        if row is None or not row.round:
            return
        phases = [event.phase for event in row.events if event.kind is EventKind.PHASE]
        place = phases.index(self.chosen.phase) + by if self.chosen.phase in phases else 0
        phase = phases[min(max(0, place), len(phases) - 1)]
        self.set_chosen(Chosen(self.chosen.block, self.chosen.round, phase))
        self.chose.emit(self.chosen)

    def _type_digit(self, digit: str) -> None:
        at, before = self._typed
        now = time.monotonic()
        text = before + digit if now - at < _TWO_DIGITS and len(before) == 1 else digit
        self._typed = (now, text)
        row = self._chosen_row()
        if row is not None and isinstance(row.block.block, BreathSet):
            self.counts_typed.emit(self.chosen.block, self.chosen.phase, int(text))

    def play_place(self) -> float | None:
        """The second at which what is chosen begins, or None."""
        row = self._chosen_row()
        return None if row is None else float(row.start)


def wrapped(text: str, width: float, metrics: QFontMetricsF) -> list[str]:
    """Text in lines no wider than `width` pixels; a longer word stands alone. At least one line."""
    lines, line = [], ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if line and metrics.horizontalAdvance(longer) > width:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line]
