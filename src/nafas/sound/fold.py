"""A programme on one loudspeaker: both channels as one, and what is lost by it."""

import math

import numpy as np
from numpy.typing import NDArray

from nafas.sound.loudness import coarse, integrated_loudness, sliding
from nafas.sound.measure import Measured, Programme

_HEARD = 20.0  # LU under the programme's loudness over which a moment counts


class Folded:
    """Both channels of a programme as one, each at half its strength: what sounds in both keeps its level."""

    channels = 1

    def __init__(self, programme: Programme) -> None:
        self._programme = programme
        self.rate, self.length = programme.rate, programme.length

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Frames `start` to `start + frames`, shape (1, frames)."""
        folded: NDArray[np.float32] = self._programme.read(start, frames).mean(axis=0, keepdims=True)
        return folded


def fold_loss(measured: Measured) -> tuple[float, float, float]:
    """What a stereo programme loses on one loudspeaker, in LU: on the whole, and in the 400 ms where it loses most;
    and where that is, in seconds. What sounds alike in both channels loses nothing; what sounds in one alone, 3 LU.

    Only moments that are no more than 20 LU under the whole count. 0, 0, 0 for one channel or silence.
    """
    mids = measured.mids
    if not len(mids) or not math.isfinite(measured.loudness):
        return 0.0, 0.0, 0.0
    whole = measured.loudness - integrated_loudness(coarse(2 * mids))
    both, one = sliding(measured.fine, 0.4), sliding(2 * mids, 0.4)
    heard = both > measured.loudness - _HEARD
    if not heard.any():
        return whole, 0.0, 0.0
    lost = np.where(heard, both - one, -np.inf)
    worst = int(lost.argmax())
    return whole, float(lost[worst]), worst * 0.02 + 0.2
