"""Three ways in: the demo, a purpose, a recording; and recent sessions."""

from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import Button, emptied, fill, frame
from nafas.desk.widgets.fields import Choice
from nafas.desk.widgets.labels import Label
from nafas.drawing.theme import theme
from nafas.library.own import PURPOSES
from nafas.plain_text import short_path

_WIDE, _CARD_HIGH = 960, 250
_MOST = 5
_STOPS = ((0.0, 1.0), (0.28, 0.0), (0.42, 0.0), (1.0, 1.0))
"""A breath as the page draws it: across and down, both 0 to 1."""


class WelcomePage(QWidget):
    """Signals: demo; purpose: what a session is to lead to, or None for any; recording; blank; open; recent: a file;
    news."""

    demo = Signal()
    purpose = Signal(object)
    recording = Signal()
    blank = Signal()
    open = Signal()
    recent = Signal(object)
    news = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Ways to begin")
        middle = QWidget()
        middle.setMaximumWidth(_WIDE)
        middle.setMinimumWidth(820)
        inner = QWidget()
        fill(QHBoxLayout(inner), None, (middle, 8), None)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(inner)
        fill(QVBoxLayout(self), scroll, margins=(0, 0, 0, 0))
        box = QVBoxLayout(middle)
        box.setSpacing(10)
        box.addStretch(2)
        box.addWidget(_BreathLine())
        box.addWidget(Label("Nafas", objectName="name"))
        about = Label(
            "Breathing recordings, exact to the count: write the practice, add voice and sound, rehearse it, and "
            "deliver it with proof.",
            objectName="muted",
        )
        box.addWidget(about)
        box.addSpacing(10)
        box.addLayout(self._cards())
        box.addSpacing(12)
        self.lately = QGridLayout()
        self.lately.setVerticalSpacing(2)
        box.addLayout(self.lately)
        row = QHBoxLayout()
        self.open_button = Button("Open a session…")
        self.blank_button = Button("An empty page")
        self.news_button = Button("What is new")
        for button, signal in (
            (self.open_button, self.open), (self.blank_button, self.blank), (self.news_button, self.news),
        ):  # fmt: skip
            button.clicked.connect(lambda _=False, signal=signal: signal.emit())
            row.addWidget(button)
        row.addStretch(1)
        box.addLayout(row)
        hint = Label(
            "Or drop a session, a recording, a folder of clips or labels anywhere in the window.", objectName="muted"
        )
        box.addWidget(hint)
        box.addStretch(3)
        foot = Label(
            "Breathing work can hurt. Nafas measures and checks recordings; it gives no medical advice and does not "
            "replace licensed care. Every session should say: stop and breathe naturally if light-headed or uneasy.",
            objectName="muted",
            wordWrap=True,
        )
        box.addWidget(foot)

    def _cards(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(14)
        self.demo_button = Button("Open the demo", self.demo, kind="primary")
        self.purposes = Choice("Purpose", (None, "for any purpose"), *((key, words.lower()) for key, words in PURPOSES))
        self.purpose_button = Button("Show the library", lambda _: self.purpose.emit(self.purposes.value()))
        self.recording_button = Button("Choose a recording…", self.recording)
        for title, words, parts in (
            (
                "Try the demo",
                "Six minutes for the deck crew of a night ferry, between two crossings, in a recorded voice. Play it, "
                "change what you like: it is a copy.",
                (self.demo_button,),
            ),
            (
                "Start from a purpose",
                "Choose a purpose and a length. Ready sessions and patterns come with their cautions and are fitted to "
                "that length.",
                (self.purposes, self.purpose_button),
            ),
            (
                "Take a recording",
                "Choose a recording that was made by ear. Nafas recognises and compares its cues and counts, and makes "
                "an exact session from it, with its own voice.",
                (self.recording_button,),
            ),
        ):
            row.addWidget(_card(title, words, parts), 1)
        return row

    def show_recent(self, paths: Sequence[Path], news: bool) -> None:
        """Show recent sessions, and whether something is new."""
        for widget in emptied(self.lately):
            widget.deleteLater()  # it may be the one that was just clicked
        if paths:
            self.lately.addWidget(Label("Recent", objectName="section"), 0, 0)
        for index, path in enumerate(paths[:_MOST], 1):
            button = Button(path.stem, lambda _=False, path=path: self.recent.emit(path), kind="link", tip=str(path))
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            self.lately.addWidget(button, index, 0, Qt.AlignmentFlag.AlignLeft)
            where = Label(short_path(path.parent), objectName="muted")
            where.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            self.lately.addWidget(where, index, 1)
        self.lately.setColumnStretch(1, 1)
        self.news_button.setText("What is new •" if news else "What is new")


def _card(title: str, words: str, parts: Sequence[QWidget]) -> QFrame:
    card = frame("card")
    card.setMinimumHeight(_CARD_HIGH)
    text = Label(words, wordWrap=True)
    fill(QVBoxLayout(card), Label(title, objectName="heading"), text, None, *parts, spacing=8, margins=(18, 14, 18, 16))
    return card


class _BreathLine(QWidget):
    """A round of the page across the whole width: in, hold, and a long way out."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(76)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours, wide, high = theme(), self.width() - 8, self.height() - 16
        points = [QPointF(4 + x * wide, 8 + y * high) for x, y in _STOPS]
        tints = (colours.inhale, colours.hold, colours.exhale)
        line = QPainterPath(points[0])
        for (begin, end), tint in zip(pairwise(points), tints):
            part = QPainterPath(begin)
            middle = (begin.x() + end.x()) / 2
            for path in (part, line):
                path.cubicTo(QPointF(middle, begin.y()), QPointF(middle, end.y()), end)
            part.lineTo(end.x(), 8 + high)
            part.lineTo(begin.x(), 8 + high)
            painter.fillPath(part, tint)
        painter.setPen(QPen(colours.ink, 2.2))
        painter.drawPath(line)
        painter.end()
