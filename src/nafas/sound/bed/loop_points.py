"""Where a recording may go over into its own beginning without being heard to: found by spectrum and level.

The sound at the beginning is compared with every stretch near the end, as long as the crossfade, in bands of a third of
an octave every 50 ms; the most alike is where the loop closes.
"""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from nafas.timing.clock import clock

STEP = 0.05
"""Seconds between looks."""
_LOWEST, _HIGHEST, _PER_OCTAVE = 60.0, 12_000.0, 3
_LEVEL_WEIGHT = 1.0
_SEARCH = 0.35  # share of the recording, at its end, in which the seam may lie


@dataclass(frozen=True)
class LoopPoints:
    """A loop of a recording: what is used of it, in seconds, and how well it closes.

    Attributes:
        begin, end: from and to; the last `crossfade` seconds before `end` go over into those after `begin`.
        crossfade: in seconds.
        apart: dB by which the two sides of the crossfade differ in the mean over bands; 0 is the same sound.
        usual: the same for a place chosen without looking: the end itself.
    """

    begin: float
    end: float
    crossfade: float
    apart: float
    usual: float

    @property
    def words(self) -> str:
        """The loop in words: from, to, how long it goes over, and how well."""
        return (
            f"loop {clock(self.begin)} to {clock(self.end, tenths=True)}, {self.crossfade:.1f} s over; its sides are "
            f"{self.apart:.1f} dB apart"
        )


def looks(read: Callable[[int, int], NDArray[np.float32]], rate: int, begin: float, end: float) -> NDArray[np.float32]:
    """Levels in dB of each band every `STEP` seconds from `begin` to `end`, shape (looks, bands).

    Args:
        read: gives frames `start` to `start + frames`, shape (2, frames).
    """
    size = round(STEP * rate)
    window = np.hanning(2 * size).astype(np.float32)
    frequency = np.fft.rfftfreq(2 * size, 1 / rate)
    edges = np.geomspace(_LOWEST, min(_HIGHEST, 0.45 * rate), 1 + round(np.log2(_HIGHEST / _LOWEST) * _PER_OCTAVE))
    masks = np.array([(frequency >= a) & (frequency < b) for a, b in pairwise(edges)], np.float32)
    masks = masks[masks.any(axis=1)]
    many = max(0, int((end - begin) / STEP) - 1)
    found = np.empty((many, len(masks)), np.float32)
    first = round(begin * rate)
    for number in range(0, many, 256):
        n = min(256, many - number)
        block = read(first + number * size, (n + 1) * size).mean(axis=0)
        frames = np.lib.stride_tricks.sliding_window_view(block, 2 * size)[::size][:n]
        power = np.abs(np.fft.rfft(frames * window)) ** 2
        found[number : number + n] = 10 * np.log10(power @ masks.T + 1e-9)
    return found


def find_loop_points(
    read: Callable[[int, int], NDArray[np.float32]],
    rate: int,
    begin: float,
    end: float,
    crossfade: float,
    every: float | None = None,
) -> LoopPoints:
    """The loop within `begin` to `end` seconds that closes best.

    Args:
        read: as `looks`.
        crossfade: seconds wanted; at most a third of what there is.
        every: the loop lasts a whole number of so many seconds (a beat, a bar); None: any length.
    """
    crossfade = min(crossfade, (end - begin) / 3)
    across = max(1, round(crossfade / STEP))
    head = looks(read, rate, begin, begin + crossfade + 2 * STEP)[:across]
    search = max(begin + 2 * crossfade, end - max(_SEARCH * (end - begin), 2 * crossfade))
    search = max(search, end - 120.0)
    ends = _ends(begin + crossfade, search, end, every)
    if not len(ends):
        search = begin + 2 * crossfade  # no whole beat ends where one would look: any within the recording
        ends = _ends(begin + crossfade, search, end, every)
    tail = looks(read, rate, search - crossfade, end)
    if not len(ends) or len(head) < across or len(tail) < across:
        return LoopPoints(begin, end, crossfade, 0.0, 0.0)
    starts = np.clip(np.rint((ends - search) / STEP).astype(int), 0, len(tail) - across)
    apart = np.array([_apart(head, tail[n : n + across]) for n in starts])
    best = int(apart.argmin())
    return LoopPoints(begin, float(ends[best]), crossfade, float(apart[best]), float(apart[-1]))


def _ends(first: float, search: float, end: float, every: float | None) -> NDArray[np.float64]:
    """Where a loop that begins at `first` (its crossfade behind it) may end, from `search` to `end`."""
    if every is None:
        return search + STEP * np.arange(max(0, int((end - search) / STEP) + 1), dtype=np.float64)
    least, most = int(np.ceil((search - first) / every - 1e-6)), int((end - first) / every + 1e-6)
    return first + every * np.arange(max(1, least), most + 1, dtype=np.float64)


def _apart(one: NDArray[np.float32], other: NDArray[np.float32]) -> float:
    """dB between two stretches: of each band's level on the whole, and of the level from moment to moment."""
    bands = np.abs(one.mean(axis=0) - other.mean(axis=0)).mean()
    moments = np.abs(one.mean(axis=1) - other.mean(axis=1)).mean()
    return float(bands + _LEVEL_WEIGHT * moments)
