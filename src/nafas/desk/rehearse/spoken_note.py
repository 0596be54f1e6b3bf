"""A note spoken during a rehearsal: recorded from the chosen microphone into a file next to the session."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from nafas.desk.audio.microphones import Microphone, Practice, microphones
from nafas.errors import InputError
from nafas.files import write_new
from nafas.state.folder import made
from nafas.voice.takebook.writing import flac_bytes

FOLDER = "spoken-notes"
_LONGEST = 60.0
_FETCH_MS = 100
Opens = Callable[[], Practice | Microphone]


class SpokenNote(QObject):
    """Records one note at a time.

    Signals:
        kept: the name of the file that was written.
        failed: why not, for people.
    """

    kept = Signal(str)
    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._device: Practice | Microphone | None = None
        self._parts: list[np.ndarray] = []
        self._folder = Path()
        self._timer = QTimer(self, interval=_FETCH_MS)
        self._timer.timeout.connect(self._fetch)

    @property
    def recording(self) -> bool:
        return self._device is not None

    def begin(self, folder: Path, opens: Opens | None = None) -> None:
        """Begin to record.

        Args:
            folder: that of the session.
            opens: what opens the microphone; None: the first there is, or the practice microphone.
        """
        try:
            self._device = (opens or microphones()[0][1])()
        except Exception as error:
            self.failed.emit(f"The microphone cannot be opened: {error}")
            return
        self._parts, self._folder = [], folder / FOLDER
        self._device.ask("Here it felt rushed.")  # the practice reader says this
        self._timer.start()

    def end(self) -> None:
        """End, and write what was said."""
        device = self._device
        if device is None:
            return
        self._fetch()
        self._timer.stop()
        self._device = None
        device.stop()
        samples = np.concatenate([np.zeros(0, np.float32), *self._parts])
        if len(samples) < device.rate // 5:
            self.failed.emit("Nothing was heard: hold the key while you speak")
            return
        try:
            path = write_new(made(self._folder), "note", ".flac", flac_bytes(samples, device.rate))
        except InputError as error:
            self.failed.emit(str(error))
            return
        self.kept.emit(path.name)

    def _fetch(self) -> None:
        if self._device is None:
            return
        self._parts.append(self._device.read())
        if self._device.failed or sum(map(len, self._parts)) > _LONGEST * self._device.rate:
            self.end()
