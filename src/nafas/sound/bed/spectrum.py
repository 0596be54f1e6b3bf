"""One period of an endless stereo sound by its frequency bins, so that it repeats without a seam."""

import numpy as np
from numpy.typing import NDArray

from nafas.filters import k_power
from nafas.sound.stereo import Stereo


class Spectrum:
    """One period by its bins, shape (2, bins); bins above the last are silent. Its RMS over both sides is 1.

    Attributes:
        weighted_power: K-weighted power over both sides.
    """

    def __init__(self, bins: NDArray[np.complex64], frames: int, rate: int) -> None:
        self.frames = frames
        powers = 2 * (np.abs(bins) ** 2).sum(axis=0) / frames**2
        self.bins = bins / np.float32(np.sqrt(powers.sum() / 2))
        frequencies = np.arange(bins.shape[1]) * rate / frames
        self.weighted_power = float((_weights(frequencies, rate) * powers).sum() / (powers.sum() / 2))

    def sound(self) -> Stereo:
        loop: Stereo = np.fft.irfft(self.bins, self.frames, axis=-1).astype(np.float32, copy=False)
        return loop


def noise(random: np.random.Generator, seconds: float, rate: int, low: float, high: float, slope: float) -> Spectrum:
    """Noise with amplitude falling as f**slope between soft edges.

    Args:
        seconds, rate: length of the loop, and samples a second.
        low, high: Hz of the edges, 0 < low < high < rate / 2.
        slope: of the amplitude over frequency; -0.5 is pink.
    """
    frames = int(seconds * rate)
    bins = min(frames // 2, int(8 * high * seconds))  # 72 dB down and more beyond
    frequency = np.maximum(np.arange(bins) / seconds, 1e-3)
    shape = frequency**slope / (1 + (low / frequency) ** 4) / (1 + (frequency / high) ** 4)
    shape[0] = 0
    draws = random.standard_normal((3, bins, 2), dtype=np.float32).view(np.complex64)[..., 0]
    # A common part keeps the middle of the picture filled; the rest is wide.
    return Spectrum((0.6 * draws[:1] + 0.8 * draws[1:]) * shape.astype(np.float32), frames, rate)


def tones(seconds: float, rate: int, partials: list[tuple[float, float, int]]) -> Spectrum:
    """Tones near given frequencies, each of them a pair of bins that beat, so that they fit the loop.

    Args:
        partials: frequency in Hz, level, and how many bins apart the pair lies (beats in a loop).
    """
    frames = int(seconds * rate)
    bins = np.zeros((2, int((max(f for f, _, _ in partials) + 60) * seconds)), np.complex64)
    for side in (0, 1):
        for near, level, apart in partials:
            for detune in (-apart, apart + side):
                bins[side, round(near * seconds) + detune] += level * np.exp(1j * detune * near)
    return Spectrum(bins, frames, rate)


def at_frames(loop: Stereo, frames: int) -> Stereo:
    """A loop at another rate, as so many frames, `loop`'s number or more: exact, since it repeats."""
    bins = np.fft.rfft(loop, axis=-1)
    wave = np.fft.irfft(bins, frames, axis=-1)
    return (wave * np.float32(frames / loop.shape[1])).astype(np.float32, copy=False)


def loop_power(loop: Stereo, rate: int) -> float:
    """K-weighted power of a loop over both sides, as if it went on for ever."""
    total = 0.0
    for side in loop:
        bins = np.fft.rfft(side)
        frequencies = np.arange(len(bins)) * rate / len(side)
        total += float(2 * (_weights(frequencies, rate) * np.abs(bins) ** 2).sum() / len(side) ** 2)
    return total


def _weights(frequencies: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """K-weighting as power, by its response on a fine logarithmic scale."""
    scale = np.geomspace(5, rate / 2, 2000)
    weights: NDArray[np.float64] = np.interp(frequencies, scale, k_power(scale, rate))
    return weights
