"""The generated bed: sea at night over a low drone.

Four layers, each one loop that is periodic by construction (noise shaped in the frequency domain, swells and tones that
fit the loop a whole number of times), so there is no seam. The loop lengths share no short common multiple, so the
whole does not repeat within a session. Same seed and rate, same sound.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nafas.script.session import NightSea
from nafas.sound.loudness import k_weighting
from nafas.voice.level import SPEECH_LEVEL

Stereo = NDArray[np.float32]

BED_LEVEL = SPEECH_LEVEL
"""LUFS of a bed at unit gain: the level the voice is brought to, so that gains read as LU against it."""

_WASH, _SURGE, _FOAM, _DRONE = 23.0, 19.0, 17.0, 11.0  # loop lengths in seconds


class LoopedBed:
    """Layers of loops, readable from any place at once.

    Attributes:
        loops: arrays of shape (2, n), float32, each its own length.
    """

    def __init__(self, loops: tuple[Stereo, ...]) -> None:
        self.loops = loops

    def read(self, start: int, frames: int) -> Stereo:
        """Frames `start` to `start + frames` of the endless bed, shape (2, frames)."""
        out = np.zeros((2, frames), np.float32)
        for loop in self.loops:
            length = loop.shape[1]
            done = 0
            while done < frames:
                at = (start + done) % length
                n = min(length - at, frames - done)
                out[:, done : done + n] += loop[:, at : at + n]
                done += n
        return out


@lru_cache(maxsize=4)
def night_sea(choice: NightSea, rate: int) -> LoopedBed:
    """The bed at a sample rate, at `BED_LEVEL` LUFS. Takes under half a second the first time."""
    wash, surge, foam = (np.random.default_rng(s) for s in np.random.SeedSequence(choice.seed).spawn(3))
    # Built one after the other, so that only one layer's spectrum is in memory at a time.
    layers = [
        _layer(1.0, _noise(wash, _WASH, rate, low=60, high=700, slope=-1.0), _swell(wash, 3, 0.55)),
        _layer(0.8, _noise(surge, _SURGE, rate, low=120, high=1600, slope=-0.8), _swell(surge, 3, 0.85)),
        _layer(0.16, _noise(foam, _FOAM, rate, low=900, high=5200, slope=-0.5), _swell(foam, 2, 0.9)),
        _layer(0.30, _drone(_DRONE, rate), np.ones(2)),
    ]
    power = sum(power for _, power in layers)
    gain = np.float32(10 ** ((BED_LEVEL + 0.691) / 20) / np.sqrt(power))
    for loop, _ in layers:
        loop *= gain
        loop.flags.writeable = False
    return LoopedBed(tuple(loop for loop, _ in layers))


def _layer(level: float, spectrum: "_Spectrum", swell: NDArray[np.float64]) -> tuple[Stereo, float]:
    """A layer's loop and its K-weighted power. `swell`: its slow level, evenly spaced over the loop, ends included."""
    loop = spectrum.sound()
    frames = loop.shape[1]
    step = 1 << 17
    for start in range(0, frames, step):
        part = loop[:, start : start + step]
        places = np.arange(start, start + part.shape[1]) * ((len(swell) - 1) / frames)
        part *= (level * np.interp(places, np.arange(len(swell)), swell)).astype(np.float32)
    # Swells are so slow that they scale a layer's power and leave its spectrum as it is.
    return loop, level**2 * spectrum.weighted_power * float((swell[:-1] ** 2).mean())


class _Spectrum:
    """One period of a stereo sound by its frequency bins, shape (2, bins); bins above the last are silent."""

    def __init__(self, bins: NDArray[np.complex64], frames: int, rate: int) -> None:
        self.frames = frames
        from scipy import signal

        powers = 2 * (np.abs(bins) ** 2).sum(axis=0) / frames**2
        self.bins = bins / np.float32(np.sqrt(powers.sum() / 2))  # RMS 1 over both sides
        # K-weighting by its response on a fine logarithmic scale.
        scale = np.geomspace(5, rate / 2, 2000)
        _, response = signal.freqz_sos(k_weighting(rate), scale, fs=rate)
        frequencies = np.arange(bins.shape[1]) * rate / frames
        weights = np.interp(frequencies, scale, np.abs(response) ** 2)
        self.weighted_power = float((weights * powers).sum() / (powers.sum() / 2))

    def sound(self) -> Stereo:
        from scipy import fft

        found: Stereo = fft.irfft(self.bins, self.frames, axis=-1, workers=2).astype(np.float32, copy=False)
        return found


def _noise(random: np.random.Generator, seconds: float, rate: int, low: float, high: float, slope: float) -> _Spectrum:
    """Noise with amplitude falling as f**slope between soft edges."""
    frames = int(seconds * rate)
    bins = min(frames // 2, int(8 * high * seconds))  # 72 dB down and more beyond
    frequency = np.maximum(np.arange(bins) / seconds, 1e-3)
    shape = frequency**slope / (1 + (low / frequency) ** 4) / (1 + (frequency / high) ** 4)
    shape[0] = 0
    draws = random.standard_normal((3, bins, 2), dtype=np.float32).view(np.complex64)[..., 0]
    # A common part keeps the middle of the picture filled; the rest is wide.
    return _Spectrum((0.6 * draws[:1] + 0.8 * draws[1:]) * shape.astype(np.float32), frames, rate)


def _swell(random: np.random.Generator, waves: int, depth: float) -> NDArray[np.float64]:
    """A slow periodic rise and fall, `waves` in the loop, each a little different; between 1 - depth and 1."""
    t = np.linspace(0, 1, 4001)
    turn = 2 * np.pi * (waves * t + 0.06 * np.sin(2 * np.pi * t + random.uniform(0, 6.28)))
    # Waves come in faster than they draw back.
    wave = 0.5 - 0.5 * np.cos(turn + 0.45 * np.sin(turn))
    wave *= 0.85 + 0.15 * np.sin(2 * np.pi * t + random.uniform(0, 6.28))
    return 1 - depth + depth * wave


def _drone(seconds: float, rate: int) -> _Spectrum:
    """A low open fifth with slow beating; every tone is a bin, so it fits the loop a whole number of times."""
    frames = int(seconds * rate)
    bins = np.zeros((2, int(300 * seconds)), np.complex64)
    for side in (0, 1):
        for near, level in ((73.4, 1.0), (110.0, 0.7), (146.8, 0.35), (220.0, 0.15)):
            for detune in (-1, 1 + side):
                bins[side, round(near * seconds) + detune] += level * np.exp(1j * detune * near)
    return _Spectrum(bins, frames, rate)
