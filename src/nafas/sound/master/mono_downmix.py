"""A programme on one loudspeaker: both channels as one, and what is lost by it."""

import math

import numpy as np
from numpy.typing import NDArray

from nafas.sound.meters.loudness import coarse, integrated_loudness
from nafas.sound.meters.measure import Measured, Programme

_MOMENT = 4  # steps of 100 ms
_HEARD = 20.0  # LU under the programme's loudness over which a moment counts


class MonoDownmix:
    """Both channels of a programme as one, each at half its strength: what sounds in both keeps its level."""

    channels = 1

    def __init__(self, programme: Programme) -> None:
        self._programme = programme
        self.rate, self.length = programme.rate, programme.length
        self.forkable = getattr(programme, "forkable", False)

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
    if len(mids) < _MOMENT or not math.isfinite(measured.loudness):
        return 0.0, 0.0, 0.0
    whole = max(0.0, measured.loudness - integrated_loudness(2 * mids))
    moment = np.full(_MOMENT, 1 / _MOMENT)
    both, one = (np.convolve(powers, moment, "valid") for powers in (coarse(measured.fine), 2 * mids))
    heard = both > 10 ** ((measured.loudness - _HEARD) / 10)
    if not heard.any():
        return whole, 0.0, 0.0
    ratio = np.where(heard, both / np.maximum(one, 1e-20), 0.0)
    worst = int(ratio.argmax())
    return whole, float(10 * np.log10(ratio[worst])), (worst + _MOMENT / 2) / 10
