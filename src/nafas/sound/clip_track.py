"""Sounds in their places, summed where they overlap."""

from bisect import bisect_left
from types import EllipsisType
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray


class Sliced(Protocol):
    """Samples that are read as they are asked for: an array's shape, and slices of its last axis."""

    @property
    def shape(self) -> tuple[int, ...]: ...
    def __getitem__(self, part: "tuple[EllipsisType, slice]", /) -> NDArray[np.float32]: ...


class PlacedClip(NamedTuple):
    """One sound in its place: `samples` of shape (n,) for both sides or (2, n), in memory or on the disk; `gain`
    linear."""

    start: int
    samples: NDArray[np.float32] | Sliced
    gain: float = 1.0


class Track:
    """Sounds sorted by start, summed where they overlap."""

    def __init__(self, sounds: list[PlacedClip]) -> None:
        self.sounds = sorted(sounds, key=lambda sound: sound.start)
        self._starts = [sound.start for sound in self.sounds]
        self._longest = max((sound.samples.shape[-1] for sound in self.sounds), default=0)

    def add_to(self, out: NDArray[np.float32], start: int) -> None:
        """Add what sounds from sample `start` on to `out`, shape (2, frames)."""
        frames = out.shape[1]
        first = bisect_left(self._starts, start - self._longest)
        last = bisect_left(self._starts, start + frames)
        for sound in self.sounds[first:last]:
            begin = max(start, sound.start)
            end = min(start + frames, sound.start + sound.samples.shape[-1])
            if begin < end:
                piece = sound.samples[..., begin - sound.start : end - sound.start]
                out[:, begin - start : end - start] += piece if sound.gain == 1.0 else piece * np.float32(sound.gain)
