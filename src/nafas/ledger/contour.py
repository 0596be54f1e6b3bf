"""What a recording sounds like in a few bytes: its level every half second, known again in any format."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.audio_files import AudioReader, sane
from nafas.filters import k_weighting

STEP, _FINE = 0.5, 0.02
"""Seconds of a value, and of the powers it is made of."""
_LOWEST = -90.0
_BLOCK = 1 << 20
_EDGE, _ALIKE, _SHORTEST, _PART = 6, 0.975, 20, 0.6
"""Steps at either end that another codec may add, how alike two must be (1: the same), the fewest steps that can tell,
and how much of a recording must be left of it."""
_PERHAPS = 0.7
"""How alike the nearest of every fifth contour must be for the others to be looked at."""


def contours_of(path: Path) -> list[bytes]:
    """The contours of a file of sound, each begun 20 ms later: a head that was cut off is no whole number of steps.
    Raises InputError."""
    from scipy import signal

    reader = AudioReader(path)
    step = round(reader.rate * _FINE)
    weighting = k_weighting(reader.rate)
    state = np.zeros((len(weighting), 2, reader.channels))
    powers: list[NDArray[np.float64]] = []
    rest = np.zeros((0, reader.channels))
    for at in range(0, reader.frames, _BLOCK):
        weighted, state = signal.sosfilt(weighting, sane(reader.read(at, _BLOCK)), axis=0, zi=state)
        samples = np.concatenate([rest, weighted])
        whole = len(samples) // step
        powers.append(np.square(samples[: whole * step]).reshape(whole, step, -1).mean(axis=1).sum(axis=1))
        rest = samples[whole * step :]
    fine = np.concatenate(powers) if powers else np.zeros(0)
    return [contour(fine[begin:]) for begin in range(round(STEP / _FINE))]


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
    """How alike two contours run, 1 for the same at any level, wherever one lies in the other; 0 where they are too
    short, or too little of the longer is left in the shorter."""
    short, long = sorted((np.frombuffer(each, np.uint8).astype(float) for each in (one, other)), key=len)
    if len(short) < max(_SHORTEST, _PART * len(long)):
        return 0.0
    if len(long) - len(short) < 2 * _EDGE:
        short = short[_EDGE:-_EDGE]
    n = len(short)
    if n < _SHORTEST - 2 * _EDGE or not short.std():
        return 0.0
    sums, squares = (np.concatenate([[0.0], np.cumsum(values)]) for values in (long, long**2))
    spread = (squares[n:] - squares[:-n]) - (sums[n:] - sums[:-n]) ** 2 / n
    products = np.correlate(long, short - short.mean(), "valid")
    there = spread > 1e-6 * n
    alike = products[there] / np.sqrt(spread[there] * float(((short - short.mean()) ** 2).sum()))
    return float(alike.max(initial=0.0))


def is_same(heard: Sequence[bytes], known: bytes) -> bool:
    """Whether the contours of a file are of a recording whose contour is known, its head or its tail cut or not."""
    best = max((similarity(each, known) for each in heard[::5]), default=0.0)
    return best >= _ALIKE or (best >= _PERHAPS and any(similarity(each, known) >= _ALIKE for each in heard))
