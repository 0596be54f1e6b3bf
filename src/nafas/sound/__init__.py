"""The sound: chimes, bed, mix, loudness, and files written whole.

Places are samples here. The mix is a pure function of place, so the window plays from the same code that renders.
"""

from nafas.sound.master.limiter import MasterStream
from nafas.sound.master.render import Mastered, find_master, render
from nafas.sound.meters.measure import Measured, measure
from nafas.sound.mix.mix import Mix, build_mix

__all__ = ["MasterStream", "Mastered", "Measured", "Mix", "build_mix", "find_master", "measure", "render"]
