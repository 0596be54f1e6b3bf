"""The usual bed: sea at night over a low drone.

Four layers, each one loop that is periodic by construction (noise shaped in the frequency domain, swells and tones that
fit the loop a whole number of times), so there is no seam. The layers of noise wander (`looped`), so that no band comes
back within a session. Same seed and rate, same sound.
"""

import numpy as np

from nafas.bounded_cache import bounded_cache
from nafas.script.model.beds import NightSea
from nafas.sound.bed.kept import kept_loops
from nafas.sound.bed.looped import BED_LEVEL, LOOPS, LoopedBed, size_of_bed
from nafas.sound.bed.spectrum import Spectrum, noise, tones
from nafas.sound.bed.swells import Swell, swell, swelled
from nafas.sound.stereo import Stereo

_WASH, _SURGE, _FOAM, _DRONE = 23.0, 19.0, 17.0, 11.0  # loop lengths in seconds


@bounded_cache(LOOPS, size_of_bed)
def night_sea(choice: NightSea, rate: int) -> LoopedBed:
    """The bed at a sample rate, at `BED_LEVEL` LUFS. Made once, then kept on the disk."""
    loops = kept_loops(choice, rate, lambda: _loops(choice, rate))
    return LoopedBed(loops, (True, True, True, False), choice.seed)


def _loops(choice: NightSea, rate: int) -> tuple[Stereo, ...]:
    wash, surge, foam = (np.random.default_rng(s) for s in np.random.SeedSequence(choice.seed).spawn(3))
    # Built one after the other, so that only one layer's spectrum is in memory at a time.
    layers = [
        _layer(1.0, noise(wash, _WASH, rate, low=60, high=700, slope=-1.0), swell(wash, 3, 0.55)),
        _layer(0.8, noise(surge, _SURGE, rate, low=120, high=1600, slope=-0.8), swell(surge, 3, 0.85)),
        _layer(0.16, noise(foam, _FOAM, rate, low=900, high=5200, slope=-0.5), swell(foam, 2, 0.9)),
        _layer(0.30, _drone(_DRONE, rate), np.ones(2)),
    ]
    power = sum(power for _, power in layers)
    gain = np.float32(10 ** ((BED_LEVEL + 0.691) / 20) / np.sqrt(power))
    for loop, _ in layers:
        loop *= gain
        loop.flags.writeable = False
    return tuple(loop for loop, _ in layers)


def _layer(level: float, spectrum: Spectrum, line: Swell) -> tuple[Stereo, float]:
    """A layer's loop and its K-weighted power."""
    loop = swelled(spectrum.sound(), level, line)
    # Swells are so slow that they scale a layer's power and leave its spectrum as it is.
    return loop, level**2 * spectrum.weighted_power * float((line[:-1] ** 2).mean())


def _drone(seconds: float, rate: int) -> Spectrum:
    """A low open fifth with slow beating."""
    return tones(seconds, rate, [(73.4, 1.0, 1), (110.0, 0.7, 1), (146.8, 0.35, 1), (220.0, 0.15, 1)])
