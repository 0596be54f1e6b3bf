"""Findings one under another: when, where, and what is so, under a heading for how much they matter."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from nafas.drawing.theme import font, theme
from nafas.plain_text import pluralize
from nafas.review.checks.finding import Finding, Severity
from nafas.review.checks.register import Review
from nafas.timing.clock import clock

_DATA = Qt.ItemDataRole.UserRole
_HEADINGS = {
    Severity.MUST: "Must be changed",
    Severity.SHOULD: "Should be changed",
    Severity.LOOK: "Worth a look",
}
_TIME, _PAD, _GAP = 74.0, 9.0, 3.0
Index = QModelIndex | QPersistentModelIndex


class FindingsList(QListWidget):
    """Signals: chose: a Finding or None; opened: a Finding, to go to its place."""

    chose = Signal(object)
    opened = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Findings")
        self.setItemDelegate(_Delegate(self))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self._quiet = False
        self.currentItemChanged.connect(self._chosen)
        self.itemActivated.connect(self._activated)

    def _chosen(self) -> None:
        if not self._quiet:
            self.chose.emit(self.finding)

    def _activated(self) -> None:
        if self.finding is not None:
            self.opened.emit(self.finding)

    @property
    def finding(self) -> Finding | None:
        """The one that is chosen."""
        item = self.currentItem()
        finding_ = None if item is None else item.data(_DATA)
        return finding_ if isinstance(finding_, Finding) else None

    def show_review(self, review: Review) -> None:
        """Show what was found; the chosen finding stays chosen, or the one that stands in its place."""
        before, row = self.finding, self.currentRow()
        self._quiet = True
        self.clear()
        for severity, heading in _HEADINGS.items():
            self._add(f"{heading}", review.of(severity))
        self._add("Ignored", tuple(finding for finding in review.findings if finding.reason))
        rows = [n for n in range(self.count()) if isinstance(self.item(n).data(_DATA), Finding)]
        same = [n for n in rows if before is not None and self.item(n).data(_DATA).key == before.key]
        near = min(rows, key=lambda n: abs(n - row)) if rows and row >= 0 else (rows[0] if rows else -1)
        self.setCurrentRow(same[0] if same else near)
        self._quiet = False
        self.chose.emit(self.finding)

    def _add(self, heading: str, findings: tuple[Finding, ...]) -> None:
        if not findings:
            return
        head = QListWidgetItem(f"{heading}: {len(findings)}")
        head.setData(_DATA, f"{heading}  ·  {pluralize(len(findings), 'finding')}")
        head.setFlags(Qt.ItemFlag.NoItemFlags)
        self.addItem(head)
        for finding in findings:
            item = QListWidgetItem()
            item.setData(_DATA, finding)
            item.setData(
                Qt.ItemDataRole.AccessibleTextRole, f"{finding.severity.value}: {finding.where}. {finding.text}"
            )
            self.addItem(item)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.scheduleDelayedItemsLayout()


class _Delegate(QStyledItemDelegate):
    def __init__(self, view: FindingsList) -> None:
        super().__init__(view)
        self._view = view

    def _text_width(self) -> float:
        return self._view.viewport().width() - _TIME - 2 * _PAD - 8

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        finding = index.data(_DATA)
        if isinstance(finding, str):
            return QSize(0, 34)
        lines = QFontMetricsF(font(11)).boundingRect(
            QRectF(0, 0, self._text_width(), 9999), Qt.TextFlag.TextWordWrap, _shown(finding)
        )
        small = QFontMetricsF(font(9.5)).height()
        return QSize(0, round(lines.height() + small + 2 * _PAD + _GAP))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        finding, t, box = index.data(_DATA), theme(), QRectF(option.rect)
        painter.save()
        if isinstance(finding, str):
            painter.setFont(font(10.5, bold=True))
            painter.setPen(t.muted)
            painter.drawText(box.adjusted(12, 8, -8, 0), Qt.AlignmentFlag.AlignVCenter, finding)
            painter.restore()
            return
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, t.chosen)
            painter.setPen(QPen(t.accent, 2))
            painter.drawRect(box.adjusted(1, 1, -1, -1))  # its edge is the mark: the left one says how grave it is
        mark = {Severity.MUST: t.warning, Severity.SHOULD: t.accent, Severity.LOOK: t.rule}[finding.severity]
        width = {Severity.MUST: 5, Severity.SHOULD: 3, Severity.LOOK: 1}[finding.severity]
        painter.fillRect(
            QRectF(box.left() + 3, box.top() + 6, width, box.height() - 12), t.rule if finding.reason else mark
        )
        painter.setFont(font(11))
        painter.setPen(t.muted)
        top = box.top() + _PAD
        if finding.at is not None:
            position = QRectF(box.left() + 8, top, _TIME - 16, 24)
            painter.drawText(position, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, clock(finding.at))
        left = box.left() + _TIME
        painter.setPen(t.muted if finding.reason else t.ink)
        text = QRectF(left, top, self._text_width(), box.height())
        drawn = painter.drawText(text, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop, _shown(finding))
        height = QRectF(drawn).height() if drawn is not None else QFontMetricsF(font(11)).height()
        painter.setFont(font(9.5))
        painter.setPen(t.muted)
        below = QFontMetricsF(font(9.5)).elidedText(_under(finding), Qt.TextElideMode.ElideRight, self._text_width())
        painter.drawText(QRectF(left, top + height + _GAP, self._text_width(), 20), Qt.AlignmentFlag.AlignTop, below)
        painter.restore()


def _shown(finding: Finding) -> str:
    return finding.text


def _under(finding: Finding) -> str:
    """Where it is, how many fixes there are, and why it is ignored."""
    if finding.reason:
        return f"{finding.where}  ·  ignored: {finding.reason}"
    remedies = f"  ·  {pluralize(len(finding.remedies), 'fix', 'fixes')}" if finding.remedies else ""
    return f"{finding.where or 'the whole session'}{remedies}"
