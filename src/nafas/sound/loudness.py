"""Integrated loudness by ITU-R BS.1770-4: K-weighting, 400 ms gating blocks at 75 % overlap, two gates.

Feed consecutive blocks; memory grows by 16 bytes for each 100 ms. Signals are float arrays of shape (channels, n),
full scale 1.0, every channel weighted 1 (mono, stereo).
"""

import math

import numpy as np
from numpy.typing import NDArray

_ABSOLUTE_GATE = -70.0
_RELATIVE_GATE = -10.0
_OFFSET = -0.691
SETTLED = 0.5
"""Seconds after which the filter's start is forgotten to less than one part in 10**9 of its power."""


def k_weighting(rate: int) -> NDArray[np.float64]:
    """The K-weighting filter as second-order sections, shape (2, 6).

    BS.1770 tabulates coefficients for 48 kHz alone. These come from the analogue filters behind that table, by
    bilinear transform, and give the table's values at 48 kHz to 1e-8 (parameters: B. De Man, "Evaluation of
    implementations of the EBU R128 loudness measurement", AES 145, 2018).
    """
    gain, q, centre = 3.999843853973347, 0.7071752369554196, 1681.974450955533
    k = math.tan(math.pi * centre / rate)
    high = 10 ** (gain / 20)
    band = high**0.4996667741545416
    a0 = 1 + k / q + k * k
    shelf = [
        (high + band * k / q + k * k) / a0,
        2 * (k * k - high) / a0,
        (high - band * k / q + k * k) / a0,
        1.0,
        2 * (k * k - 1) / a0,
        (1 - k / q + k * k) / a0,
    ]
    q, centre = 0.5003270373238773, 38.13547087602444
    k = math.tan(math.pi * centre / rate)
    a0 = 1 + k / q + k * k
    highpass = [1.0, -2.0, 1.0, 1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0]
    return np.array([shelf, highpass])


class LoudnessMeter:
    """Measures integrated loudness of a stream.

    Args:
        rate: samples a second; a multiple of 10, so that 100 ms is whole.
        channels: 1 or 2.
    """

    def __init__(self, rate: int, channels: int = 2) -> None:
        if rate % 10:
            raise ValueError(f"rate {rate} is no multiple of 10")
        from scipy import signal  # late: importing it takes a second, and the window must not wait for that

        self._filter = signal.lfilter
        # One fourth-order filter runs a third faster than two second-order ones; in double precision the two
        # agree to 1e-9 of the power.
        self._over, self._under = signal.sos2tf(k_weighting(rate))
        self._state = np.zeros((channels, 4))
        self._hop = rate // 10
        self._left = np.zeros((channels, 0))
        self._powers: list[NDArray[np.float64]] = []

    def push(self, block: NDArray[np.floating]) -> None:
        """Take the next samples, shape (channels, n), any n."""
        weighted, self._state = self._filter(self._over, self._under, block, axis=-1, zi=self._state)
        if self._left.shape[1]:
            weighted = np.concatenate([self._left, weighted], axis=1)
        whole = weighted.shape[1] // self._hop * self._hop
        if whole:
            parts = weighted[:, :whole].reshape(len(weighted), -1, self._hop)
            self._powers.append(np.einsum("chs,chs->h", parts, parts) / self._hop)
        self._left = weighted[:, whole:].copy()

    def settle(self, block: NDArray[np.floating]) -> None:
        """Run the filter over the samples before the first ones to be measured, without measuring them."""
        _, self._state = self._filter(self._over, self._under, block, axis=-1, zi=self._state)

    @property
    def powers(self) -> NDArray[np.float64]:
        """K-weighted power of each whole 100 ms so far, summed over channels, shape (hops,)."""
        return np.concatenate([*self._powers, np.zeros(0)])

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
