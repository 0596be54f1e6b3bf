"""One long piece of work on a thread of its own, with progress and cancel: what dialogs and views share."""

from collections.abc import Callable
from typing import TYPE_CHECKING, ClassVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.labels import Label
from nafas.desk.widgets.spoken_parts import announce
from nafas.desk.work.background import Background, Note, Outcome
from nafas.errors import InputError
from nafas.tasks.progress import Stages

if TYPE_CHECKING:
    _Widget = QWidget
else:
    _Widget = object  # two classes of Qt cannot be mixed


class Working(_Widget):
    """For a widget: a bar, what came of the work in words, a button that cancels (or closes) and one that starts.

    Subclasses build what stands above in `box`, may put more buttons into the `foot`, say in `begin` what is to be
    done, and in `ended` what to tell of it.
    """

    stages: ClassVar[Stages] = {}
    """The share of the bar that each stage of the work takes; what it does not name takes all of it."""
    cancelled = "Cancelled."
    failed = "Not done."
    idle = "Close"
    """What the button that cancels says while nothing runs; "" where it is hidden then."""

    def set_up_work(self, outer: QVBoxLayout, title: str, start: str) -> None:
        """Make the parts."""
        self.background = Background(title, self)
        self.background.progress.connect(self._show_progress)
        self.background.ended.connect(self._show_end)
        self.box = QVBoxLayout()
        self.box.setSpacing(10)
        outer.addLayout(self.box, 1)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.hide()
        outer.addWidget(self.bar)
        self.outcome = Label(wordWrap=True)
        self.outcome.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        self.outcome.hide()
        outer.addWidget(self.outcome)
        self.foot = foot = QHBoxLayout()
        foot.addStretch(1)
        self.close_button, self.start = Button(self.idle), Button(start, kind="primary")
        self.close_button.setAutoDefault(False)
        self.close_button.setVisible(bool(self.idle))
        self.start.clicked.connect(self.begin)
        foot.addWidget(self.close_button)
        foot.addWidget(self.start)
        outer.addLayout(foot)

    @property
    def running(self) -> bool:
        return self.background.running

    def begin(self) -> None:
        """Start the work."""
        raise TypeError("a dialog says itself what it begins")

    def run(self, work: Callable[[Note], object]) -> None:
        """Do `work` on a thread; it is handed what notes progress, and that raises Cancelled to stop it."""
        if self.running:
            return
        self.outcome.hide()
        self.bar.setValue(0)
        self.bar.show()
        self.start.setEnabled(False)
        self.close_button.setText("Cancel")
        self.close_button.show()
        self.background.run(work)

    def _show_progress(self, stage: str, done: float) -> None:
        low, high = self.stages.get(stage, (0.0, 1.0))
        self.bar.setValue(int(100 * (low + (high - low) * done)))
        self.bar.setFormat(f"{stage} … %p%")

    def _show_end(self, outcome: Outcome) -> None:
        self.bar.hide()
        QApplication.alert(self.window())  # who works elsewhere meanwhile sees that it has ended
        self.start.setEnabled(True)
        self.close_button.setText(self.idle)
        self.close_button.setVisible(bool(self.idle))
        self.close_button.setEnabled(True)
        if isinstance(outcome.error, InputError):
            self.tell(self.refused(outcome.error), fault=True)
        elif outcome.error is not None:
            self.tell(f"{self.failed} {outcome.words}", fault=True)
        elif outcome.cancelled:
            self.tell(self.cancelled, fault=True)
        else:
            self.tell(self.ended(outcome.made))

    def refused(self, error: InputError) -> str:
        """What to tell of work that its input did not allow."""
        return f"{self.failed} {error}"

    def ended(self, made: object) -> str:
        """What to tell of work that is done."""
        return str(made)

    def tell(self, text: str, fault: bool = False) -> None:
        """Show words below the bar, and let a screen reader say them."""
        announce(self, lambda: text)
        self.outcome.setObjectName("fault" if fault else "")
        self.outcome.style().polish(self.outcome)
        self.outcome.setText(text)
        self.outcome.show()

    def stop_work(self) -> None:
        """Ask what runs to stop, and show it."""
        self.background.cancel()
        self.close_button.setEnabled(False)
        self.bar.setFormat("stopping …")
