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
_SEARCH = 0.35  # share of the recording, at its end, in which the loop may end
_LEAD, _LEAD_SHARE = 12.0, 0.1  # seconds, and share, at its beginning in which it may begin
_BEGINS = 5  # looks between places where it may begin
_LOST = 3.0  # dB that all of the length is worth: of two loops that close alike, the longer


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
            f"loop {clock(self.begin)} to {clock(self.end, tenths=True)}, {self.crossfade:.1f} s over; its ends are "
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
    count = max(0, int((end - begin) / STEP) - 1)
    values = np.empty((count, len(masks)), np.float32)
    first = round(begin * rate)
    for number in range(0, count, 256):
        n = min(256, count - number)
        block = read(first + number * size, (n + 1) * size).mean(axis=0)
        frames = np.lib.stride_tricks.sliding_window_view(block, 2 * size)[::size][:n]
        power = np.abs(np.fft.rfft(frames * window)) ** 2
        values[number : number + n] = 10 * np.log10(power @ masks.T + 1e-9)
    return values


def find_loop_points(
    read: Callable[[int, int], NDArray[np.float32]],
    rate: int,
    begin: float,
    end: float,
    crossfade: float,
    every: float | None = None,
) -> LoopPoints:
    """The loop within `begin` to `end` seconds that closes best; both its ends are looked for.

    Args:
        read: as `looks`.
        crossfade: seconds wanted; at most a third of what there is.
        every: the loop lasts a whole number of so many seconds (a beat, a bar); None: any length.
    """
    crossfade = min(crossfade, (end - begin) / 3)
    across = max(1, round(crossfade / STEP))
    lead = min(_LEAD, _LEAD_SHARE * (end - begin))
    heads = looks(read, rate, begin, begin + lead + crossfade + 2 * STEP)
    search = max(begin + lead + 2 * crossfade, end - max(_SEARCH * (end - begin), 2 * crossfade))
    search = max(search, end - 120.0)
    if not len(_ends(begin + crossfade, search, end, every)):
        search = begin + lead + 2 * crossfade  # no whole beat ends where one would look: any within the recording
    tail = looks(read, rate, search - crossfade, end)
    best, best_cost, usual = None, np.inf, 0.0
    for first in range(0, max(1, round(lead / STEP)), _BEGINS):
        head = heads[first : first + across]
        starts = begin + first * STEP
        ends = _ends(starts + crossfade, search, end, every)
        if not len(ends) or len(head) < across or len(tail) < across:
            continue
        apart = _apart(head, tail, np.clip(np.rint((ends - search) / STEP).astype(int), 0, len(tail) - across))
        usual = usual if first else float(apart[-1])
        cost = apart + _LOST * (1 - (ends - starts) / (end - begin))
        at = int(cost.argmin())
        if cost[at] < best_cost:
            best, best_cost = (starts, float(ends[at]), float(apart[at])), float(cost[at])
    if best is None:
        return LoopPoints(begin, end, crossfade, 0.0, 0.0)
    return LoopPoints(best[0], best[1], crossfade, best[2], usual)


def _ends(first: float, search: float, end: float, every: float | None) -> NDArray[np.float64]:
    """Where a loop that begins at `first` (its crossfade behind it) may end, from `search` to `end`."""
    if every is None:
        return search + STEP * np.arange(max(0, int((end - search) / STEP) + 1), dtype=np.float64)
    least, most = int(np.ceil((search - first) / every - 1e-6)), int((end - first) / every + 1e-6)
    return first + every * np.arange(max(1, least), most + 1, dtype=np.float64)


def _apart(head: NDArray[np.float32], tail: NDArray[np.float32], starts: NDArray[np.int_]) -> NDArray[np.float64]:
    """dB between a stretch and each as long as it that begins at `starts` of another: of the level of each band,
    and of the level from moment to moment."""
    across = len(head)
    sums = np.concatenate([np.zeros((1, tail.shape[1])), np.cumsum(tail, axis=0, dtype=np.float64)])
    means = (sums[starts + across] - sums[starts]) / across
    bands = np.abs(means - head.mean(axis=0)).mean(axis=1)
    levels = np.lib.stride_tricks.sliding_window_view(tail.mean(axis=1), across)[starts]
    values: NDArray[np.float64] = bands + _LEVEL_WEIGHT * np.abs(levels - head.mean(axis=1)).mean(axis=1)
    return values
