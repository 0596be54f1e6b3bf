"""The call sheet in large type: to read aloud from, a line at a time, going on by a key or by itself."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDoubleSpinBox, QVBoxLayout, QWidget

from nafas.desk.takes.prompt import Prompt
from nafas.desk.widgets.controls import Button, Tick, across, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.labels import Label
from nafas.voice.call_sheet import Line


class ReadingDialog(Dialog):
    """Advances through the lines, each as often as takes are wanted."""

    help_place = "takes#The way"

    def __init__(self, lines: Sequence[Line], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Read the call sheet")
        self.resize(980, 620)
        self.lines = list(lines)
        self.place, self.time = 0, 1
        self.count = Label(objectName="muted")
        self.prompt = Prompt()
        self.by_itself = Tick("Go on by itself, every")
        self.by_itself.toggled.connect(self._wind)
        self.seconds = QDoubleSpinBox()
        self.seconds.setAccessibleName("Seconds from line to line")
        self.seconds.setRange(1.0, 30.0)
        self.seconds.setValue(3.0)
        self.seconds.setSuffix(" s")
        self.seconds.valueChanged.connect(self._wind)
        foot = across(self.by_itself, self.seconds, None)
        self.back_button, self.next_button = Button("Back  ←"), Button("Next  Space", kind="primary")
        for button, by in ((self.back_button, -1), (self.next_button, 1)):
            button.setAutoDefault(False)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, by=by: self.go(by))
            foot.addWidget(button)
        fill(QVBoxLayout(self), self.count, (self.prompt, 1), foot, spacing=12, margins=(22, 16, 22, 16))
        self._timer = QTimer(self)
        self._timer.timeout.connect(lambda: self.go(1))
        self._show()

    def go(self, by: int) -> None:
        """The next reading, or the one before; stays at either end."""
        steps = [(index, time) for index, line in enumerate(self.lines) for time in range(1, line.wanted + 1)]
        if not steps:
            return
        now = steps.index((self.place, self.time))
        self.place, self.time = steps[min(max(0, now + by), len(steps) - 1)]
        if now == len(steps) - 1 and by > 0:
            self.by_itself.setChecked(False)
            self.prompt.show_cue("That was the last line", False)
            return
        self._show()

    def _wind(self) -> None:
        self._timer.stop()
        if self.by_itself.isChecked():
            self._timer.start(round(1000 * self.seconds.value()))

    def _show(self) -> None:
        if not self.lines:
            self.count.setText("The call sheet is empty: write talk or a breath set first.")
            return
        line = self.lines[self.place]
        after = self.lines[self.place + 1].text if self.place + 1 < len(self.lines) else ""
        facts = f"within {line.room:.2f} s from its beat" if line.room is not None else "in your own time"
        again = f"take {self.time} of {line.wanted}" if line.wanted > 1 else ""
        self.prompt.show_line(line.text, after, facts)
        self.prompt.show_cue(again, False)
        self.count.setText(f"Line {self.place + 1} of {len(self.lines)}")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ahead = (Qt.Key.Key_Space, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_PageDown)
        if event.key() in ahead:
            self.go(1)
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Backspace, Qt.Key.Key_PageUp):
            self.go(-1)
        else:
            super().keyPressEvent(event)
