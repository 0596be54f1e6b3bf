"""Two versions of one session: the open one, and what another program wrote into its file meanwhile."""

from enum import StrEnum

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import Button, across
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.labels import Label


class Answer(StrEnum):
    """Which version goes on."""

    THEIRS = "theirs"
    MINE = "mine"
    BOTH = "both"
    NEITHER = "neither"


class ConflictDialog(Dialog):
    """Says what differs and asks which version is kept; `answer` is NEITHER until a button is pressed.

    Args:
        name: of the file.
        lines: what theirs has that the open session has not, in the script's words.
        trouble: why theirs cannot be read; "" where it can.
        copy: the name under which the open session would be saved next to it.
    """

    help_place = "reliability"

    def __init__(self, name: str, lines: list[str], trouble: str, copy: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Another program changed the file")
        self.setMinimumWidth(620)
        self.answer = Answer.NEITHER
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(8)
        box.addWidget(Label(f"{name} was changed while it was open here", objectName="heading"))
        about = Label(wordWrap=True)
        box.addWidget(about)
        if trouble:
            about.setText(f"The file cannot be read now: {trouble}")
        elif lines:
            about.setText("From your version to the one in the file:")
            self.list = QListWidget()
            self.list.setAccessibleName("What differs")
            self.list.addItems(lines)
            self.list.setWordWrap(True)
            self.list.setSelectionMode(QListWidget.SelectionMode.NoSelection)
            self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.list.setFixedHeight(min(240, 10 + sum(map(self.list.sizeHintForRow, range(len(lines))))))
            box.addWidget(self.list)
        else:
            about.setText("Both say the same; only the file's text differs.")
        box.addSpacing(4)
        for answer, text, words in (
            (
                Answer.BOTH,
                "Save mine as a copy",
                f"Yours goes into {copy}; the file stays as it is now.",
            ),
            (Answer.MINE, "Replace theirs with mine", "The version in the file is lost."),
            (Answer.THEIRS, "Take theirs", "Your version stays one step back: Ctrl+Z brings it here again."),
        ):
            button = Button(
                text, lambda _=False, answer=answer: self._take(answer), kind="primary" if answer is Answer.BOTH else ""
            )
            button.setMinimumWidth(210)
            button.setDefault(answer is Answer.BOTH)
            button.setEnabled(not (trouble and answer is Answer.THEIRS))
            said = Label(words, objectName="muted", wordWrap=True)
            box.addLayout(across(button, (said, 1)))
        later = Button("Decide later", self.reject)
        box.addLayout(across(None, later))

    def _take(self, answer: Answer) -> None:
        self.answer = answer
        self.accept()
