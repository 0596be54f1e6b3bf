"""What can be recorded from: the machine's microphones by QtMultimedia, and the practice microphone that ships."""

import os
import time
from collections.abc import Callable

import numpy as np
from PySide6.QtMultimedia import QAudio, QAudioDevice, QAudioFormat, QAudioSource, QMediaDevices

from nafas.voice.cache import CachedEngine
from nafas.voice.clip import Samples
from nafas.voice.espeak import Espeak
from nafas.voice.practice import Manners
from nafas.voice.practice_microphone import PracticeMicrophone

_SILENT_AFTER = 3.0  # seconds without a sample after which a microphone is gone


class Practice:
    """The practice microphone at the pace of the clock."""

    name = PracticeMicrophone.name
    failed = False

    def __init__(self, voice: str = "en-us", seed: int | None = None, speed: float = 1.0) -> None:
        """Args: the engine's voice that reads; a seed for its ways; how much faster than the clock time passes."""
        self._speed = speed
        engine = CachedEngine(Espeak())
        self.device = PracticeMicrophone(engine, Manners(voice=voice), int(time.time()) if seed is None else seed)
        self.rate = self.device.rate
        self._began, self._given = time.monotonic(), 0

    def ask(self, text: str) -> None:
        """Let the reader see the line."""
        self.device.ask(text)

    def read(self) -> Samples:
        """What was heard since the last time."""
        due = int((time.monotonic() - self._began) * self._speed * self.rate) - self._given
        frames = max(0, min(due, int(self._speed * self.rate) // 2))
        self._given += max(0, due)
        return self.device.read(frames)

    def stop(self) -> None:
        pass


class Microphone:
    """An input of this machine, one channel of it."""

    def __init__(self, device: QAudioDevice) -> None:
        self.name = device.description()
        sound = device.preferredFormat()
        if sound.sampleFormat() not in _READ:
            sound.setSampleFormat(QAudioFormat.SampleFormat.Float)
        self.rate, self._channels = sound.sampleRate(), max(1, sound.channelCount())
        self._read = _READ[sound.sampleFormat()]
        self._source = QAudioSource(device, sound)
        self._source.setBufferSize(sound.bytesForDuration(400_000))
        self._io = self._source.start()
        self._last = time.monotonic()

    @property
    def failed(self) -> bool:
        """Whether it could not be opened or went away."""
        gone = (QAudio.Error.OpenError, QAudio.Error.IOError, QAudio.Error.FatalError)
        return self._io is None or self._source.error() in gone or time.monotonic() - self._last > _SILENT_AFTER

    def ask(self, text: str) -> None:
        """A person reads the screen."""

    def read(self) -> Samples:
        """What was heard since the last time: the louder channel where there are two."""
        data = bytes(self._io.readAll().data()) if self._io is not None else b""
        samples = self._read(data)
        samples = samples[: len(samples) // self._channels * self._channels].reshape(-1, self._channels)
        if len(samples):
            self._last = time.monotonic()
        return samples[:, int((samples**2).sum(axis=0).argmax())] if len(samples) else np.zeros(0, np.float32)

    def stop(self) -> None:
        self._source.stop()


_READ: dict[QAudioFormat.SampleFormat, Callable[[bytes], Samples]] = {
    QAudioFormat.SampleFormat.Float: lambda data: np.frombuffer(data[: len(data) // 4 * 4], np.float32).copy(),
    QAudioFormat.SampleFormat.Int16: lambda data: (
        np.frombuffer(data[: len(data) // 2 * 2], np.int16) / np.float32(32768)
    ),
    QAudioFormat.SampleFormat.Int32: lambda data: (
        np.frombuffer(data[: len(data) // 4 * 4], np.int32) / np.float64(2**31)
    ).astype(np.float32),
}


def microphones() -> list[tuple[str, Callable[[], "Practice | Microphone"]]]:
    """What there is to record from, each with what opens it; the practice microphone is always there, last."""
    found: list[tuple[str, Callable[[], Practice | Microphone]]] = []
    if not os.environ.get("NAFAS_SILENT"):
        found = [(d.description(), lambda d=d: Microphone(d)) for d in QMediaDevices.audioInputs() if not d.isNull()]
    return [*found, (Practice.name, Practice)]
