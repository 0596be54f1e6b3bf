"""What is new: the changelog, its newest chapter first."""

from PySide6.QtWidgets import QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.dialog import Dialog
from nafas.state.news import changelog, looked_at


class NewsDialog(Dialog):
    """Shows the changelog; from then on it is no news any more."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("What is new")
        self.resize(760, 620)
        self.text = QTextBrowser()
        self.text.setAccessibleName("What is new")
        self.text.setMarkdown(changelog() or "The changelog is not here.")
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        fill(QVBoxLayout(self), self.text, buttons, margins=(20, 16, 20, 16))
        looked_at()
