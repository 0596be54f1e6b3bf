"""Fit to length: a target, what it would take, and one click to do it."""

from fractions import Fraction
from pathlib import Path

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.widgets.controls import Button, fill
from nafas.desk.widgets.labels import Label
from nafas.desk.widgets.length_field import LengthField
from nafas.drawing.page.lettering import wrapped
from nafas.drawing.theme import font, theme
from nafas.errors import InputError
from nafas.suggest.length_fit import LengthFit, Option
from nafas.timing.clock import clock

_OPTION = Qt.ItemDataRole.UserRole
_SIDE = 12


class FitPanel(QWidget):
    """The right-hand column of Plan.

    Signals:
        target_changed: a Fraction of seconds, or None.
        apply: the chosen `Option`.
        said: words for the status line.
    """

    target_changed = Signal(object)
    apply = Signal(object)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Fit to length")
        self.target = LengthField("Target length")
        self.target.changed.connect(self.target_changed)
        self.target.line.returnPressed.connect(self._to_options)
        self.from_bed = Button(
            "Take the length of a recording…",
            self._choose_bed,
            tip="The session then ends on that recording's last sample",
        )
        self.summary = Label(wordWrap=True)
        self.options = QListWidget()
        self.options.setAccessibleName("Ways to the target")
        self.options.setItemDelegate(_OptionPainter(self.options))
        self.options.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.options.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.options.itemActivated.connect(lambda _: self._apply())
        self.apply_button = Button("Do this", self._apply, kind="primary")
        self.locks = Label(objectName="muted", wordWrap=True)
        fill(
            QVBoxLayout(self),
            Label("Fit to length", objectName="section"),
            self.target,
            self.from_bed,
            self.summary,
            (self.options, 1),
            self.apply_button,
            self.locks,
            spacing=6,
            margins=(8, 8, 12, 8),
        )
        self.options.currentItemChanged.connect(lambda *_: self._enable())
        self._enable()

    def show_fit(self, fit: LengthFit | None, target: Fraction | None, locked: list[str]) -> None:
        """Show the ways to the target; None while there is none."""
        self.target.show_length(target)
        self.options.clear()
        if fit is None:
            self.summary.setText("Type a length, and every real way to it is listed here with what it costs.")
        else:
            self.summary.setText(fit.summary)
            for option in fit.options:
                item = QListWidgetItem(f"{option.title}. {option.consequence}")
                item.setData(_OPTION, option)
                self.options.addItem(item)
            self.options.setCurrentRow(0)
        names = ", ".join(locked)
        self.locks.setText(
            f"Locked, so not changed: {names}." if locked else "A block that must not change: lock it with Ctrl+L."
        )
        self._enable()

    def _enable(self) -> None:
        self.apply_button.setEnabled(self.options.currentItem() is not None)

    def begin(self) -> None:
        """Put the cursor in the target."""
        self.target.line.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.target.line.selectAll()

    def chosen(self) -> Option | None:
        """The way that is marked."""
        item = self.options.currentItem()
        option: Option | None = None if item is None else item.data(_OPTION)
        return option

    def _to_options(self) -> None:
        self.options.setFocus(Qt.FocusReason.TabFocusReason)

    def _apply(self) -> None:
        option = self.chosen()
        if option is not None:
            self.apply.emit(option)

    def _choose_bed(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self,
            "A recording whose length to take",
            str(Path.home()),
            "Audio (*.wav *.flac *.ogg *.mp3 *.opus *.aiff *.aif)",
        )
        if name:
            self.take_length_of(Path(name))

    def take_length_of(self, path: Path) -> None:
        """Make the exact length of an audio file the target."""
        from nafas.sound.files.recording import recording_length

        try:
            length = recording_length(path)
        except InputError as error:
            self.said.emit(str(error))
            return
        self.said.emit(f"{path.name} lasts {clock(length, tenths=True)}; the session can end on its last sample")
        self.target_changed.emit(length)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self.options.doItemsLayout)  # words wrap again


class _OptionPainter(QStyledItemDelegate):
    """What changes in ink, what it costs below it; a filled mark where it lands exactly."""

    def _lines(self, option: Option, width: float) -> tuple[list[str], list[str]]:
        room = width - 2 * _SIDE - 14
        title = wrapped(option.title, room, QFontMetricsF(font(10, bold=True)))
        return title, wrapped(option.consequence, room, QFontMetricsF(font(9.5)))

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        shown = self.parent()
        assert isinstance(shown, QListWidget)
        width = shown.viewport().width()
        title, rest = self._lines(index.data(_OPTION), width)
        return QSize(width, 19 * len(title) + 17 * len(rest) + 17)

    def paint(self, painter: QPainter, style: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        option: Option = index.data(_OPTION)
        area = style.rect
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if style.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, theme().chosen)
            painter.fillRect(area.left(), area.top(), 3, area.height(), theme().accent)
        title, rest = self._lines(option, area.width())
        x, y = area.left() + _SIDE + 14, area.top() + 20
        painter.setPen(QPen(theme().accent, 1.6))
        painter.setBrush(theme().accent if option.exact else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(area.left() + _SIDE - 2, area.top() + 12, 8, 8)
        painter.setFont(font(10, bold=True))
        painter.setPen(theme().ink)
        for line in title:
            painter.drawText(x, y, line)
            y += 19
        painter.setFont(font(9.5))
        painter.setPen(theme().muted)
        for line in rest:
            painter.drawText(x, y - 1, line)
            y += 17
        painter.setPen(QPen(theme().rule, 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.restore()
