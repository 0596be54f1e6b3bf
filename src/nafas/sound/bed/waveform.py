"""A recording's outline, for drawing: the lowest and highest sample of each of many short stretches."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nafas.errors import Cancelled
from nafas.sound.files.recording import Recording

_BLOCK = 1 << 18


def outline(
    recording: Recording, columns: int = 1200, stopped: Callable[[], bool] = lambda: False
) -> NDArray[np.float32]:
    """Lowest and highest value of each column, shape (columns, 2), both channels together; fewer columns where there
    are fewer samples. Read block by block, so that hours take no more memory.

    Args:
        recording: at its own rate reads fastest.
        stopped: asked between blocks.

    Raises:
        InputError: it cannot be read.
        Cancelled: when `stopped` says so.
    """
    frames = round(recording.seconds * recording.rate)
    columns = max(1, min(columns, frames))
    edges = np.linspace(0, frames, columns + 1).astype(np.int64)
    values = np.zeros((columns, 2), np.float32)
    for at in range(0, frames, _BLOCK):
        if stopped():
            raise Cancelled
        block = np.nan_to_num(recording.read(at, min(_BLOCK, frames - at)))
        low, high = block.min(axis=0), block.max(axis=0)
        first = int(np.searchsorted(edges, at, side="right")) - 1
        last = int(np.searchsorted(edges, at + len(low), side="left"))
        starts = np.maximum(edges[first:last] - at, 0)
        values[first:last, 0] = np.minimum(values[first:last, 0], np.minimum.reduceat(low, starts))
        values[first:last, 1] = np.maximum(values[first:last, 1], np.maximum.reduceat(high, starts))
    return values
