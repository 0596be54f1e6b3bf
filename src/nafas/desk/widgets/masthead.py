"""The strip along the top: what is open, its length against the target, quick entry, play and render."""

from collections.abc import Mapping
from fractions import Fraction

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QResizeEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from nafas.desk.widgets.controls import Button, across, down
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.widgets.quick_entry import QuickEntry
from nafas.drawing.theme import font
from nafas.timing.clock import clock

VIEWS = (
    ("plan", "Plan", "Ctrl+1"),
    ("score", "Score", "Ctrl+2"),
    ("takes", "Takes", "Ctrl+3"),
    ("sound", "Sound", "Ctrl+4"),
    ("rehearse", "Rehearse", "Ctrl+5"),
    ("review", "Review", "Ctrl+6"),
    ("deliver", "Deliver", "Ctrl+7"),
    ("ledger", "Ledger", "Ctrl+8"),
)


class Masthead(QWidget):
    """Signals: quick entry, play or pause, render, and the view that is wanted, by its name in `VIEWS`."""

    entered = Signal(object)
    named = Signal(object)
    view = Signal(str)
    play = Signal()
    render_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._grid = grid = QGridLayout(self)
        grid.setContentsMargins(14, 8, 14, 6)
        grid.setHorizontalSpacing(12)
        views = QHBoxLayout()
        views.setSpacing(0)
        self.views: dict[str, QPushButton] = {}
        for name, text, keys in VIEWS:
            button = Button(text, kind="view")
            button.setCheckable(True)
            button.setAutoExclusive(True)
            set_tip(button, f"{text} ({keys})")
            button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)  # its name is never cut
            button.clicked.connect(lambda _=False, name=name: self.view.emit(name))
            views.addWidget(button)
            self.views[name] = button
        self.views["score"].setChecked(True)
        grid.addLayout(views, 0, 0)
        self.title = Label(objectName="heading")
        self.title.setMinimumWidth(60)
        self.about = Label(objectName="muted")
        self.about.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        grid.addLayout(down(self.title, self.about, spacing=0), 0, 1)
        self.entry = QuickEntry()
        self.entry.entered.connect(self.entered)
        self.entry.named.connect(self.named)
        self.entry.resized.connect(self._laid_out)
        grid.addWidget(self.entry, 0, 2, Qt.AlignmentFlag.AlignVCenter)
        self.place = Label("0:00.0")
        self.place.setFont(font(13))
        self.place.setMinimumWidth(66)
        self.place.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.place.setAccessibleName("Playhead")
        self.play_button = Button("Play", self.play, tip="Play or pause (Space)")
        self.play_button.setMinimumWidth(72)
        self.render_button = Button(
            "Render…", self.render_asked, kind="primary", tip="Render the master and prove it (Ctrl+R)"
        )
        grid.addLayout(across(self.place, self.play_button, self.render_button, spacing=8), 0, 3)
        grid.setColumnStretch(1, 5)
        grid.setColumnStretch(2, 4)
        self._full_title = self._full_about = ""

    def show_open(self, waiting: Mapping[str, tuple[int, str]]) -> None:
        """Say at each view how much of its work is open: a number next to its name, and in words."""
        for name, text, keys in VIEWS:
            if name not in waiting:
                continue
            number, words = waiting[name]
            self.views[name].setText(f"{text} {number}" if number else text)
            set_tip(self.views[name], f"{text} ({keys}): {words}" if number else f"{text} ({keys})")
        self._laid_out()  # at once: no name is seen cut while its number comes

    def set_low(self, low: bool) -> None:
        """Take less height, without the length, in a low window."""
        self.about.setVisible(not low)
        self._grid.setContentsMargins(14, 2 if low else 8, 14, 0 if low else 6)

    def _laid_out(self) -> None:
        """What the parts need, the title gives."""
        for part in (self.entry.layout(), self.layout()):
            if part is not None:
                part.activate()
        QTimer.singleShot(0, self._elide)

    def show_view(self, name: str) -> None:
        self.views[name].setChecked(True)

    def show_title(self, title: str, dirty: bool) -> None:
        self._full_title = (title or "Untitled session") + (" •" if dirty else "")
        set_tip(self.title, f"{title}: not saved yet" if dirty else title)
        self._elide()

    def show_length(self, length: Fraction, target: Fraction | None, exact: bool) -> None:
        """The total against the target; `exact` once every line of talk has been read."""
        about = "" if exact else "about "
        text = f"{about}{clock(length)} long"
        if target is not None:
            over = length - target
            word = "over" if over > 0 else "under"
            rest = (
                "on target"
                if abs(over) < Fraction(1, 2)
                else f"{clock(abs(over))} {word} the target of {clock(target)}"
            )
            text = f"{text}, {rest}"
        self._full_about = text
        set_tip(self.about, text)
        self._elide()

    def show_place(self, seconds: float) -> None:
        self.place.setText(clock(seconds, tenths=True))

    def show_playing(self, playing: bool) -> None:
        self.play_button.setText("Pause" if playing else "Play")

    def _elide(self) -> None:
        metrics = QFontMetricsF(self.title.font())
        room = self.title.width() - 4
        self.title.setText(metrics.elidedText(self._full_title, Qt.TextElideMode.ElideRight, room))
        metrics = QFontMetricsF(self.about.font())
        self.about.setText(metrics.elidedText(self._full_about, Qt.TextElideMode.ElideRight, room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._elide)  # when the parts have their widths
