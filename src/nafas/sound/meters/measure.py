"""Measure a whole programme in one pass: integrated loudness and true peak, on both cores.

Anything with `rate`, `length` and `read(start, frames)` can be measured: a mix, a master.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from nafas.parallel.shares import Tell, in_shares
from nafas.sound.meters.loudness import SETTLED, LoudnessMeter, coarse, integrated_loudness, loudness_range, sliding
from nafas.sound.meters.true_peak import CONTEXT, Highest, TruePeakMeter

BLOCK = 65_536
_PART_SECONDS = 60

Progress = Callable[[float], None]
"""Called with 0.0 to 1.0 from any thread; raises `Cancelled` to stop the work."""


class Programme(Protocol):
    """What can be measured: readable from any place, by several threads at once."""

    @property
    def rate(self) -> int: ...
    @property
    def length(self) -> int: ...
    @property
    def channels(self) -> int: ...
    def read(self, start: int, frames: int) -> NDArray[np.float32]: ...


@dataclass(frozen=True, eq=False)
class Measured:
    """Loudness in LUFS and true peak in dBTP; -inf for silence.

    Attributes:
        fine: K-weighted powers of every 20 ms, summed over channels.
        mids: those of both channels folded into one, of every 100 ms; () for one channel.
        lefts: those of the left channel alone, of every 20 ms; () for one channel.
    """

    loudness: float
    true_peak: float
    fine: NDArray[np.float64] = field(repr=False)
    mids: NDArray[np.float64] = field(repr=False)
    lefts: NDArray[np.float64] = field(repr=False)

    @property
    def short_term_max(self) -> float:
        """The loudest 3 s, LUFS; -inf where there is less."""
        return float(np.max(sliding(self.fine, 3.0), initial=-math.inf))

    @property
    def momentary_max(self) -> float:
        """The loudest 400 ms, LUFS."""
        return float(np.max(sliding(self.fine, 0.4), initial=-math.inf))

    @cached_property
    def range(self) -> float:
        """Loudness range, LU."""
        return loudness_range(self.fine)

    def at_gain(self, gain: float) -> "Measured":
        """What the same programme measures `gain` dB louder, exactly. Loudness does not simply add up: the absolute
        gate stays where it is."""
        fine, mids, lefts = (powers * 10 ** (gain / 10) for powers in (self.fine, self.mids, self.lefts))
        return Measured(integrated_loudness(coarse(fine)), self.true_peak + gain, fine, mids, lefts)

    def gain_to(self, target: float) -> float:
        """The gain in dB at which it measures `target` LUFS; the programme must not be silent."""
        gain = 0.0
        powers = coarse(self.fine)
        for _ in range(8):
            gain += target - integrated_loudness(powers * 10 ** (gain / 10))
        return gain


class Part(NamedTuple):
    """What a part of a programme measures: powers as `Measured` has them, and its true peak, linear."""

    fine: NDArray[np.float64]
    mids: NDArray[np.float64]
    lefts: NDArray[np.float64]
    highest: float


def measure(programme: Programme, progress: Progress = lambda done: None) -> Measured:
    """Measure a programme from end to end.

    One that has `forkable`, and it is true, may be read by forked processes.

    Parts of a minute are measured side by side. Each part's filter first runs over the half second before it, so the
    result is that of one pass to better than 0.0001 LU.

    Raises:
        Cancelled: when `progress` does.
    """
    part = _PART_SECONDS * programme.rate
    known = Highest()

    def one(start: int, tell: Tell) -> Part:
        return measure_part(programme, start, min(part, programme.length - start), tell, known)

    starts = range(0, programme.length, part)
    return joined(in_shares(one, starts, programme.length, progress, getattr(programme, "forkable", False)))


def joined(parts: Sequence[Part]) -> Measured:
    """What a whole programme measures, from its parts in order, each a whole number of 100 ms but the last."""
    fine, mids, lefts = (np.concatenate([*each, np.zeros(0)]) for each in list(zip(*parts))[:3] or [()] * 3)
    highest = max((part.highest for part in parts), default=0.0)
    peak = 20 * math.log10(highest) if highest > 0 else -math.inf
    return Measured(integrated_loudness(coarse(fine)), peak, fine, mids, lefts)


def measure_part(
    programme: Programme,
    start: int,
    frames: int,
    tell: Tell = lambda frames: None,
    known: Highest | None = None,
) -> Part:
    """Measure frames `start` to `start + frames`, with what lies around them as context; `tell` hears of frames
    that are done; `known` is shared by the parts of one programme."""
    loudness, peak = LoudnessMeter(programme.rate, programme.channels), TruePeakMeter(programme.channels, known)
    before = min(start, round(SETTLED * programme.rate))
    if before:
        block = programme.read(start - before, before)
        loudness.settle(block)
        peak.settle(block[:, -2 * CONTEXT :])
    step = BLOCK // (programme.rate // 50) * (programme.rate // 50)  # whole 20 ms: no rest is carried along
    for at in range(start, start + frames, step):
        size = min(step, start + frames - at)
        block = programme.read(at, size)
        loudness.push(block)
        peak.push(block)
        tell(size)
    peak.push(programme.read(start + frames, 2 * CONTEXT))
    return Part(loudness.fine, coarse(loudness.mids), loudness.lefts, peak.highest)
