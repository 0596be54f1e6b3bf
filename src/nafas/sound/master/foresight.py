"""The gain at which a limited master meets its loudness, foreseen from the peaks of the mix.

The limiter's gain follows the peaks of the mix, and those grow with the master gain: so what the limiter takes away at
any gain is calculated from peaks that are read once. Sample peaks stand for true peaks here; what that misses is nearly
the same at every gain, and the first measurement shows it.
"""

import math

import numpy as np
from numpy.typing import NDArray

from nafas.parallel.shares import Tell, in_shares
from nafas.sound.master.limiter import MARGIN, REACH
from nafas.sound.meters.loudness import coarse, integrated_loudness
from nafas.sound.meters.measure import BLOCK, Measured, Programme, Progress
from nafas.sound.meters.true_peak import PIECE
from nafas.voice.level import gain_curve

GAIN_PLACES = 3
"""Decimal places of a master gain in dB: what machines measure differs by less, so their files are the same."""
_AT_ONCE = 1 << 16  # pieces
_STEPS, _CLOSE = 30, 5e-3  # at most; LU


class Foresight:
    """What a mix measures when it is limited, foreseen.

    Args:
        mix: to be limited, at its own level.
        plain: what it measures.
        ceiling: dBTP.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        Cancelled: when `progress` does.
    """

    def __init__(self, mix: Programme, plain: Measured, ceiling: float, progress: Progress) -> None:
        self._fine, self._ceiling = plain.fine, 10 ** ((ceiling - MARGIN) / 20)
        self._hop = mix.rate / 50 / PIECE
        self._peaks = _peaks(mix, progress)

    def loudness(self, gain: float) -> float:
        """LUFS at a gain in dB."""
        return integrated_loudness(coarse(self._fine * self._kept(10 ** (gain / 20))) * 10 ** (gain / 10))

    def gain_to(self, target: float, most: float) -> float:
        """The gain in dB, at most `most`, at which it comes to `target` LUFS; found by regula falsi."""
        low, high = target - self.loudness(0.0) - 1.0, most
        under, over = self.loudness(low) - target, self.loudness(most) - target
        if over <= 0:
            return most
        for _ in range(_STEPS):
            gain = low + (high - low) * min(0.9, max(0.1, under / (under - over)))
            missed = self.loudness(gain) - target
            if abs(missed) < _CLOSE:
                break
            if missed < 0:
                low, under = gain, missed
            else:
                high, over = gain, missed
        return round(gain, GAIN_PLACES)

    def _kept(self, gain: float) -> NDArray[np.float64]:
        """The part of each 20 ms's power that the limiter leaves, at a linear gain."""
        kept = [np.zeros(1)]
        for at in range(0, len(self._peaks), _AT_ONCE):
            before = min(at, 2 * REACH)
            part = self._peaks[at - before : at + _AT_ONCE + 2 * REACH].astype(np.float64) * gain
            if part.max() <= self._ceiling:
                kept.append(np.ones(min(_AT_ONCE, len(self._peaks) - at)))
                continue
            curve = gain_curve(np.minimum(1.0, self._ceiling / np.maximum(part, 1e-12)), REACH)
            kept.append(np.square(curve[before : before + _AT_ONCE]))
        # Runs of 20 ms need not be whole pieces: their means come from the running sum.
        sums = np.cumsum(np.concatenate(kept))
        edges = np.arange(len(self._fine) + 1) * self._hop
        means: NDArray[np.float64] = np.diff(np.interp(edges, np.arange(len(sums)), sums)) / self._hop
        return means


def _peaks(mix: Programme, progress: Progress) -> NDArray[np.float16]:
    """The highest sample of each run of `PIECE`, over the channels; in half precision: three hours have 8 million."""
    step = math.lcm(BLOCK, PIECE)

    def part(start: int, tell: Tell) -> NDArray[np.float16]:
        block = mix.read(start, min(step, mix.length - start))
        highest = np.maximum(block.max(axis=0), -block.min(axis=0))
        tell(block.shape[1])
        return np.maximum.reduceat(highest, np.arange(0, len(highest), PIECE)).astype(np.float16)

    forkable = getattr(mix, "forkable", False)
    return np.concatenate(in_shares(part, range(0, mix.length, step), mix.length, progress, forkable))
