"""A stand-in's readings brought nearer to the reader's voice, by what has been matched already.

One linear map for all sounds, after C. Leggetter and P. Woodland, "Maximum likelihood linear regression for speaker
adaptation", Computer Speech and Language 9 (1995) 171-185: there of a model's means, here of the frames themselves, by
least squares drawn towards leaving them as they are.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

_DRAWN = 150.0  # frames' worth of leaving the sounds as they are


def adapted(
    readings: NDArray[np.float32], heard: NDArray[np.float32], pairs: Sequence[tuple[int, int]]
) -> NDArray[np.float32]:
    """The readings of one voice as the reader might have said them.

    Args:
        readings: features of every line, shape (lines, FRAMES, d).
        heard: features of every span, shape (spans, FRAMES, d).
        pairs: (line, span) of what is matched; with none the readings stay as they are.
    """
    if not pairs:
        return readings
    theirs, ours = [], []
    for line, span in pairs:
        path = _path(readings[line], heard[span])
        ours.append(readings[line][path[:, 0]])
        theirs.append(heard[span][path[:, 1]])
    x, y = np.concatenate(ours).astype(np.float64), np.concatenate(theirs).astype(np.float64)
    shift = y.mean(axis=0) - x.mean(axis=0)
    centred, wanted = x - x.mean(axis=0), y - y.mean(axis=0)
    moved = np.linalg.solve(centred.T @ centred + _DRAWN * np.eye(x.shape[1]), centred.T @ (wanted - centred))
    found = readings + (readings - x.mean(axis=0)) @ moved + shift
    return np.asarray(found, np.float32)


def _path(one: NDArray[np.float32], other: NDArray[np.float32]) -> NDArray[np.int64]:
    """The best path through two readings by dynamic time warping: pairs of frames, shape (steps, 2)."""
    local = np.sqrt(((one[:, None] - other[None]) ** 2).mean(axis=2))
    size = len(local)
    cost = np.full((size + 1, size + 1), np.inf)
    cost[0, 0] = 0.0
    for i in range(size):
        for j in range(max(0, i - 9), min(size, i + 10)):
            cost[i + 1, j + 1] = local[i, j] + min(cost[i, j] + local[i, j], cost[i, j + 1], cost[i + 1, j])
    i = j = size
    steps = []
    while i and j:
        steps.append((i - 1, j - 1))
        ways = (cost[i - 1, j - 1], cost[i - 1, j], cost[i, j - 1])
        best = int(np.argmin(ways))
        i, j = (i - 1, j - 1) if best == 0 else (i - 1, j) if best == 1 else (i, j - 1)
    return np.array(steps[::-1])
