"""How far the voice stands over the bed while it speaks, in LU, on the whole and where it is least."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nafas.sound.meters.loudness import LoudnessMeter
from nafas.sound.mix.mix import Mix
from nafas.voice.placement import Placement

_BLOCK = 1 << 17
_STEP = 0.02  # seconds of the meter's fine powers
_PEAK = 20  # steps: 400 ms, what the ear takes for a moment (EBU Tech 3341, momentary loudness)
_SPEAKS = 12.0  # dB under the voice's own mean power above which it speaks


@dataclass(frozen=True, eq=False)
class Balance:
    """Voice over bed.

    Attributes:
        overall: LU of all that is spoken over the bed under it; inf without a bed, nan without a voice.
        worst: the same in the loudest 400 ms of the word or sentence where it is least.
        where: that word's placement, or None.
    """

    overall: float
    worst: float
    where: Placement | None


def balance(mix: Mix, progress: Callable[[float], None] = lambda done: None) -> Balance:
    """Measure the voice over the bed: K-weighted powers of both (ITU-R BS.1770), where the voice speaks.

    Raises:
        Cancelled: when `progress` does.
    """
    voice, bed = LoudnessMeter(mix.rate), LoudnessMeter(mix.rate)
    for at in range(0, mix.length, _BLOCK):
        stems = mix.stems(at, min(_BLOCK, mix.length - at))
        voice.push(stems.voice)
        bed.push(stems.bed)
        progress(at / mix.length)
    spoken, under = voice.fine, bed.fine
    if not mix.cast.placements or not spoken.any():
        return Balance(math.nan, math.nan, None)
    speaks = speaking(spoken)
    worst, where = math.inf, None
    for placement in mix.cast.placements:
        begin = max(0, int(placement.start / mix.rate / _STEP))
        end = max(begin + 1, int(placement.said / mix.rate / _STEP))
        if speaks[begin:end].any():
            peak = begin + _loudest(spoken[begin:end])
            stands = over(spoken[peak : peak + _PEAK], under[peak : peak + _PEAK])
            if stands < worst:
                worst, where = stands, placement
    return Balance(over(spoken[speaks], under[speaks]), worst, where)


def speaking(powers: np.ndarray) -> np.ndarray:
    """Where a voice speaks: whether each of its fine powers is near its own mean; nowhere in silence."""
    if not powers.any():
        return np.zeros(len(powers), bool)
    values: np.ndarray = powers > powers[powers > powers.max() * 1e-4].mean() * 10 ** (-_SPEAKS / 10)
    return values


def _loudest(powers: np.ndarray) -> int:
    """Where the loudest 400 ms of a word begin; 0 where it is shorter."""
    if len(powers) <= _PEAK:
        return 0
    sums = np.concatenate([[0.0], np.cumsum(powers)])
    return int(np.argmax(sums[_PEAK:] - sums[:-_PEAK]))


def over(voice: np.ndarray, bed: np.ndarray) -> float:
    """LU of a voice over a bed, of their fine powers; inf where there is no bed."""
    return float(10 * np.log10(voice.sum() / bed.sum())) if bed.sum() > 0 else math.inf
