"""What can be recorded from: the machine's microphones by PortAudio, and the practice microphone that ships."""

import threading
import time
from collections.abc import Callable
from functools import partial

import numpy as np

from nafas.desk.audio import devices
from nafas.desk.audio.devices import Device
from nafas.log import logger
from nafas.voice.clip import Samples
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.recording.practice import Manners
from nafas.voice.recording.practice_microphone import PracticeMicrophone

_SILENT_AFTER = 3.0  # seconds without a sample after which a microphone is gone
_BUFFER = 0.4  # seconds that PortAudio keeps
_PIECE = 0.02  # seconds read at once
_MOST = 60.0  # seconds kept for a window that does not fetch them


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
        self._performance: Samples | None = None

    def perform(self, samples: Samples) -> None:
        """Let the reader perform what is known, from now on."""
        self._performance, self._began, self._given = samples, time.monotonic(), 0

    def ask(self, text: str) -> None:
        """Let the reader see the line."""
        self.device.ask(text)

    def read(self) -> Samples:
        """What was heard since the last time."""
        due = int((time.monotonic() - self._began) * self._speed * self.rate) - self._given
        frames = max(0, min(due, int(self._speed * self.rate) // 2))
        at = self._given
        self._given += max(0, due)
        if self._performance is not None:  # as from a real microphone, a busy window loses nothing of it
            part = self._performance[at : at + max(0, due)]
            return np.concatenate([part, np.zeros(max(0, due) - len(part), np.float32)])
        return self.device.read(frames)

    def stop(self) -> None:
        pass


class Microphone:
    """An input of this machine, one channel of it, listened to on a thread of its own: a busy window loses nothing.

    Raises PortAudio's own errors where it cannot be opened.
    """

    def __init__(self, device: Device) -> None:
        self.name, self.rate = device.name, device.rate
        self._channels = min(2, max(1, device.channels))
        devices.opened()
        try:
            self._stream = devices.portaudio().InputStream(
                samplerate=self.rate, device=device.index, channels=self._channels, dtype="float32", latency=_BUFFER
            )
            self._stream.start()
        except BaseException:
            devices.closed()
            raise
        self._parts: list[Samples] = []
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._broken = False
        self._last = time.monotonic()
        self._thread = threading.Thread(target=self._listen, name=f"listen to {self.name}", daemon=True)
        self._thread.start()

    def _listen(self) -> None:
        piece, most = max(1, round(_PIECE * self.rate)), round(_MOST / _PIECE)
        try:
            while not self._stop.is_set():
                samples, lost = self._stream.read(piece)
                if lost:
                    logger.warning("%s: samples were lost", self.name)
                self._last = time.monotonic()
                with self._lock:
                    self._parts.append(np.array(samples, np.float32).reshape(-1, self._channels))
                    del self._parts[:-most]
        except Exception as error:
            if not self._stop.is_set():
                logger.warning("%s stopped answering: %s", self.name, error)
            self._broken = True

    @property
    def failed(self) -> bool:
        """Whether it went away."""
        return self._broken or time.monotonic() - self._last > _SILENT_AFTER

    def ask(self, text: str) -> None:
        """A person reads the screen."""

    def read(self) -> Samples:
        """What was heard since the last time: the louder channel where there are two."""
        with self._lock:
            parts, self._parts = self._parts, []
        if not parts:
            return np.zeros(0, np.float32)
        samples = np.concatenate(parts)
        return samples[:, int((samples**2).sum(axis=0).argmax())]

    def stop(self) -> None:
        self._stop.set()
        try:
            self._stream.abort()
            self._thread.join(timeout=1.0)
            self._stream.close()
        except Exception as error:
            logger.warning("%s: %s", self.name, error)
        finally:
            devices.closed()


def microphones() -> list[tuple[str, Callable[[], "Practice | Microphone"]]]:
    """What there is to record from, each with what opens it; the practice microphone is always there, last."""
    offered: list[tuple[str, Callable[[], Practice | Microphone]]] = [
        (device.name, partial(Microphone, device)) for device in devices.inputs()
    ]
    return [*offered, (Practice.name, Practice)]
