"""The score: the session as a page, a line to each round. Click to choose, type digits, drag, retype words."""

import time

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import (
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QToolTip

from nafas.desk.score.dragging import Dragging
from nafas.desk.score.row_cache import Pictures, paint_empty
from nafas.desk.score.spoken_score import spoken_score
from nafas.desk.score.word_editor import WordEditor
from nafas.desk.score.writing import PageWriting
from nafas.desk.widgets.keyboard import typed_sign
from nafas.desk.widgets.labels import tip_of
from nafas.desk.widgets.mark_shape import mark_shape
from nafas.desk.widgets.spoken_parts import SpokenPart, announce
from nafas.drawing.page.lettering import opening_width, wrapped
from nafas.drawing.page.painter import ScorePainter
from nafas.drawing.theme import font, theme
from nafas.score.hit_test import Edge, Word, chosen_at, pause_at, word_at, word_of
from nafas.score.layout import Layout, lay_out
from nafas.score.row import LEFT, Row
from nafas.score.selection import Chosen, phase_stepped, row_stepped
from nafas.script import BreathSet
from nafas.script.advice import flags
from nafas.script.model.marks import Mark
from nafas.timing import Timeline
from nafas.voice import Cast

_SHIFT = Qt.KeyboardModifier.ShiftModifier
_SHIFT_OR_KEYPAD = _SHIFT | Qt.KeyboardModifier.KeypadModifier
_NOTCH = 120  # of a wheel, in eighths of a degree
_TWO_DIGITS = 0.9  # seconds within which a second digit joins the first
_ZOOMS = (0.5, 0.7, 1.0, 1.4, 2.0, 3.0, 4.0)


def _wrap(text: str, room: float) -> list[str]:
    """Text in lines no wider than `room`, as the page writes it. One function for all layouts: rows are kept by it."""
    return wrapped(text, room, QFontMetricsF(font(11.5)))


class ScoreView(QAbstractScrollArea):
    """Shows a timeline and its cast.

    Signals:
        chose: something was selected.
        also_chose: (block, through): a block joins or leaves the selection; or all from the chosen one to it.
        counts_typed: (block, round, phase, counts) for the chosen phase.
        counts_dragged: the same, while its edge is being dragged.
        rounds_dragged: (block, more) while the foot of a set is being dragged: rounds more than before the last one.
        pause_dragged: (Pause, seconds) while the pause after a sentence is being dragged.
        drag_ended: what was dragged is one step of undo.
        word_changed: (Word, text).
        edit_asked: the person wants to change what is chosen (Enter or double click).
        said: words for the status line.
    """

    chose = Signal(object)
    also_chose = Signal(int, bool)
    counts_typed = Signal(int, int, int, int)
    counts_dragged = Signal(int, int, int, int)
    rounds_dragged = Signal(int, int)
    pause_dragged = Signal(object, object)
    drag_ended = Signal()
    word_changed = Signal(object, str)
    edit_asked = Signal()
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Score")
        self.setAccessibleDescription("Every round of the session on a line of its own")
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.viewport().setMouseTracking(True)
        self.chosen = Chosen()
        self.also: frozenset[int] = frozenset()
        self.layout_: Layout | None = None
        self.zoom = 1.0
        self._timeline: Timeline | None = None
        self._cast: Cast | None = None
        self._flagged: dict[int, list[str]] = {}
        self._marks: dict[str, list[tuple[float, Mark]]] = {}
        """By the id of their block."""
        self._playhead: float | None = None
        self._typed = (0.0, "")
        self._turned = 0
        self.dragging = Dragging(self)
        self.dragging.counts.connect(self.counts_dragged)
        self.dragging.rounds.connect(self.rounds_dragged)
        self.dragging.pause.connect(self.pause_dragged)
        self.dragging.ended.connect(self.drag_ended)
        self._pictures = Pictures()
        self._ahead = QTimer(self, interval=0)  # only while there is something to draw ahead
        self._ahead.timeout.connect(self._draw_ahead)
        self.editor = WordEditor(self.viewport())
        self.writing = PageWriting(self.editor)
        self.writing.retyped.connect(self.word_changed)
        self.writing.said.connect(self.said)

    # -- what is shown

    def show_timeline(self, timeline: Timeline, cast: Cast | None) -> None:
        if self._timeline is None or timeline.session is not self._timeline.session:
            lines: dict[int, list[str]] = {}
            for flag in flags(timeline.session):
                lines.setdefault(flag.block, []).append(flag.text)
            self._flagged = lines
        self._timeline, self._cast = timeline, cast
        self._lay_out()

    def write(self, index: int) -> None:
        """Begin a paragraph at the end of a block of talk."""
        row = next((r for r in self.layout_.rows_of(index) if r.kind == "write"), None) if self.layout_ else None
        if row is not None and self.layout_ is not None:
            self._reveal(row)
            self._open(word_at(self.layout_, row, 0.0, row.y + 4.0, self.viewport().width()))

    def spoken_parts(self) -> list[SpokenPart]:
        """What a screen reader finds on the page."""
        if self.layout_ is None:
            return []
        return spoken_score(self.layout_, self.layout_.rows, self.chosen, self._go_to, self._change_counts)

    def _chosen_words(self) -> str:
        row = self._chosen_row()
        if self.layout_ is None or row is None:
            return ""
        parts = spoken_score(self.layout_, [row], self.chosen, self._go_to, self._change_counts)
        return next((part.name for part in parts if part.chosen), "")

    def _change_counts(self, place: Chosen, counts: int) -> None:
        self._go_to(place)
        self.counts_typed.emit(place.block, place.round, place.phase, counts)

    def set_chosen(self, chosen: Chosen, reveal: bool = True, also: frozenset[int] = frozenset()) -> None:
        if chosen != self.chosen:
            self.chosen = chosen
            if self.hasFocus():
                announce(self, self._chosen_words)
        self.also = also
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

    def set_zoom(self, zoom: float) -> None:
        """Draw seconds wider or narrower than fits the page (1.0)."""
        self.zoom = min(max(zoom, _ZOOMS[0]), _ZOOMS[-1])
        self._lay_out()
        self.said.emit(f"Zoom {self.zoom:.0%}")

    def step_zoom(self, by: int) -> None:
        """The next zoom up or down; 0 is back to fitting the page."""
        nearest = min(range(len(_ZOOMS)), key=lambda i: abs(_ZOOMS[i] - self.zoom))
        self.set_zoom(_ZOOMS[min(max(0, nearest + by), len(_ZOOMS) - 1)] if by else 1.0)

    def _lay_out(self) -> None:
        if self._timeline is None:
            return
        width, height = self.viewport().width(), self.viewport().height()
        self.layout_ = lay_out(self._timeline, self._cast, width, _wrap, self.zoom, self._flagged, opening_width)
        self._pictures.clear()
        down = (self.verticalScrollBar(), self.layout_.height, height, 38)
        for bar, size, seen, step in (down, (self.horizontalScrollBar(), self.layout_.width, width, 40)):
            bar.setRange(0, max(0, size - seen))
            bar.setPageStep(seen)
            bar.setSingleStep(step)
        self.viewport().update()

    def _top(self) -> int:
        return self.verticalScrollBar().value()

    def _left(self) -> int:
        return self.horizontalScrollBar().value()

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
        rows = self.layout_.rows_of(self.chosen.block)
        return next((row for row in rows if row.kind == wanted and row.round == self.chosen.round), None)

    # -- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.fillRect(event.rect(), theme().page)
        if self.layout_ is None or self.layout_.empty:
            paint_empty(painter, self.viewport().rect())
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top = self._top()
        painter.translate(-self._left(), -top)
        page = ScorePainter(self.layout_, theme(), self.chosen, self._playhead, self.also)
        for row in self.layout_.rows_between(top + event.rect().top(), top + event.rect().bottom()):
            if page.is_plain(row):
                painter.drawPixmap(0, row.y, self._pictures.of(page, row, self.devicePixelRatioF()))
            else:
                page.paint(painter, row)
        self._paint_marks(painter, top + event.rect().top(), top + event.rect().bottom())
        self._ahead.start()

    def show_marks(self, marks: list[tuple[float, Mark]]) -> None:
        """Show what was marked in rehearsals at its time, and is not settled."""
        self._marks = {}
        for at, mark in marks:
            self._marks.setdefault(mark.block, []).append((at, mark))
        self.viewport().update()

    def _paint_marks(self, painter: QPainter, top: int, bottom: int) -> None:
        if not self._marks or self.layout_ is None:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().warning)
        for row in self.layout_.rows_between(top, bottom):
            for at, _ in self._marks_of(row):
                inside = min(at, row.begin + row.seconds)
                x = self.layout_.x_of(row, inside) if row.kind in ("round", "prepare", "strokes") else LEFT - 12
                painter.drawPolygon(mark_shape(x, row.y + 2))

    def _marks_of(self, row: Row) -> list[tuple[float, Mark]]:
        """The marks that stand in a row."""
        if row.kind not in ("round", "talk", "prepare", "strokes", "rest"):
            return []
        here = self._marks.get(row.block.block.id, [])
        if row.kind == "talk" and row.event is not None:
            return [(at, mark) for at, mark in here if not mark.round and mark.count == row.event.count]
        return [(at, mark) for at, mark in here if row.begin - 1e-6 <= at < row.begin + row.seconds]

    def _draw_ahead(self) -> None:
        """While nothing else is to be done, draw a row of the pages around, so that turning to them is instant."""
        if self.layout_ is not None:
            height, top = self.viewport().height(), self._top()
            page = ScorePainter(self.layout_, theme(), self.chosen, self._playhead, self.also)
            rows = self.layout_.rows_between(top, top + 2 * height) + self.layout_.rows_between(top - height, top)
            for row in rows[: self._pictures.most]:
                if not self._pictures.has(page, row) and page.is_plain(row):
                    self._pictures.of(page, row, self.devicePixelRatioF())
                    return
        self._ahead.stop()

    # -- mouse

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._turned += event.angleDelta().y()  # a touchpad turns a notch in many small parts
            for _ in range(abs(self._turned) // _NOTCH):
                self.step_zoom(1 if self._turned > 0 else -1)
            self._turned -= int(self._turned / _NOTCH) * _NOTCH
            event.accept()
        else:
            super().wheelEvent(event)

    def _at(self, event: QMouseEvent) -> tuple[Row | None, float, float]:
        """The row under the pointer, and the place on the page."""
        x, y = event.position().x() + self._left(), event.position().y() + self._top()
        return (self.layout_.row_at(int(y)) if self.layout_ else None), x, y

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row, x, y = self._at(event)
        if row is None or self.layout_ is None:
            return
        if event.button() == Qt.MouseButton.RightButton and row.block.index not in {self.chosen.block, *self.also}:
            self._go_to(chosen_at(self.layout_, row, x))  # its menu is about what lies under the pointer
        if event.button() != Qt.MouseButton.LeftButton:
            return
        shift, control = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
        if event.modifiers() & (shift | control):
            self.also_chose.emit(row.block.index, bool(event.modifiers() & shift))
            return
        pulled = Dragging.under(self.layout_, row, x, y)
        if pulled is not None:
            self.dragging.begin(pulled, x, y)
        chosen = chosen_at(self.layout_, row, x)
        if isinstance(pulled, Edge):
            chosen = Chosen(pulled.block, pulled.round, pulled.phase)
        self.set_chosen(chosen, reveal=False)
        self.chose.emit(chosen)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        row, x, y = self._at(event)
        if self.dragging.active:
            self.dragging.move(x, y)
        elif row is not None and self.layout_ is not None:
            self.viewport().setCursor(Dragging.cursor(Dragging.under(self.layout_, row, x, y)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.dragging.end()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row, x, y = self._at(event)
        if row is None or self.layout_ is None:
            return
        word = word_at(self.layout_, row, x, y, self.viewport().width())
        self._open(word)
        if isinstance(word, str):
            self.said.emit(word)
        elif word is None:
            self.edit_asked.emit()

    def viewportEvent(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self.layout_ is not None:
            row = self.layout_.row_at(event.pos().y() + self._top())
            text = ""
            if row is not None:
                placements = self.layout_.placements_of(row)
                faults = [self.layout_.misfits[id(p)] for p in placements if id(p) in self.layout_.misfits]
                felt = [" ".join([mark.felt.value, mark.note]).strip() for _, mark in self._marks_of(row)]
                text = "\n".join([*map(str, faults[:4]), *(f"marked: {each}" for each in felt[:4])])
                if row.kind == "foot":
                    text = "Drag down for more rounds, up for fewer"
                elif pause_at(self.layout_, row, event.pos().x() + self._left(), event.pos().y() + self._top()):
                    text = "Drag right or left for a longer or shorter pause, or double-click to type it"
            QToolTip.showText(event.globalPos(), tip_of(text), self)
            return True
        return super().viewportEvent(event)

    # -- keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, keys = event.key(), Qt.Key
        shift = event.modifiers() == Qt.KeyboardModifier.ShiftModifier
        if shift and key in (keys.Key_Up, keys.Key_Down):
            self.also_chose.emit(self._edge_of_selection(1 if key == keys.Key_Down else -1), True)
        elif event.modifiers() & ~_SHIFT_OR_KEYPAD or (event.modifiers() & _SHIFT and not typed_sign(event)):
            super().keyPressEvent(event)
        elif typed_sign(event) in ("+", "-") and self.chosen.block >= 0:
            self.rounds_dragged.emit(self.chosen.block, 1 if typed_sign(event) == "+" else -1)
            self.drag_ended.emit()
        elif typed_sign(event).isdecimal() and self.chosen.phase:
            self._type_digit(typed_sign(event))
        elif key in (keys.Key_Up, keys.Key_Down):
            by = 1 if key == keys.Key_Down else -1
            if self.layout_ is not None:
                self._go_to(row_stepped(self.layout_, self.chosen, self._chosen_row(), by))
        elif key in (keys.Key_Left, keys.Key_Right):
            self._go_to(phase_stepped(self.chosen, self._chosen_row(), 1 if key == keys.Key_Right else -1))
        elif key in (keys.Key_Return, keys.Key_Enter):
            self.edit_asked.emit()
        elif key in (keys.Key_Home, keys.Key_End) and self._timeline and self._timeline.blocks:
            self._go_to(Chosen(0 if key == keys.Key_Home else len(self._timeline.blocks) - 1))
        elif key == keys.Key_F2:
            self._retype()
        else:
            super().keyPressEvent(event)

    def _edge_of_selection(self, by: int) -> int:
        every = self.also | {self.chosen.block}
        edge = max(every) if by > 0 else min(every)
        last = len(self._timeline.blocks) - 1 if self._timeline else 0
        return min(max(0, edge + by), last)

    def _retype(self) -> None:
        """Retype the chosen block's title, or the chosen phase's cue."""
        row = self._chosen_row()
        if row is None or self.layout_ is None:
            return
        self._open(word_of(self.layout_, row, self.chosen, self.viewport().width()))

    def _open(self, word: Word | str | None) -> None:
        """Open the editor where words are found."""
        if isinstance(word, Word):
            self.writing.open(word, self._left(), self._top())

    def _go_to(self, chosen: Chosen | None) -> None:
        if chosen is not None:
            self.set_chosen(chosen)
            self.chose.emit(self.chosen)

    def _type_digit(self, digit: str) -> None:
        at, before = self._typed
        now = time.monotonic()
        text = before + digit if now - at < _TWO_DIGITS and len(before) == 1 else digit
        self._typed = (now, text)
        row = self._chosen_row()
        if row is not None and isinstance(row.block.block, BreathSet):
            self.counts_typed.emit(self.chosen.block, self.chosen.round, self.chosen.phase, int(text))

    def play_place(self) -> float | None:
        """The second at which what is chosen begins, or None."""
        row = self._chosen_row()
        return None if row is None else float(row.start)
