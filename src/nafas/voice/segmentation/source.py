"""A recording read in blocks, one channel of it, at any rate: hours long without ever being in memory whole."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.audio_files import AudioReader, sane
from nafas.errors import InputError
from nafas.voice.clip import MAX_RATE, MIN_RATE, Samples
from nafas.voice.segmentation.utterances import RATE

LONGEST = 12 * 3600.0
_BLOCK = 1 << 18
_DEAD = 30.0  # dB by which a side is quieter that carries nothing


class Source:
    """An audio file as one channel.

    Attributes:
        rate: samples a second, as in the file.
        frames: how many.
        clipped: share of samples at full scale, 0 to 1, once it has been read through.

    Raises:
        InputError: missing, not audio, empty, a useless rate, or longer than 12 hours.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._reader = AudioReader(path)
        self.rate, self.frames, self.channels = self._reader.rate, self._reader.frames, self._reader.channels
        if not MIN_RATE <= self.rate <= MAX_RATE:
            raise InputError(str(path), f"has a rate of {self.rate} Hz", f"use {MIN_RATE} to {MAX_RATE} Hz")
        if self.frames < self.rate // 10:
            raise InputError(str(path), "holds no sound to speak of", "choose another recording")
        if self.seconds > LONGEST:
            raise InputError(str(path), f"lasts {self.seconds / 3600:.1f} h", "cut it into parts of at most 12 h")
        self.clipped = 0.0
        self._weights = self._choose_channels()

    @property
    def seconds(self) -> float:
        return float(self.frames / self.rate)

    def place(self, seconds: float) -> str:
        """Where a moment of it is to be found, for people."""
        return f"{self.path.name} at {seconds:.2f} s"

    def _choose_channels(self) -> Samples:
        """How much of each channel is taken: sides that carry nothing are left out, the others averaged."""
        if self.channels == 1:
            return np.ones(1, np.float32)
        power = np.zeros(self.channels)
        for part in np.linspace(0, max(0, self.frames - 4 * self.rate), 12):
            samples = self._read(int(part), 4 * self.rate)
            power += (samples.astype(float) ** 2).sum(axis=0) if len(samples) else 0
        alive = power > power.max() * 10 ** (-_DEAD / 10)
        weights = (alive / max(1, alive.sum())).astype(np.float32)
        return weights if power.max() > 0 else np.full(self.channels, 1 / self.channels, np.float32)

    def _read(self, start: int, frames: int) -> np.ndarray:
        values: np.ndarray = sane(self._reader.read(start, frames))
        return values

    def read(self, start: int, frames: int) -> Samples:
        """Samples `start` to `start + frames`, fewer at the end; shape (n,), float32."""
        return (self._read(max(0, start), frames) @ self._weights).astype(np.float32)

    def blocks(self, rate: int) -> Iterator[Samples]:
        """The whole recording at another rate, block by block."""
        import soxr

        stream = soxr.ResampleStream(self.rate, rate, 1, dtype="float32", quality="HQ")
        clipped = 0
        for at in range(0, self.frames, _BLOCK):
            block = self._reader.read(at, _BLOCK)
            clipped += int((np.abs(block).max(axis=1, initial=0) >= 0.999).sum())
            mono = (sane(block) @ self._weights).astype(np.float32)
            yield stream.resample_chunk(mono, last=at + _BLOCK >= self.frames)
        self.clipped = clipped / max(1, self.frames)


def at_rate(samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """Samples, shape (n,), at the rate at which recordings are listened to."""
    if rate == RATE or not len(samples):
        return samples
    import soxr

    resampled: NDArray[np.float32] = soxr.resample(samples, rate, RATE).astype(np.float32)
    return resampled


def sound(source: Source, begin: float, end: float) -> Samples:
    """A recording between two places, in seconds, at the rate at which recordings are listened to."""
    first = round(begin * source.rate)
    return at_rate(source.read(first, round(end * source.rate) - first), source.rate)
