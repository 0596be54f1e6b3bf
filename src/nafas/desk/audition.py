"""Plays a short sound to judge it by: a take, a take against clicks, eight counts."""

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from nafas.desk.outputs import SilentCard, SoundCard, open_output
from nafas.voice.clip import Samples


class Audition(QObject):
    """Signals: playing_changed; moved: seconds into what is played."""

    playing_changed = Signal(bool)
    moved = Signal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._samples = np.zeros(0, np.float32)
        self._rate = 48_000
        self._card: SilentCard | SoundCard | None = None
        self._sent = 0
        self._timer = QTimer(self, interval=15)
        self._timer.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        return self._card is not None

    def play(self, samples: Samples, rate: int) -> None:
        """Play mono samples from their start, instead of what is playing."""
        self.stop()
        if not len(samples):
            return
        self._samples, self._rate, self._sent = samples, rate, 0
        self._card = open_output(rate)
        self._tick()
        self._timer.start()
        self.playing_changed.emit(True)

    def stop(self) -> None:
        self._timer.stop()
        if self._card is not None:
            self._card.stop()
            self._card = None
            self.playing_changed.emit(False)

    def _tick(self) -> None:
        card = self._card
        if card is None:
            return
        if card.failed():
            self.stop()
            return
        frames = min(card.free(), len(self._samples) + self._rate // 10 - self._sent)
        if frames > 0:
            block = np.zeros(frames, np.float32)
            part = self._samples[self._sent : self._sent + frames]
            block[: len(part)] = part
            card.write(np.repeat(block, 2).tobytes())
            self._sent += frames
        place = card.sounded()
        self.moved.emit(min(place, len(self._samples)) / self._rate)
        if place >= len(self._samples):
            self.stop()
