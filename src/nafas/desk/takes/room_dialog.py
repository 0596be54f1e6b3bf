"""Check the room before the first line: five seconds of silence, one line, and what to do about what was heard."""

from enum import Enum

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QProgressBar, QVBoxLayout, QWidget

from nafas.desk.audio.microphones import Microphone, Practice
from nafas.desk.takes.meter import Meter
from nafas.desk.widgets.controls import Button, across, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.labels import Label
from nafas.voice.clip import Samples
from nafas.voice.recording.line_endpointer import LineEndpointer
from nafas.voice.recording.room_check import SILENCE_SECONDS, RoomCheck, check_room

_TICK_MS = 30
_AFTER = 1.0  # seconds of room after the line, in which an echo dies away
_LONGEST = 20.0


class Part(Enum):
    """What is being listened to."""

    SILENCE = 1
    LINE = 2
    DONE = 3


_UNKNOWN: RoomCheck | None = None


class RoomDialog(Dialog):
    """Listens to a microphone that belongs to whoever opened it."""

    help_place = "takes#The room"

    def __init__(self, microphone: Practice | Microphone, line: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Check the room")
        self.resize(560, 340)
        self._microphone, self._line = microphone, line
        self.part, self.found = Part.SILENCE, _UNKNOWN
        self._silence: list[Samples] = []
        self._spoken: list[Samples] = []
        self._endpointer = LineEndpointer(microphone.rate, _AFTER)
        self.asked = Label("", objectName="heading", wordWrap=True)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.meter = Meter()
        self.measured = Label(objectName="muted", wordWrap=True)
        self.advice = Label(wordWrap=True)
        self.advice.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.again = Button("Check again", self.begin)
        self.close_button = Button("Close", self.accept, kind="primary")
        fill(
            QVBoxLayout(self),
            self.asked,
            self.progress,
            self.meter,
            self.measured,
            (self.advice, 1),
            across(None, self.again, self.close_button),
            spacing=10,
            margins=(22, 16, 22, 16),
        )
        self._timer = QTimer(self, interval=_TICK_MS)
        self._timer.timeout.connect(self._hear)
        self.begin()

    def begin(self) -> None:
        """Listen from the start."""
        self._microphone.read()  # what lay in its buffer
        self.part, self.found = Part.SILENCE, None
        self._silence, self._spoken = [], []
        self._endpointer = LineEndpointer(self._microphone.rate, _AFTER)
        self.asked.setText("Be silent for five seconds")
        self.progress.show()
        self.measured.setText("The room is listened to: its noise, hum and echo.")
        self.advice.setText("")
        self.again.setEnabled(False)
        self._timer.start()

    def _hear(self) -> None:
        if self._microphone.failed:
            self._timer.stop()
            self.asked.setText("The microphone stopped answering")
            self.measured.setText("Close this, choose a microphone again, and repeat the check.")
            self.again.setEnabled(False)
            return
        samples = self._microphone.read()
        if not len(samples):
            return
        if self.part is Part.SILENCE:
            self._silence.append(samples)
            seconds = sum(map(len, self._silence)) / self._microphone.rate
            self.progress.setValue(round(100 * min(1.0, seconds / SILENCE_SECONDS)))
            quick = LineEndpointer(self._microphone.rate)
            quick.feed(samples)
            self.meter.show_level(quick.level, quick.peak, quick.clipped)
            if seconds >= SILENCE_SECONDS:
                self.part = Part.LINE
                self.asked.setText(f"Now say: {self._line}")
                self.progress.hide()
                self._microphone.ask(self._line)
            return
        self._spoken.append(samples)
        self._endpointer.feed(samples)
        self.meter.show_level(self._endpointer.level, self._endpointer.peak, self._endpointer.clipped)
        if self._endpointer.over or self._endpointer.seconds > _LONGEST:
            self._timer.stop()
            self.part = Part.DONE
            self._show(check_room(np.concatenate(self._silence), np.concatenate(self._spoken), self._microphone.rate))

    def _show(self, check: RoomCheck) -> None:
        self.found = check
        self.asked.setText("The room is good" if not check.advice else "Before the first line")
        self.measured.setText(check.words + ". Levels in dB full scale.")
        self.advice.setText("\n".join(f"•  {each}." for each in check.advice) or "Nothing to do. Keep this distance.")
        self.again.setEnabled(True)

    def done(self, result: int) -> None:
        self._timer.stop()
        super().done(result)

    def closeEvent(self, event: QCloseEvent) -> None:
        self._timer.stop()
        super().closeEvent(event)
