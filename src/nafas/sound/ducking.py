"""The bed's level over time, planned from the known cue times: down before the voice, up again when it leaves.

No envelope follower chases the voice, so nothing pumps and any place can be read at once. Levels are straight lines
in dB between breakpoints.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

LEAD = 0.8
"""Seconds before the voice at which the bed starts down."""
RELEASE = 2.5
"""Seconds after the voice at which it is up again."""
HOLD = 4.0
"""Gaps between words shorter than this many seconds keep the bed down."""


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
                if level != 0:
                    part *= np.float32(10 ** (level / 20))
            else:
                span = float(self.places[i] - self.places[i - 1])
                slope = (self.levels[i] - self.levels[i - 1]) / span
                first = self.levels[i - 1] + slope * (at - float(self.places[i - 1]))
                line = first + slope * np.arange(end - at)
                part *= (10 ** (line / 20)).astype(np.float32)
            at = end

    def level_at(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        """Levels in dB at any samples."""
        return np.interp(places, self.places, self.levels)


def plan_ducking(spans: list[tuple[int, int]], rate: int, down: float, up: float) -> LevelLine:
    """The level line for a voice that sounds during `spans`.

    Args:
        spans: (first, last) samples of each sound of the voice, sorted by start.
        rate: samples a second.
        down: level in dB while the voice speaks.
        up: level in dB while it is away.
    """
    lead, release = round(LEAD * rate), round(RELEASE * rate)
    hold = max(round(HOLD * rate), lead + release + 1)
    merged: list[list[int]] = []
    for begin, end in spans:
        if merged and begin - merged[-1][1] < hold:
            merged[-1][1] = max(merged[-1][1], end)
        else:
            merged.append([begin, end])
    points: list[tuple[int, float]] = [(-(2**40), up)]
    for begin, end in merged:
        points += [(begin - lead, up), (begin, down), (end, down), (end + release, up)]
    places, levels = zip(*points)
    return LevelLine(np.array(places, np.int64), np.array(levels, np.float64))
