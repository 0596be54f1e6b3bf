"""The generated bed: sea at night over a low drone.

Four layers, each one loop that is periodic by construction (noise shaped in the frequency domain, swells and tones that
fit the loop a whole number of times), so there is no seam. The loop lengths share no short common multiple, so the
whole does not repeat within a session. Same seed and rate, same sound.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nafas.script.session import NightSea
from nafas.sound.looped import BED_LEVEL, LoopedBed
from nafas.sound.spectrum import Spectrum, Stereo, noise, tones

_WASH, _SURGE, _FOAM, _DRONE = 23.0, 19.0, 17.0, 11.0  # loop lengths in seconds


@lru_cache(maxsize=4)
def night_sea(choice: NightSea, rate: int) -> LoopedBed:
    """The bed at a sample rate, at `BED_LEVEL` LUFS. Takes under half a second the first time."""
    wash, surge, foam = (np.random.default_rng(s) for s in np.random.SeedSequence(choice.seed).spawn(3))
    # Built one after the other, so that only one layer's spectrum is in memory at a time.
    layers = [
        _layer(1.0, noise(wash, _WASH, rate, low=60, high=700, slope=-1.0), _swell(wash, 3, 0.55)),
        _layer(0.8, noise(surge, _SURGE, rate, low=120, high=1600, slope=-0.8), _swell(surge, 3, 0.85)),
        _layer(0.16, noise(foam, _FOAM, rate, low=900, high=5200, slope=-0.5), _swell(foam, 2, 0.9)),
        _layer(0.30, _drone(_DRONE, rate), np.ones(2)),
    ]
    power = sum(power for _, power in layers)
    gain = np.float32(10 ** ((BED_LEVEL + 0.691) / 20) / np.sqrt(power))
    for loop, _ in layers:
        loop *= gain
        loop.flags.writeable = False
    return LoopedBed(tuple(loop for loop, _ in layers))


def _layer(level: float, spectrum: Spectrum, swell: NDArray[np.float64]) -> tuple[Stereo, float]:
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


def _swell(random: np.random.Generator, waves: int, depth: float) -> NDArray[np.float64]:
    """A slow periodic rise and fall, `waves` in the loop, each a little different; between 1 - depth and 1."""
    t = np.linspace(0, 1, 4001)
    turn = 2 * np.pi * (waves * t + 0.06 * np.sin(2 * np.pi * t + random.uniform(0, 6.28)))
    # Waves come in faster than they draw back.
    wave = 0.5 - 0.5 * np.cos(turn + 0.45 * np.sin(turn))
    wave *= 0.85 + 0.15 * np.sin(2 * np.pi * t + random.uniform(0, 6.28))
    return 1 - depth + depth * wave


def _drone(seconds: float, rate: int) -> Spectrum:
    """A low open fifth with slow beating."""
    return tones(seconds, rate, [(73.4, 1.0, 1), (110.0, 0.7, 1), (146.8, 0.35, 1), (220.0, 0.15, 1)])
