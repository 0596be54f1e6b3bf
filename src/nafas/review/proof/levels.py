"""The levels of a decoded file against those that the session's sound has: gaps, what does not belong, another gain,
channels the other way round.

Both are the K-weighted powers of every 20 ms that the loudness meter takes anyway (ITU-R BS.1770-4), so this costs no
further look at the sound.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nafas.sound.meters.loudness import coarse
from nafas.sound.meters.measure import Measured

_STEP = 0.02  # seconds
_JOIN = 25  # steps: what lies closer together is one stretch
_UNDER = -50.0  # dB under the programme's own level: what is softer is not compared
_LEAST = 10 ** (-7.5)  # K-weighted power of about -75 LUFS: nor what is softer than that
_SILENT = 20.0  # dB under what should be there: it is missing
_TURNED = -0.5  # correlation of both sides with what is due: the other way round, and no accident
_UNEVEN = 0.12  # of the power, to one side: from which a stretch tells left from right


@dataclass(frozen=True)
class Tolerance:
    """How far a format may be from what was given to it.

    Attributes:
        step: dB that a single stretch may differ by.
        steps: 20 ms steps that are compared together.
        gain: LU that the whole may differ by.
        place: samples that a cue may lie off its place, at any rate, on top of half a sample.
        peak: dB that true peak may lie above the ceiling.
        cut: dB that true peak may lie below what was made, past what the whole is softer: more is clipping.
        smear: dB under the louder stretch next to it that a soft one may hold as well: an encoder spreads its noise
            over a whole block, before a sound and after it.
    """

    step: float
    steps: int
    gain: float
    place: float
    peak: float
    cut: float
    smear: float


EXACT = Tolerance(step=0.3, steps=1, gain=0.05, place=0.0, peak=0.05, cut=0.1, smear=-math.inf)
LOSSY = Tolerance(step=3.0, steps=5, gain=0.5, place=1.0, peak=1.0, cut=0.8, smear=-33.0)
"""Of MP3, Vorbis, Opus and AAC at 96 kbit/s and more, measured on eight masters (handbook/proof.md). `gain`: LAME
scales by 0.95 up to 128 kbit/s (0.45 dB), Vorbis loses 0.4 dB of noise."""


@dataclass(frozen=True)
class Stretch:
    """Where the file is not as loud as it should be: from and to in seconds; `by` in dB, the most in it."""

    begin: float
    end: float
    by: float

    @property
    def silent(self) -> bool:
        return self.by <= -_SILENT


@dataclass(frozen=True)
class Levels:
    """How the file's levels stand to the expected ones.

    Attributes:
        gain: dB that it is louder on the whole (median); 0.0 where there is nothing to compare.
        stretches: where it differs, in order.
        differing: part of the compared time in which it does, 0 to 1.
        swapped: left and right are the other way round.
        cancels: LU that both channels together are softer than they should be.
    """

    gain: float
    stretches: tuple[Stretch, ...]
    differing: float
    swapped: bool
    cancels: float


def compare(heard: Measured, expected: Measured, tolerance: Tolerance) -> Levels:
    """Hold a file's powers to the expected ones. Lengths may differ: what only one has is not compared."""
    steps = min(len(heard.fine), len(expected.fine)) // tolerance.steps * tolerance.steps
    if not steps:
        return Levels(0.0, (), 0.0, False, 0.0)
    mine, due = (_joined(each.fine[:steps], tolerance.steps) for each in (heard, expected))
    floor = max(_LEAST, float(due.mean()) * 10 ** (_UNDER / 10))
    compared = (due > floor) | (mine > floor)
    if not compared.any():
        return Levels(0.0, (), 0.0, False, 0.0)
    by = 10 * np.log10((mine + floor) / (due + floor))
    padded = np.pad(due, 1)
    smear = np.maximum(padded[2:], padded[:-2]) * 10 ** (tolerance.smear / 10)
    beyond = 10 * np.log10((mine + floor) / (due + floor + smear))
    loud = due > floor
    gain = float(np.median(by[loud])) if loud.any() else 0.0
    by, beyond = by - gain, beyond - gain
    away = compared & ((beyond > tolerance.step) | (by < -tolerance.step))
    differing = float(away.sum() / compared.sum())
    return Levels(
        gain,
        tuple(_stretches(away, by, tolerance.steps)),
        differing,
        _swapped(heard, expected, steps),
        _cancels(heard, expected),
    )


def with_dropouts(levels: Levels, spans: Sequence[tuple[float, float]]) -> Levels:
    """The levels with drop-outs of a few milliseconds, from and to in seconds, where no longer stretch has them."""
    more = [
        Stretch(begin, end, -math.inf)
        for begin, end in spans
        if not any(each.begin < end and begin < each.end for each in levels.stretches)
    ]
    together = sorted([*levels.stretches, *more], key=lambda stretch: stretch.begin)
    return replace(levels, stretches=tuple(together))


def _joined(fine: NDArray[np.float64], steps: int) -> NDArray[np.float64]:
    values: NDArray[np.float64] = fine.reshape(-1, steps).mean(axis=1)
    return values


def _stretches(away: NDArray[np.bool_], by: NDArray[np.float64], steps: int) -> list[Stretch]:
    places = np.flatnonzero(away)
    if not len(places):
        return []
    cuts = np.flatnonzero(np.diff(places) > max(1, _JOIN // steps)) + 1
    stretches = []
    for run in np.split(places, cuts):
        worst = by[run][np.abs(by[run]).argmax()]
        stretches.append(Stretch(run[0] * steps * _STEP, (run[-1] + 1) * steps * _STEP, float(worst)))
    return stretches


def _swapped(heard: Measured, expected: Measured, steps: int) -> bool:
    if len(heard.lefts) < steps or len(expected.lefts) < steps:
        return False
    mine, due = (2 * e.lefts[:steps] / np.maximum(e.fine[:steps], 1e-15) - 1 for e in (heard, expected))
    uneven = (np.abs(due) > _UNEVEN) & (expected.fine[:steps] > _LEAST)
    if uneven.sum() < 25:
        return False
    mine, due = mine[uneven], due[uneven]
    alike = float((mine * due).sum()) / math.sqrt(float((mine**2).sum() * (due**2).sum()) + 1e-12)
    return alike < _TURNED


def _cancels(heard: Measured, expected: Measured) -> float:
    """LU lost in the sum of both channels beyond what is expected."""
    steps = min(len(heard.mids), len(expected.mids))
    if not steps:
        return 0.0

    def lost(each: Measured) -> float:
        whole = coarse(each.fine)[:steps].sum()
        return 10 * math.log10((2 * each.mids[:steps].sum() + 1e-12) / (whole + 1e-12))

    return max(0.0, lost(expected) - lost(heard))
