"""A stand-in's readings brought nearer to the reader's voice, by what has been matched already.

One linear map for all sounds, after C. Leggetter and P. Woodland, "Maximum likelihood linear regression for speaker
adaptation", Computer Speech and Language 9 (1995) 171-185: there of a model's means, here of the frames themselves, by
least squares drawn towards leaving them as they are.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from nafas.voice.segmentation.features import BAND

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
    lines, spans = np.array(pairs).T
    theirs, ours = [], []
    for (line, span), path in zip(pairs, _paths(readings[lines], heard[spans])):
        ours.append(readings[line][path[:, 0]])
        theirs.append(heard[span][path[:, 1]])
    x, y = np.concatenate(ours).astype(np.float64), np.concatenate(theirs).astype(np.float64)
    shift = y.mean(axis=0) - x.mean(axis=0)
    centred, wanted = x - x.mean(axis=0), y - y.mean(axis=0)
    moved = np.linalg.solve(centred.T @ centred + _DRAWN * np.eye(x.shape[1]), centred.T @ (wanted - centred))
    result = readings + (readings - x.mean(axis=0)) @ moved + shift
    return np.asarray(result, np.float32)


def _paths(these: NDArray[np.float32], those: NDArray[np.float32]) -> list[NDArray[np.int64]]:
    """The best path through each pair of readings by dynamic time warping: pairs of frames, shape (steps, 2).

    Args:
        these, those: shape (pairs, FRAMES, d).
    """
    size = these.shape[1]
    local = np.sqrt(((these[:, :, None] - those[:, None]) ** 2).mean(axis=3)).transpose(1, 2, 0).copy()
    cost = np.full((size + 1, size + 1, len(these)), np.inf)
    cost[0, 0] = 0.0
    for i in range(size):
        for j in range(max(0, i - BAND), min(size, i + BAND + 1)):
            before = np.minimum(np.minimum(cost[i, j] + local[i, j], cost[i, j + 1]), cost[i + 1, j])
            cost[i + 1, j + 1] = local[i, j] + before
    return [_back(cost[:, :, pair]) for pair in range(len(these))]


def _back(cost: NDArray[np.float64]) -> NDArray[np.int64]:
    """The best path from its end to its start, turned round."""
    i = j = len(cost) - 1
    steps, rows = [], cost.tolist()
    while i and j:
        steps.append((i - 1, j - 1))
        straight, up, left = rows[i - 1][j - 1], rows[i - 1][j], rows[i][j - 1]
        if straight <= up and straight <= left:
            i, j = i - 1, j - 1
        elif up <= left:
            i -= 1
        else:
            j -= 1
    return np.array(steps[::-1])
