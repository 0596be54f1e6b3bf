"""Plays a short sound to judge it by: a take, a take against clicks, eight counts."""

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from nafas.desk.audio.feeder import Feeder, Read
from nafas.desk.audio.outputs import open_output
from nafas.voice.clip import Samples


class Audition(QObject):
    """Signals: playing_changed; moved: seconds into what is played.

    Attributes:
        samples: what is played from memory, or was last, shape (n,).
        frames, rate: how much of what is played, or was last.
    """

    playing_changed = Signal(bool)
    moved = Signal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.samples, self.frames, self.rate = np.zeros(0, np.float32), 0, 48_000
        self._feeder: Feeder | None = None
        self._timer = QTimer(self, interval=15)
        self._timer.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        return self._feeder is not None

    @property
    def output_name(self) -> str:
        return self._feeder.card.name if self._feeder else ""

    def play(self, samples: Samples, rate: int) -> None:
        """Play mono samples from their start, instead of what is playing."""
        self.stop()
        if not len(samples):
            return
        self.samples = samples

        def read(at: int, frames: int) -> Samples:
            block = np.zeros((2, frames), np.float32)
            part = samples[at : at + frames]
            block[:, : len(part)] = part
            return block

        self.play_from(read, len(samples), rate)

    def play_from(self, read: Read, frames: int, rate: int) -> None:
        """Play what is read while it plays, on the feeder's thread: the window waits for none of it.

        Args:
            read: frames `at` to `at + n`, shape (2, n).
            frames: after which it ends.
        """
        self.stop()
        self.frames, self.rate = frames, rate

        def until_the_end(at: int, number: int) -> Samples:
            block = np.zeros((2, number), np.float32)
            within = min(number, frames - at)
            if within > 0:
                block[:, :within] = read(at, within)
            return block

        self._feeder = Feeder(open_output(rate), until_the_end)
        self._timer.start()
        self.playing_changed.emit(True)

    def stop(self) -> None:
        self._timer.stop()
        if self._feeder is not None:
            self._feeder.stop()
            self._feeder = None
            self.playing_changed.emit(False)

    def _tick(self) -> None:
        if self._feeder is None:
            return
        if self._feeder.card.failed() or self._feeder.error:
            self.stop()
            return
        sounded = self._feeder.card.sounded()
        self.moved.emit(min(sounded, self.frames) / self.rate)
        if sounded >= self.frames:
            self.stop()
