"""A dialog that does one long piece of work on a thread of its own, with progress and cancel."""

from collections.abc import Callable
from typing import ClassVar

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QDialog, QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from nafas.desk.widgets.labels import Label
from nafas.desk.work.background import Background, Note, Outcome
from nafas.errors import InputError


class WorkDialog(QDialog):
    """The frame: a bar, what came of the work in words, Close (or Cancel) and the button that starts it.

    Subclasses build what stands above in `box`, may put more buttons into the `foot`, say in `begin` what is to be
    done, and in `ended` what to tell of it.
    """

    stages: ClassVar[dict[str, tuple[int, int]]] = {}
    """Per cent of the bar that each stage of the work takes: from and to."""
    cancelled = "Cancelled."
    failed = "Not done."

    def __init__(self, title: str, start: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.background = Background(title, self)
        self.background.progress.connect(self._show_progress)
        self.background.ended.connect(self._show_end)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(20, 16, 20, 16)
        outer.setSpacing(10)
        self.box = QVBoxLayout()
        self.box.setSpacing(10)
        outer.addLayout(self.box)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.hide()
        outer.addWidget(self.bar)
        self.result = Label()
        self.result.setWordWrap(True)
        self.result.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        self.result.hide()
        outer.addWidget(self.result)
        self.foot = foot = QHBoxLayout()
        foot.addStretch(1)
        self.close_button, self.start = QPushButton("Close"), QPushButton(start, objectName="primary")
        self.close_button.setAutoDefault(False)
        self.close_button.clicked.connect(self.reject)
        self.start.setDefault(True)
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
        self.result.hide()
        self.bar.setValue(0)
        self.bar.show()
        self.start.setEnabled(False)
        self.close_button.setText("Cancel")
        self.background.run(work)

    def _show_progress(self, stage: str, done: float) -> None:
        low, high = self.stages[stage]
        self.bar.setValue(int(low + (high - low) * done))
        self.bar.setFormat(f"{stage} … %p%")

    def _show_end(self, outcome: Outcome) -> None:
        self.bar.hide()
        self.start.setEnabled(True)
        self.close_button.setText("Close")
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
        """Show words below the bar."""
        self.result.setObjectName("fault" if fault else "")
        self.result.style().polish(self.result)
        self.result.setText(text)
        self.result.show()
        self._fit()
        QTimer.singleShot(0, self._fit)  # once more when the words have been wrapped to the width that came of it

    def _fit(self) -> None:
        """As high as its parts need at this width, whatever share of the screen that is."""
        layout = self.layout()
        layout.activate()
        width = max(self.width(), layout.minimumSize().width())
        self.resize(width, max(layout.totalHeightForWidth(width), layout.minimumSize().height()))

    def reject(self) -> None:
        if self.running:
            self.background.cancel()
            self.close_button.setEnabled(False)
            self.bar.setFormat("stopping …")
        else:
            super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.running:
            self.reject()
            event.ignore()
        else:
            super().closeEvent(event)
