"""A line above the page that stays until it is answered: what a person must not miss."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout

from nafas.desk.widgets.controls import Button, fill
from nafas.desk.widgets.labels import Label


class NoticeBar(QFrame):
    """Words, a button that deals with them, and one that puts them away.

    Signals:
        acted: the first button was pressed.
    """

    acted = Signal()

    def __init__(self, action: str) -> None:
        super().__init__()
        self.setObjectName("notice")
        self.words = Label(wordWrap=True)
        self.button, later = Button(action), Button("Later")
        self.button.clicked.connect(self.acted)
        later.clicked.connect(self.hide)
        fill(QHBoxLayout(self), (self.words, 1), self.button, later, margins=(14, 4, 10, 4))
        self.hide()

    def tell(self, text: str, action: bool = True) -> None:
        """Show words; without `action` there is nothing to press but Later."""
        self.words.setText(text)
        self.button.setVisible(action)
        self.show()
