"""Drop-outs of a few milliseconds in a coded file. Levels over 100 ms do not show them: 5 ms of nothing are 0.2 dB.

Both sounds are cut into windows of 3 ms, 1 ms apart. How much of the master a window still holds is its projection on
it, sum(heard * due) / sum(due * due): an encoder keeps most of it and fills a hole with noise of its own, which says
nothing of the master. Measured on ten masters through MP3, Vorbis, Opus and AAC (handbook/proof.md).
"""

import numpy as np
from numpy.typing import NDArray

_WINDOW = 3  # ms
_AROUND = 50  # ms on either side that say what the file usually keeps there
_KEPT = 0.15  # of the usual projection: less is a hole; of good files no loud window keeps less
_POWER = 0.2  # of the usual power: what is louder is another sound, which levels and places judge
_LOUD, _CLEAR = 0.01, 0.4  # of the programme's power, of that around: what is softer is not judged
_ALIKE = 0.3  # of the master, around: where less is kept it is another sound, or shifted
_JOIN = 4  # ms

CONTEXT = 0.1
"""Seconds of both sounds that are wanted before and after the part that is judged."""


def dropouts(
    heard: NDArray[np.float32], due: NDArray[np.float32], rate: int, power: float
) -> list[tuple[float, float]]:
    """Where a decoded stretch lacks a few milliseconds of what is due.

    Args:
        heard, due: the same stretch of file and mix, shape (channels, n), at any gain.
        rate: samples a second.
        power: mean square of one channel of the whole programme that `due` is from.

    Returns:
        from and to of each, in seconds of the stretch, in order.
    """
    hop = rate // 1000
    count = due.shape[1] // hop
    if count < _WINDOW:
        return []
    holes = np.zeros(count - _WINDOW + 1, bool)
    for mine, wanted in zip(
        heard[:, : count * hop].reshape(-1, count, hop), due[:, : count * hop].reshape(-1, count, hop)
    ):
        products = [
            np.einsum("ij,ij->i", a, b).astype(np.float64) for a, b in ((wanted, wanted), (mine, wanted), (mine, mine))
        ]
        near_due, near_both, near_mine = (_around(each) for each in products)
        of_due, of_both, of_mine = (np.convolve(each, np.ones(_WINDOW), "valid") for each in products)
        judged = (of_due > _LOUD * power * _WINDOW * hop) & (of_due > _CLEAR * _WINDOW * near_due)
        kept = near_both / np.maximum(near_due, 1e-30)
        holes |= (
            judged
            & (kept > _ALIKE)
            & (of_both < _KEPT * kept * of_due)
            & (of_mine * near_due < _POWER * near_mine * of_due)
        )
    begins = np.flatnonzero(holes)
    runs = np.split(begins, np.flatnonzero(np.diff(begins) > _JOIN) + 1) if len(begins) else []
    runs = [run for run in runs if len(run) > 1]  # of 5 ms, at least two windows lie within
    return [(run[0] * hop / rate, (run[-1] + _WINDOW) * hop / rate) for run in runs]


def _around(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """The mean of what lies around each window."""
    sums = np.concatenate([[0.0], np.cumsum(values)])
    middle = np.arange(len(values) - _WINDOW + 1) + _WINDOW // 2
    low, high = np.maximum(middle - _AROUND, 0), np.minimum(middle + _AROUND + 1, len(values))
    means: NDArray[np.float64] = (sums[high] - sums[low]) / (high - low)
    return means
