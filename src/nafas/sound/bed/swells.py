"""Slow periodic rises and falls of a loop: what makes a bed breathe."""

import numpy as np
from numpy.typing import NDArray

from nafas.sound.stereo import Stereo

Swell = NDArray[np.float64]
"""A slow level, linear, 0 to 1, shape (n,), evenly spaced over a loop, its ends included."""
_STEP = 1 << 17


def swell(random: np.random.Generator, waves: int, depth: float) -> Swell:
    """A slow periodic rise and fall, `waves` in the loop, each a little different; between 1 - depth and 1.

    Args:
        random: where its small differences come from.
        waves: 1 or more.
        depth: 0 to 1.

    Returns:
        shape (4001,).
    """
    t = np.linspace(0, 1, 4001)
    turn = 2 * np.pi * (waves * t + 0.06 * np.sin(2 * np.pi * t + random.uniform(0, 6.28)))
    # Waves come in faster than they draw back.
    wave = 0.5 - 0.5 * np.cos(turn + 0.45 * np.sin(turn))
    wave *= 0.85 + 0.15 * np.sin(2 * np.pi * t + random.uniform(0, 6.28))
    return np.asarray(1 - depth + depth * wave)


def swelled(loop: Stereo, level: float, line: Swell) -> Stereo:
    """The loop, shape (2, n), in place, at `level` (linear) times a swell."""
    frames = loop.shape[1]
    for start in range(0, frames, _STEP):
        part = loop[:, start : start + _STEP]
        places = np.arange(start, start + part.shape[1]) * ((len(line) - 1) / frames)
        part *= (level * np.interp(places, np.arange(len(line)), line)).astype(np.float32)
    return loop
