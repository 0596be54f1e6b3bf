"""The sound: chimes, bed, mix, loudness, and files written whole.

Places are samples here. The mix is a pure function of place, so the window plays from the same code that renders.
"""

from nafas.sound.limiter import Master
from nafas.sound.measure import Measured, measure
from nafas.sound.mix import Mix, build_mix
from nafas.sound.render import Mastered, find_master, render

__all__ = ["Master", "Mastered", "Measured", "Mix", "build_mix", "find_master", "measure", "render"]
