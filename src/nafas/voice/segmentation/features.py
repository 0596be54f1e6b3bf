"""How alike two readings of a line sound, whoever speaks: mel cepstra over time, compared by dynamic time warping.

Cepstra after S. Davis and P. Mermelstein, IEEE Trans. ASSP 28 (1980) 357-366; warping after H. Sakoe and S. Chiba, IEEE
Trans. ASSP 26 (1978) 43-49. Each reading is brought to the same number of frames, and to a mean and spread of its own
or of its reader's, so that pace, level, microphone and the size of a throat matter less than what is said.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nafas.voice.clip import Samples
from nafas.voice.segmentation.utterances import RATE

FRAMES = 36
_MELS, _CEPSTRA = 26, 12
_HOP, _WINDOW = 160, 400
_LOW, _HIGH = 120.0, 3800.0  # Hz
BAND = 9
"""Frames off the diagonal a path may go."""
Features = NDArray[np.float32]
"""Shape (FRAMES, dimensions)."""


@lru_cache(maxsize=8)
def _mel_filters(warp: float) -> NDArray[np.float32]:
    def mel(f: NDArray[np.float64] | float) -> NDArray[np.float64]:
        return np.asarray(2595 * np.log10(1 + np.asarray(f) / 700))

    points = 700 * (10 ** (np.linspace(float(mel(_LOW)), float(mel(_HIGH)), _MELS + 2) / 2595) - 1)
    points = np.minimum(points * warp, RATE / 2 - 1)
    frequency = np.fft.rfftfreq(512, 1 / RATE)
    rising = (frequency[:, None] - points[:-2]) / (points[1:-1] - points[:-2])
    falling = (points[2:] - frequency[:, None]) / (points[2:] - points[1:-1])
    return np.clip(np.minimum(rising, falling), 0, None).astype(np.float32)


def features(samples: Samples) -> Features:
    """What a reading sounds like by itself. `samples` at `RATE`, shape (n,), trimmed to speech; zeros under 30 ms."""
    features_: Features = by_word(cepstra(samples)[None])[0]
    return features_


def cepstra(samples: Samples, warp: float = 1.0) -> Features:
    """A reading's cepstra and their slopes over time as they are; see `by_word` and `by_reader`.

    Args:
        samples: at `RATE`, shape (n,), trimmed to speech.
        warp: how much higher in pitch the same sounds are looked for: under 1 the reading becomes that of a smaller
            throat (L. Lee and R. Rose, IEEE Trans. Speech and Audio Processing 6 (1998) 49-60).
    """
    from scipy import fft

    dimensions = 2 * (_CEPSTRA + 1)
    if len(samples) < _WINDOW + _HOP:
        return np.zeros((FRAMES, dimensions), np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(samples, _WINDOW)[::_HOP] * np.hamming(_WINDOW)
    power = np.abs(np.fft.rfft(frames, 512)) ** 2 @ _mel_filters(warp)
    top = power.max()
    mels = np.log(np.maximum(power, top * 1e-5 + 1e-12))
    coefficients = fft.dct(mels, axis=1, norm="ortho")[:, : _CEPSTRA + 1]
    at = np.linspace(0, len(coefficients) - 1, FRAMES)
    even = np.stack([np.interp(at, np.arange(len(coefficients)), column) for column in coefficients.T], axis=1)
    return np.concatenate([even, 2 * np.gradient(even, axis=0)], axis=1).astype(np.float32)


def by_word(readings: NDArray[np.float32]) -> NDArray[np.float32]:
    """Each reading brought to a mean and spread of its own: what may be compared where little of a reader is known.

    Args:
        readings: of `cepstra`, shape (n, FRAMES, d).
    """
    spread = readings.std(axis=1, keepdims=True)
    # Level over time counts like any other dimension; where nothing changes there is nothing to compare.
    least = 0.15 * spread.max(axis=2, keepdims=True, initial=0.0) + 1e-9
    values: NDArray[np.float32] = (readings - readings.mean(axis=1, keepdims=True)) / np.maximum(spread, least)
    return values.astype(np.float32)


def by_reader(readings: NDArray[np.float32], usual: NDArray[np.float32]) -> NDArray[np.float32]:
    """Readings brought to one mean and spread of all that a reader says, so that the vowel of a short word stays heard;
    level alone is brought to each reading's own.

    Args:
        readings: of `cepstra`, shape (n, FRAMES, d).
        usual: what is taken for the reader's usual sound, shape (m, FRAMES, d).
    """
    if not len(usual):
        return readings
    level = readings.copy()
    level[:, :, 0] -= level[:, :, 0].mean(axis=1, keepdims=True)
    theirs = usual.copy()
    theirs[:, :, 0] -= theirs[:, :, 0].mean(axis=1, keepdims=True)
    flat = theirs.reshape(-1, theirs.shape[2])
    spread = flat.std(axis=0)
    values = (level - flat.mean(axis=0)) / np.maximum(spread, 0.05 * spread.max() + 1e-9)
    return np.asarray(values, np.float32)


def distances(these: NDArray[np.float32], those: NDArray[np.float32]) -> NDArray[np.float32]:
    """Distance of every reading to every other: mean cost a step along the best path.

    Args:
        these, those: shapes (n, FRAMES, d) and (m, FRAMES, d).

    Returns:
        shape (n, m); 0 is the same, about 1 is another word.
    """
    values = np.zeros((len(these), len(those)), np.float32)
    chunk = max(1, 4_000_000 // max(1, len(those) * FRAMES * (2 * BAND + 1)))
    for first in range(0, len(these), chunk):
        values[first : first + chunk] = _warp(_near_the_diagonal(these[first : first + chunk], those))
    return values


def _near_the_diagonal(these: NDArray[np.float32], those: NDArray[np.float32]) -> NDArray[np.float32]:
    """Distances of the frames that a path may pair, shape (FRAMES, 2 * BAND + 1, n, m): frame i and frame i + k - BAND.

    What is worked on at once lies together in memory.
    """
    size, dimensions = these.shape[1:]
    one, other = np.ascontiguousarray(these.transpose(1, 0, 2)), np.ascontiguousarray(those.transpose(1, 2, 0))
    ours, theirs = (one**2).sum(axis=2)[:, :, None], (other**2).sum(axis=1)[:, None, :]
    values = np.empty((size, 2 * BAND + 1, len(these), len(those)), np.float32)
    for k in range(-BAND, BAND + 1):
        here, there = slice(max(0, -k), min(size, size - k)), slice(max(0, k), min(size, size + k))
        square = one[here] @ other[there]
        square *= -2
        square += ours[here]
        square += theirs[there]
        np.maximum(square, 0, out=square)
        square /= dimensions
        np.sqrt(square, out=values[here, k + BAND])
    return values


def _warp(local: NDArray[np.float32]) -> NDArray[np.float32]:
    """Best path's mean cost through local costs as `_near_the_diagonal` gives them, to shape (n, m)."""
    size = len(local)
    row = np.full((size + 1, *local.shape[2:]), np.inf, np.float32)
    row[0] = 0
    for i in range(size):
        new = np.full_like(row, np.inf)
        for j in range(max(0, i - BAND), min(size, i + BAND + 1)):
            step = local[i, j - i + BAND]
            # Symmetric steps: a diagonal counts twice, so that every path has the same weight.
            aside = np.minimum(row[j + 1], new[j])
            aside += step
            np.minimum(aside, row[j] + 2 * step, out=new[j + 1])
        row = new
    values: NDArray[np.float32] = row[size] / (2 * size)
    return values
