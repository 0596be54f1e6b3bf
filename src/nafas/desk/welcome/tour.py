"""A first way through Nafas on the demo: six steps that are done, not read. Each is over once a person has done it."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout

from nafas.desk.widgets.controls import Button, fill
from nafas.desk.widgets.labels import Label
from nafas.desk.widgets.spoken_parts import announce
from nafas.script import BreathSet, Session

_LOOKS = 250  # ms between looks at whether a step is done
_SEEN = 900  # ms for which a step that is done stays, ticked


@dataclass(frozen=True)
class Doing:
    """What a person is doing: the session, whether it plays, the view, and whether a render is open."""

    session: Session
    playing: bool
    view: str
    rendering: bool


@dataclass(frozen=True)
class Step:
    """What is to be done, and whether it is: from what was done as the step began, and what is done now."""

    words: str
    done: Callable[[Doing, Doing], bool]


def _patterns(doing: Doing) -> list[object]:
    return [block.pattern for block in doing.session.blocks if isinstance(block, BreathSet)]


STEPS = (
    Step("Press Space to hear the session.", lambda _, now: now.playing),
    Step(
        "Choose “Long exhale” on the left, click a phase on the page and type a digit: its counts change, and with "
        "them every time after it.",
        lambda begun, now: _patterns(now) != _patterns(begun),
    ),
    Step(
        "Press Ctrl+B, type “box for 2 min” and press Enter: a new set. Ctrl+Z takes it back.",
        lambda begun, now: len(now.session.blocks) > len(begun.session.blocks),
    ),
    Step(
        "Open Takes (Ctrl+3): every line to record, and the beat of each take.",
        lambda _, now: now.view == "takes",
    ),
    Step(
        "Open Review (Ctrl+6): what the words promise and the sets do not keep, with a fix for each.",
        lambda _, now: now.view == "review",
    ),
    Step(
        "Press Ctrl+R: a render writes the file, and proves that every count is in its place.",
        lambda _, now: now.rendering,
    ),
)
_END = "That is the way: write, hear, record, check, render. F1 opens the handbook wherever you are."


class TourBar(QFrame):
    """One step above the page, with a button to leave.

    Signals:
        ended: the tour was left, or its last step is done.
    """

    ended = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self.words = Label(wordWrap=True)
        self.leave_button = Button("Leave the tour", self.leave, kind="small")
        fill(QHBoxLayout(self), (self.words, 1), self.leave_button, margins=(14, 4, 10, 4))
        self._doing: Callable[[], Doing] | None = None
        self._begun: Doing | None = None
        self._step = 0
        self._looks = QTimer(self, interval=_LOOKS)
        self._looks.timeout.connect(self._look)
        self._next = QTimer(self, singleShot=True, interval=_SEEN)
        self._next.timeout.connect(self._go_on)
        self.hide()

    @property
    def step(self) -> int:
        """The number of the step that is shown, from 0; `len(STEPS)` at the end."""
        return self._step

    def begin(self, doing: Callable[[], Doing]) -> None:
        """Show the first step; the demo is open. Args: doing: says what a person is doing."""
        self._doing, self._step = doing, 0
        self.show()
        self._show_step()

    def leave(self) -> None:
        """Put the tour away."""
        self._looks.stop()
        self._next.stop()
        if self.isVisible():
            self.hide()
            self.ended.emit()

    def _show_step(self) -> None:
        assert self._doing is not None
        self._begun = self._doing()
        if self._step < len(STEPS):
            self._say(f"{self._step + 1} of {len(STEPS)}:  {STEPS[self._step].words}")
            self.leave_button.setText("Leave the tour")
            self._looks.start()
        else:
            self._say(_END)
            self.leave_button.setText("Close")

    def _say(self, text: str) -> None:
        self.words.setText(text)
        announce(self, lambda: text)

    def _look(self) -> None:
        if self._doing is not None and self._begun is not None and STEPS[self._step].done(self._begun, self._doing()):
            self._looks.stop()
            self.words.setText(f"\N{CHECK MARK}  {STEPS[self._step].words}")
            self._next.start()

    def _go_on(self) -> None:
        self._step += 1
        self._show_step()
