"""Levels over time, planned from what is known beforehand: the bed makes room for the voice, follows the breath, comes
and goes with the blocks.

No envelope follower chases the voice, so nothing pumps and any place can be read at once. Levels are straight lines
in dB between breakpoints.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from nafas import native
from nafas.script.model.beds import Ducking

SILENT = -90.0
"""dB at and under which a level is none."""
_FAR = 2**40


@dataclass(frozen=True)
class LevelLine:
    """A level over time: `places` are rising samples, `levels` dB there; constant before the first, after the last."""

    places: NDArray[np.int64]
    levels: NDArray[np.float64]

    def apply(self, block: NDArray[np.float32], start: int) -> None:
        """Multiply a block of shape (channels, n) that begins at sample `start`, in place."""
        n = block.shape[1]
        at = start
        while at < start + n:
            i = int(np.searchsorted(self.places, at, side="right"))
            end = min(start + n, int(self.places[i])) if i < len(self.places) else start + n
            part = block[:, at - start : end - start]
            if i == 0 or i == len(self.places) or self.levels[i - 1] == self.levels[i]:
                level = self.levels[min(i, len(self.places) - 1)]
                if level <= SILENT:
                    part[:] = 0
                elif level != 0:
                    part *= np.float32(10 ** (level / 20))
            else:
                span = float(self.places[i] - self.places[i - 1])
                slope = (self.levels[i] - self.levels[i - 1]) / span
                first = self.levels[i - 1] + slope * (at - float(self.places[i - 1]))
                if native.available() and part.strides[1] == 4:
                    native.ramp(part, float(first), float(slope))
                else:
                    line = first + slope * np.arange(end - at)
                    part *= (10 ** (line / 20)).astype(np.float32)
            at = end

    def level_at(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        """Levels in dB at any samples."""
        return np.interp(places, self.places, self.levels)

    def plus(self, other: "LevelLine") -> "LevelLine":
        """Both, one upon the other: straight between the breakpoints of either, so nothing is lost."""
        places = np.union1d(self.places, other.places)
        return LevelLine(places, np.maximum(self.level_at(places) + other.level_at(places), SILENT))


def level_line(points: list[tuple[int, float]]) -> LevelLine:
    """A line through (sample, dB) in rising order; of two on one sample the later holds from there on."""
    places, levels = zip(*points)
    return LevelLine(np.array(places, np.int64), np.array(levels, np.float64))


def plan_ducking(
    spans: list[tuple[int, int]], rate: int, down: float, up: float, ducking: Ducking | None = None
) -> LevelLine:
    """The level line for a voice that sounds during `spans`.

    Args:
        spans: (first, last) samples of each sound of the voice, sorted by start.
        rate: samples a second.
        down: level in dB while the voice speaks.
        up: level in dB while it is away.
        ducking: how long before and after; None: as is usual.
    """
    ducking = ducking or Ducking()
    lead, release = round(ducking.lead * rate), round(ducking.release * rate)
    points: list[tuple[int, float]] = [(-_FAR, up)]
    for begin, end in _joined(spans, rate, ducking):
        points += [(begin - lead, up), (begin, down), (end, down), (end + release, up)]
    return level_line(points)


def plan_holding(
    spans: list[tuple[int, int]],
    rate: int,
    over: Callable[[NDArray[np.int64]], NDArray[np.float64]],
    ducking: Ducking | None = None,
) -> LevelLine | None:
    """What a bed goes down further while the voice speaks, where it is louder than its own average: so it stays as far
    under every word as under the voice on the whole. Elsewhere it keeps its dynamics.

    Args:
        spans, rate, ducking: as `plan_ducking`.
        over: says for samples of the session by how many dB the bed is over its average around there, 0 or more.

    Returns:
        None where nothing is to be held.
    """
    ducking = ducking or Ducking()
    lead, release = round(ducking.lead * rate), round(ducking.release * rate)
    points: list[tuple[int, float]] = [(-_FAR, 0.0)]
    for begin, end in _joined(spans, rate, ducking):
        places = np.append(np.arange(begin, end, rate), end)
        down = -over(places)
        if down.any():
            points += [(begin - lead, 0.0), *zip(places.tolist(), down.tolist()), (end + release, 0.0)]
    return level_line(points) if len(points) > 1 else None


def _joined(spans: list[tuple[int, int]], rate: int, ducking: Ducking) -> list[list[int]]:
    """Spans as the bed sees them: those that stand closer than the hold are one."""
    hold = max(round(ducking.hold * rate), round(ducking.lead * rate) + round(ducking.release * rate) + 1)
    merged: list[list[int]] = []
    for begin, end in spans:
        if merged and begin - merged[-1][1] < hold:
            merged[-1][1] = max(merged[-1][1], end)
        else:
            merged.append([begin, end])
    return merged


def plan_steps(steps: list[tuple[int, float]], rate: int, seconds: float) -> LevelLine:
    """A level that changes at given samples, each change half before it and half after, over so many seconds.

    Args:
        steps: (sample, dB) in rising order, from the first sample on; changes that stand closer than `seconds` share
            what room there is.
    """
    half = round(seconds * rate / 2)
    points = [(-_FAR, steps[0][1])]
    for number, (index, level) in enumerate(steps[1:], 1):
        before = steps[number - 1][1]
        if level == before:
            continue
        room = [half, (index - steps[number - 1][0]) // (2 if number > 1 else 1)]
        if number + 1 < len(steps):
            room.append((steps[number + 1][0] - index) // 2)
        around = max(1, min(room))
        points += [(max(index - around, points[-1][0] + 1), before), (index + around, level)]
    return level_line(points)


def plan_swell(points: list[tuple[float, float]], rate: int, depth: float) -> LevelLine:
    """A level that goes with the breath: 0 dB when it is full, `depth` dB under that when it is empty.

    Args:
        points: as `timing.breath.breath_points`. Each stretch is eased at both ends, as a breath is.
    """
    if not points:
        return level_line([(-_FAR, 0.0)])
    points_ = [(-_FAR, (points[0][1] - 1) * depth)]
    for (begin, low), (end, high) in pairwise(points):
        pieces = 1 if low == high else max(2, min(32, round((end - begin) / 0.25)))
        for n in range(pieces):
            at = begin + (end - begin) * n / pieces
            full = low + (high - low) * (0.5 - 0.5 * math.cos(math.pi * n / pieces))
            points_.append((round(at * rate), (full - 1) * depth))
    points_.append((round(points[-1][0] * rate), (points[-1][1] - 1) * depth))
    return level_line([points_[0], *(later for earlier, later in pairwise(points_) if later[0] > earlier[0])])
