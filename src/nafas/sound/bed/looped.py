"""Layers of loops without seams: what every generated bed is, readable from any place at once.

A loop that went round and round would come back every few seconds for all to hear. So a layer of noise or of events
wanders: it is played in laps, each from a place of its own, over into each other at equal power. What is heard at one
moment comes back, if at all, at another distance each time, and no loop is longer for it.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from nafas import native
from nafas.sound.stereo import Stereo
from nafas.voice.level import SPEECH_LEVEL

BED_LEVEL = SPEECH_LEVEL
"""LUFS of a bed at unit gain: the level the voice is brought to, so that gains read as LU against it."""


LOOPS = 64 * 2**20
"""Bytes of loops that each kind of generated bed may keep."""
_OVER = 0.15
"""Part of a loop over which a lap goes over into the next: 2.5 to 6 s (our own)."""


class LoopedBed:
    """Layers of loops, readable from any place at once.

    Attributes:
        loops: arrays of shape (2, n), float32, each its own length.
        wandering: for each, whether it is played in laps; tones that sound throughout are not, they would beat.
        seed: of the laps.
    """

    def __init__(self, loops: tuple[Stereo, ...], wandering: Sequence[bool] = (), seed: int = 0) -> None:
        self.loops = loops
        self.wandering = tuple(wandering) or (False,) * len(loops)
        self.seed = seed

    def read(self, start: int, frames: int) -> Stereo:
        """Frames `start` to `start + frames` of the endless bed, shape (2, frames)."""
        out = np.zeros((2, frames), np.float32)
        for number, (loop, wanders) in enumerate(zip(self.loops, self.wandering)):
            if wanders:
                self._laps(out, number, start)
            else:
                add_around(out, loop, start % loop.shape[1])
        return out

    def _laps(self, out: Stereo, number: int, start: int) -> None:
        """Add a wandering layer from frame `start` on: of each lap what is in `out`, and the end of the one before."""
        loop = self.loops[number]
        length, frames = loop.shape[1], out.shape[1]
        over = round(_OVER * length)
        lap = length - over
        for index in range(start // lap, (start + frames - 1) // lap + 1):
            begin = index * lap - start  # of the lap, in `out`
            first, end = max(0, begin), min(frames, begin + lap)
            _add(out[:, first:end], loop, self._offset(number, index), first - begin, over, False)
            if (last := min(end, begin + over)) > first:
                before = self._offset(number, index - 1) + lap
                _add(out[:, first:last], loop, before, first - begin, over, True)

    def _offset(self, number: int, index: int) -> int:
        """Where in its loop a lap of a layer begins."""
        return int(_share(self.seed, number, index % 2**32) * self.loops[number].shape[1])


@lru_cache(maxsize=4096)
def _share(*place: int) -> float:
    return float(np.random.default_rng(place).random())


@lru_cache(maxsize=8)
def _fades(over: int) -> tuple[np.ndarray, np.ndarray]:
    """Gains of a lap's beginning and of the end of the one before, shape (over,) each; their squares make one."""
    turn = (np.arange(over, dtype=np.float64) + 0.5) / over * (np.pi / 2)
    return np.sin(turn).astype(np.float32), np.cos(turn).astype(np.float32)


def _add(out: Stereo, loop: Stereo, offset: int, at: int, over: int, ends: bool) -> None:
    """Add a piece of a lap, `at` frames from its beginning, faded in (or, where the lap `ends`, out) over `over`."""
    faded = min(out.shape[1], max(0, over - at))
    if faded:
        add_around(out[:, :faded], loop, (offset + at) % loop.shape[1], _fades(over)[ends][at : at + faded])
    if faded < out.shape[1]:
        add_around(out[:, faded:], loop, (offset + at + faded) % loop.shape[1])


def add_around(out: Stereo, loop: Stereo, at: int, gains: np.ndarray | None = None) -> None:
    """Add a loop from one of its frames on, times `gains` where they are given."""
    length, frames = loop.shape[1], out.shape[1]
    if native.available() and out.strides[1] == loop.strides[1] == 4:
        native.add_around(out, loop, at, gains)
        return
    done = 0
    while done < frames:
        n = min(length - at, frames - done)
        piece = loop[:, at : at + n]
        out[:, done : done + n] += piece if gains is None else piece * gains[done : done + n]
        done, at = done + n, 0


def size_of_bed(bed: LoopedBed) -> int:
    """Bytes of its loops."""
    return sum(loop.nbytes for loop in bed.loops)
