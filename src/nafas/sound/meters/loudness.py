"""Integrated loudness by ITU-R BS.1770-4: K-weighting, 400 ms gating blocks at 75 % overlap, two gates.

Also the maxima of momentary (400 ms) and short-term (3 s) loudness, and the loudness range, by EBU Tech 3341 and 3342.
Feed consecutive blocks; memory grows by 24 bytes for each 20 ms. Signals are float arrays of shape (channels, n),
full scale 1.0, every channel weighted 1 (mono, stereo).
"""

import math

import numpy as np
from numpy.typing import NDArray

from nafas.sound.meters.k_weighting import KPowers

_ABSOLUTE_GATE = -70.0
_RELATIVE_GATE = -10.0
_RANGE_GATE = -20.0
_OFFSET = -0.691
SETTLED = 0.5
"""Seconds after which the filter's start is forgotten to less than one part in 10**9 of its power."""


class LoudnessMeter:
    """Measures integrated loudness of a stream.

    Args:
        rate: samples a second; a multiple of 50, so that 20 ms is whole.
        channels: 1 or 2.
    """

    def __init__(self, rate: int, channels: int = 2) -> None:
        if rate % 50:
            raise ValueError(f"rate {rate} is no multiple of 50")
        self._hop = rate // 50
        self._filter, self._channels = KPowers(rate, channels, self._hop), channels
        self._left = np.zeros((channels, 0), np.float32)
        self._powers: list[NDArray[np.float64]] = []
        self._mids: list[NDArray[np.float64]] = []
        self._lefts: list[NDArray[np.float64]] = []

    def push(self, block: NDArray[np.floating]) -> None:
        """Take the next samples, shape (channels, n), any n."""
        if self._left.shape[1]:
            block = np.concatenate([self._left, block], axis=1)
        whole = block.shape[1] // self._hop * self._hop
        if whole:
            left, right, cross = self._filter(block[:, :whole]).T
            if self._channels == 1:
                self._powers.append(left)
            else:
                self._powers.append(left + right)
                self._lefts.append(left)
                self._mids.append(self._powers[-1] / 4 + cross / 2)
        self._left = np.array(block[:, whole:], np.float32)

    def settle(self, block: NDArray[np.floating]) -> None:
        """Run the filter over the samples before the first ones to be measured, without measuring them; what is no
        whole number of 20 ms is left out at their beginning."""
        self._filter(block[:, block.shape[1] % self._hop :])

    @property
    def fine(self) -> NDArray[np.float64]:
        """K-weighted power of each whole 20 ms so far, summed over channels, shape (steps,)."""
        return np.concatenate([*self._powers, np.zeros(0)])

    @property
    def mids(self) -> NDArray[np.float64]:
        """The same of both channels folded into one, (left + right) / 2; () for one channel."""
        return np.concatenate([*self._mids, np.zeros(0)])

    @property
    def lefts(self) -> NDArray[np.float64]:
        """The same of the left channel alone; () for one channel."""
        return np.concatenate([*self._lefts, np.zeros(0)])

    @property
    def powers(self) -> NDArray[np.float64]:
        """K-weighted power of each whole 100 ms so far, summed over channels, shape (hops,)."""
        return coarse(self.fine)

    def integrated(self) -> float:
        """Gated loudness so far in LUFS; -inf when nothing is above the absolute gate."""
        return integrated_loudness(self.powers)


def integrated_loudness(powers: NDArray[np.float64]) -> float:
    """Gated loudness in LUFS from the K-weighted powers of consecutive 100 ms; -inf for silence or under 400 ms."""
    if len(powers) < 4:
        return -math.inf
    blocks = np.convolve(powers, np.full(4, 0.25), mode="valid")
    loud = blocks[blocks > 10 ** ((_ABSOLUTE_GATE - _OFFSET) / 10)]
    if not len(loud):
        return -math.inf
    gate = loud.mean() * 10 ** (_RELATIVE_GATE / 10)
    return float(_OFFSET + 10 * np.log10(loud[loud > gate].mean()))


def coarse(fine: NDArray[np.float64]) -> NDArray[np.float64]:
    """Powers of whole 100 ms from those of 20 ms."""
    whole: NDArray[np.float64] = fine[: len(fine) // 5 * 5].reshape(-1, 5).mean(axis=1)
    return whole


def sliding(fine: NDArray[np.float64], seconds: float) -> NDArray[np.float64]:
    """Loudness in LUFS over every `seconds` of sound, a step of 20 ms apart; () where there is less. 0.4: momentary; 3:
    short-term (EBU Tech 3341). Silence is -inf."""
    steps = round(seconds * 50)
    if len(fine) < steps:
        return np.zeros(0)
    sums = np.concatenate([[0.0], np.cumsum(fine)])
    means = np.maximum(sums[steps:] - sums[:-steps], 0) / steps
    with np.errstate(divide="ignore"):
        values: NDArray[np.float64] = _OFFSET + 10 * np.log10(means)
    return values


def loudness_range(fine: NDArray[np.float64]) -> float:
    """Loudness range in LU by EBU Tech 3342: from the 10th to the 95th percentile of short-term loudness, over an
    absolute gate of -70 LUFS and a relative one 20 LU under what is left; 0 where there is less than 3 s of it."""
    short = sliding(fine, 3.0)[::5]
    short = short[short > _ABSOLUTE_GATE]
    if not len(short):
        return 0.0
    gate = 10 * np.log10(np.mean(10 ** (short / 10))) + _RANGE_GATE
    low, high = np.quantile(short[short > gate], (0.10, 0.95))
    return float(high - low)
