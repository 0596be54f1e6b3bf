"""Where everything stands on the picture of a proof: every sound's error along the session with the half-sample band,
what could not be found, and the loudness under it. Plain figures, for the page and the window alike."""

import math
from dataclasses import dataclass

import numpy as np

from nafas.review.proof.proof import CueMatch, Proof
from nafas.review.proof.record import short_term
from nafas.timing.clock import clock, tick_step

WIDTH = 940
_TOP, _ERRORS, _GAP, _LOUD, _FOOT = 22, 124, 34, 84, 22
HEIGHT = _TOP + _ERRORS + _GAP + _LOUD + _FOOT
_LEAST = 1.0  # samples to either side that are shown at least
_LOUDEST, _SOFTEST = -5.0, -45.0  # LUFS


@dataclass(frozen=True)
class Mark:
    """One sound: its place on the picture, and whether it is at fault."""

    x: float
    y: float
    match: CueMatch
    fault: bool


@dataclass(frozen=True)
class Picture:
    """All in units of the picture, `WIDTH` wide; y grows downwards.

    Attributes:
        band: from and to of the half-sample band.
        marks: every sound; one that was not found stands at the foot of the errors.
        spans: from and to of stretches at another level.
        loudness: the short-term curve; `target` the line it should come to.
        words: x, y and text.
    """

    width: float
    height: float
    band: tuple[float, float]
    marks: tuple[Mark, ...]
    spans: tuple[tuple[float, float], ...]
    loudness: tuple[tuple[float, float], ...]
    target: float
    words: tuple[tuple[float, float, str], ...]


def picture(proof: Proof, width: float = WIDTH) -> Picture:
    """Lay a proof out."""
    seconds = max(proof.frames / proof.rate, 1e-9)
    most = max([_LEAST, *(abs(match.error) for match in proof.matches if match.error is not None)])
    scale = _ERRORS / 2 / most
    middle = _TOP + _ERRORS / 2

    def x(at: float) -> float:
        return width * min(1.0, max(0.0, at / seconds))

    marks = []
    for match in proof.matches:
        lost = match.error is None
        y = _TOP + _ERRORS + 8 if match.error is None else middle - match.error * scale
        off_place = match.error is not None and abs(match.error) > proof.allowed(match)
        marks.append(Mark(x(float(match.moment.at)), y, match, lost or off_place))
    foot = _TOP + _ERRORS + _GAP

    def loud(value: float) -> float:
        part = (_LOUDEST - max(_SOFTEST, min(_LOUDEST, value))) / (_LOUDEST - _SOFTEST)
        return foot + part * _LOUD

    curve = np.array(short_term(proof))
    step = max(1, math.ceil(len(curve) / width))
    # A value belongs to the middle of the three seconds that it is measured over.
    half = (proof.frames / proof.rate - 0.02 * len(curve)) / 2
    points = [(x(half + 0.02 * n), loud(float(curve[n]))) for n in range(0, len(curve), step)]
    tick = tick_step(seconds, 8)
    words = [
        (0.0, 14.0, f"Error in samples, late above, early below; {most:.3g} at the edges, half a sample in the band"),
        (0.0, foot - 8.0, f"Short-term loudness, LUFS; the line is the target, {proof.target:g}"),
        *((x(at), foot + _LOUD + 16.0, clock(at)) for at in range(0, int(seconds) + 1, tick)),
    ]
    spans = [(x(fault.at), x(fault.end)) for fault in proof.faults if fault.at is not None and fault.end is not None]
    band = (middle - 0.5 * scale, middle + 0.5 * scale)
    return Picture(width, HEIGHT, band, tuple(marks), tuple(spans), tuple(points), loud(proof.target), tuple(words))
