"""Layers of loops without seams: what every generated bed is, readable from any place at once."""

import numpy as np

from nafas.sound.stereo import Stereo
from nafas.voice.level import SPEECH_LEVEL

BED_LEVEL = SPEECH_LEVEL
"""LUFS of a bed at unit gain: the level the voice is brought to, so that gains read as LU against it."""


LOOPS = 64 * 2**20
"""Bytes of loops that each kind of generated bed may keep."""


class LoopedBed:
    """Layers of loops, readable from any place at once.

    Attributes:
        loops: arrays of shape (2, n), float32, each its own length.
    """

    def __init__(self, loops: tuple[Stereo, ...]) -> None:
        self.loops = loops

    def read(self, start: int, frames: int) -> Stereo:
        """Frames `start` to `start + frames` of the endless bed, shape (2, frames)."""
        out = np.empty((2, frames), np.float32) if self.loops else np.zeros((2, frames), np.float32)
        for number, loop in enumerate(self.loops):
            length = loop.shape[1]
            done = 0
            while done < frames:
                at = (start + done) % length
                n = min(length - at, frames - done)
                if number:
                    out[:, done : done + n] += loop[:, at : at + n]
                else:
                    out[:, done : done + n] = loop[:, at : at + n]
                done += n
        return out


def size_of_bed(bed: LoopedBed) -> int:
    """Bytes of its loops."""
    return sum(loop.nbytes for loop in bed.loops)
