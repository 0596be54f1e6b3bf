"""The call sheet as a list to work down: each line with its state, what is doubtful first when asked for."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPen
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.widgets.controls import Button, across, fill
from nafas.desk.widgets.fields import ComboBox
from nafas.desk.widgets.labels import Label, set_tip
from nafas.drawing.theme import font, theme
from nafas.voice.call_sheet import LineState
from nafas.voice.line_status import LineStatus

_DATA = Qt.ItemDataRole.UserRole
_WORDS = {
    LineState.MISSING: "no take",
    LineState.GONE: "file gone",
    LineState.TOO_LONG: "too long",
    LineState.UNSURE: "listen",
}
_KINDS = {"count": "number", "cue": "cue", "call": "call", "talk": "talk"}
Index = QModelIndex | QPersistentModelIndex


def state_words(standing: LineStatus) -> str:
    """A line's state in a word or two."""
    if standing.doubtful:
        return "listen"
    known = _WORDS.get(standing.state)
    if known is None:
        return f"{standing.takes} of {standing.line.wanted}" if standing.line.wanted > 1 else "recorded"
    return known


class SheetList(QWidget):
    """Signals: chose: a place on the call sheet; record, import_: what is asked for."""

    chose = Signal(int)
    record = Signal()
    import_ = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.filter = ComboBox()
        self.filter.setAccessibleName("Which lines")
        self.filter.addItems(["All lines", "To do", "To listen to"])
        self.filter.activated.connect(lambda _: self._fill())
        self.list = QListWidget()
        self.list.setAccessibleName("Call sheet")
        self.list.setItemDelegate(_LineDelegate(self.list))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(lambda *_: self._tell())
        self.summary = Label(objectName="muted", wordWrap=True)
        self.record_button = Button(
            "Record…", self.record, kind="primary", tip="Record the call sheet line by line (Ctrl+M)"
        )
        self.import_button = Button(
            "Import…", self.import_, tip="Cut up a recording, or a folder of clips (Ctrl+Shift+I)"
        )
        fill(
            QVBoxLayout(self),
            across(Label("Call sheet", objectName="section"), None, self.filter),
            (self.list, 1),
            self.summary,
            across((self.record_button, 1), (self.import_button, 1)),
            spacing=6,
            margins=(12, 6, 0, 8),
        )
        self._statuses: list[LineStatus] = []
        self._quiet = False

    @property
    def place(self) -> int:
        """The chosen line's place on the call sheet; -1 for none."""
        item = self.list.currentItem()
        return -1 if item is None else int(item.data(_DATA)[0])

    def show_statuses(self, statuses: list[LineStatus]) -> None:
        """Show where the lines stand; the chosen line stays chosen, by its words."""
        before = self._statuses[self.place].line.key if 0 <= self.place < len(self._statuses) else None
        self._statuses = statuses
        doubts, to_do = sum(s.doubtful for s in statuses), sum(s.to_do for s in statuses)
        for row, text in enumerate((f"All {len(statuses)}", f"To do: {to_do}", f"Listen: {doubts}")):
            self.filter.setItemText(row, text)
        self.summary.setText(_summary(statuses))
        keys = [standing.line.key for standing in statuses]
        self._fill(keys.index(before) if before in keys else None)

    def _fill(self, keep: int | None = None) -> None:
        keep = self.place if keep is None else keep
        shown = self.filter.currentIndex()
        rows = [
            position
            for position, line in enumerate(self._statuses)
            if shown == 0 or (line.to_do if shown == 1 else line.doubtful)
        ]
        if self.filter.currentIndex() == 1:
            rows.sort(key=lambda position: self._statuses[position].urgency)
        self._quiet = True
        self.list.clear()
        for position in rows:
            standing = self._statuses[position]
            item = QListWidgetItem()
            item.setData(_DATA, (position, standing))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{standing.line.text}, {state_words(standing)}")
            set_tip(item, standing.line.text)
            self.list.addItem(item)
        self.list.setCurrentRow(rows.index(keep) if keep in rows else (0 if rows else -1))
        self._quiet = False
        self._tell()

    def show_filter(self, row: int) -> None:
        """0: all lines; 1: to do; 2: to listen to."""
        self.filter.setCurrentIndex(row)
        self._fill()

    def choose(self, number: int) -> None:
        """Choose a line by its place on the call sheet."""
        for row in range(self.list.count()):
            if self.list.item(row).data(_DATA)[0] == number:
                self.list.setCurrentRow(row)
                return
        if self.filter.currentIndex():
            self.filter.setCurrentIndex(0)
            self._fill(number)

    def next_urgent(self) -> bool:
        """Go to the next line with something to listen to, or else to do; False where there is none."""
        count = len(self._statuses)
        order = [(self.place + step) % count for step in range(1, count + 1)] if count else []
        for wanted in (lambda s: s.doubtful, lambda s: s.misfit is not None, lambda s: s.to_do):
            for position in order:
                if wanted(self._statuses[position]) and position != self.place:
                    self.choose(position)
                    return True
        return False

    def _tell(self) -> None:
        if not self._quiet:
            self.chose.emit(self.place)


def _summary(statuses: list[LineStatus]) -> str:
    if not statuses:
        return ""
    recorded = sum(s.takes > 0 for s in statuses)
    misfits = sum(s.misfit is not None for s in statuses)
    parts = [f"{recorded} of {len(statuses)} lines recorded"]
    if len(statuses) > recorded:
        parts.append(f"{len(statuses) - recorded} without a take")
    if misfits:
        parts.append(f"{misfits} too long")
    return ", ".join(parts) + "."


class _LineDelegate(QStyledItemDelegate):
    """A line: a mark for its state, its words, and below them its state, kind and room in small."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(180, 44)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        _, standing = index.data(_DATA)
        t = theme()
        rect = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, t.chosen)
            painter.fillRect(QRectF(rect.left(), rect.top(), 3, rect.height()), t.accent)
        worry = standing.urgency <= 2
        draw_mark(painter, QRectF(rect.left() + 11, rect.top() + 8, 11, 11), standing)
        words = QRectF(rect.left() + 30, rect.top() + 3, rect.width() - 38, 21)
        painter.setFont(font(11))
        painter.setPen(t.ink)
        metrics = QFontMetricsF(painter.font())
        text = metrics.elidedText(standing.line.text, Qt.TextElideMode.ElideRight, words.width())
        painter.drawText(words, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        below = QRectF(words.left(), rect.top() + 23, words.width(), 18)
        painter.setFont(font(9))
        painter.setPen(t.warning if worry else t.muted)
        painter.drawText(below, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, state_words(standing))
        painter.setPen(t.muted)
        line = standing.line
        facts = f"× {line.uses}" if line.uses > 1 else _KINDS[line.kind.value]
        if line.room is not None:
            facts += f",  {line.room:.2f} s"
        painter.drawText(below, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, facts)
        painter.restore()


def draw_mark(painter: QPainter, box: QRectF, standing: LineStatus) -> None:
    """The state as a shape: an empty ring, one filled by its share of takes, or a sign for what needs an ear."""
    t = theme()
    if standing.urgency <= 2:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.warning)
        painter.drawRoundedRect(box, 2.5, 2.5)
        painter.setPen(t.page)
        painter.setFont(font(8.5, bold=True))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "?" if standing.urgency == 0 else "!")
        return
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(t.accent, 1.4))
    painter.drawEllipse(box)
    share = min(1.0, standing.takes / standing.line.wanted)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t.accent)
    painter.drawPie(box, 90 * 16, -round(share * 360 * 16))
