"""A dialog that does one long piece of work on a thread of its own, with progress and cancel."""

from PySide6.QtCore import QSize, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from nafas.desk.widgets.dialog import Dialog
from nafas.desk.work.working import Working


class WorkDialog(Working, Dialog):
    """The frame of such a dialog: see `Working`."""

    def __init__(self, title: str, start: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(20, 16, 20, 16)
        outer.setSpacing(10)
        self.set_up_work(outer, title, start)
        self.close_button.clicked.connect(self.reject)
        self.start.setDefault(True)

    def tell(self, text: str, fault: bool = False) -> None:
        super().tell(text, fault)
        self._fit()
        QTimer.singleShot(0, self._fit)  # once more when the words have been wrapped to the width that came of it

    def _fit(self) -> None:
        """As high as its parts need at this width, as far as the screen allows."""
        layout = self.contents()
        layout.activate()
        width = max(self.width(), layout.minimumSize().width())
        self.stay_on_screen(QSize(width, max(layout.totalHeightForWidth(width), layout.minimumSize().height())))

    def reject(self) -> None:
        if self.running:
            self.stop_work()
        else:
            super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.running:
            self.reject()
            event.ignore()
        else:
            super().closeEvent(event)
