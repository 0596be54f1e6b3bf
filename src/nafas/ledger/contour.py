"""What a recording sounds like in a few bytes: its level every half second, known again in any format."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.audio_files import AudioReader
from nafas.weighting import k_weighting

STEP, _FINE = 0.5, 0.02
"""Seconds of a value, and of the powers it is made of."""
_LOWEST = -90.0
_BLOCK = 1 << 20
_SHIFT, _ALIKE, _SHORTEST = 6, 0.985, 20
"""Steps that two may lie apart, how alike they must be (1: the same), and the fewest steps that can tell."""


def contour_of(path: Path) -> bytes:
    """The contour of a file of sound. Raises InputError."""
    from scipy import signal

    reader = AudioReader(path)
    step = round(reader.rate * _FINE)
    weighting = k_weighting(reader.rate)
    state = np.zeros((len(weighting), 2, reader.channels))
    powers: list[NDArray[np.float64]] = []
    rest = np.zeros((0, reader.channels))
    for at in range(0, reader.frames, _BLOCK):
        weighted, state = signal.sosfilt(weighting, np.nan_to_num(reader.read(at, _BLOCK)), axis=0, zi=state)
        samples = np.concatenate([rest, weighted])
        whole = len(samples) // step
        powers.append(np.square(samples[: whole * step]).reshape(whole, step, -1).mean(axis=1).sum(axis=1))
        rest = samples[whole * step :]
    return contour(np.concatenate(powers) if powers else np.zeros(0))


def contour(fine: NDArray[np.float64]) -> bytes:
    """The level of each half second, a byte each: dB over -90, in steps of 0.4 dB.

    Args:
        fine: K-weighted powers of every 20 ms, summed over channels (`sound.meters`), shape (n,).
    """
    number = round(STEP / _FINE)
    whole = len(fine) // number
    powers = fine[: whole * number].reshape(whole, number).mean(axis=1)
    decibels = 10 * np.log10(np.maximum(powers, 1e-12))
    result: bytes = np.clip(np.round((decibels - _LOWEST) / 0.4), 0, 255).astype(np.uint8).tobytes()
    return result


def similarity(one: bytes, other: bytes) -> float:
    """How alike two contours run, 1 for the same at any level; 0 where they are of other lengths or too short."""
    if abs(len(one) - len(other)) > _SHIFT or min(len(one), len(other)) < _SHORTEST:
        return 0.0
    a, b = (np.frombuffer(each, np.uint8).astype(float) for each in (one, other))
    best = 0.0
    for shift in range(-_SHIFT, _SHIFT + 1):
        left, right = a[max(0, shift) :], b[max(0, -shift) :]
        n = min(len(left), len(right))
        if n >= _SHORTEST and left[:n].std() > 0 and right[:n].std() > 0:
            best = max(best, float(np.corrcoef(left[:n], right[:n])[0, 1]))
    return best


def is_same(one: bytes, other: bytes) -> bool:
    """Whether two contours are of one recording."""
    return similarity(one, other) >= _ALIKE
