"""A recorded bed that follows the breath: it slows down and quickens as the counts do, at the same pitch."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from nafas.script.model.beds import FASTEST, SLOWEST, FileBed
from nafas.script.model.blocks import BreathSet
from nafas.sound.bed.file_bed import RecordedBed
from nafas.sound.bed.stretched import OnDisk, Stretched
from nafas.sound.stereo import Stereo
from nafas.timing.timeline import EventKind, Timeline

_PIECE = 4.0  # seconds that are stretched at one pace; shorter than for a steady bed, whose pace stays

PaceStep = tuple[float, float]
"""From when on, in seconds of the session, and how much faster than it was recorded a bed plays from there."""


def pace_steps(timeline: Timeline, pace: float, begin: float = 0.0) -> list[PaceStep]:
    """How fast a bed plays that follows the counts: as chosen in the first round that begins at `begin` seconds or
    later, and slower in every round by as much as its counts are longer, within `SLOWEST` and `FASTEST`. Between sets
    it stays as it was.
    """
    rounds: list[tuple[float, float]] = []
    for timed in timeline.blocks:
        if isinstance(timed.block, BreathSet):
            starts = (timed.at(event) for event in timed.body.events if event.kind is EventKind.ROUND)
            rounds += [(float(at), float(one.count_length)) for at, one in zip(starts, timed.rounds, strict=True)]
    rounds = [each for each in rounds if each[0] >= begin]
    steps = [(0.0, pace)]
    for at, count in rounds:
        wanted = min(FASTEST, max(SLOWEST, pace * rounds[0][1] / count))
        if abs(wanted - steps[-1][1]) > 1e-9:
            steps.append((at, wanted))
    return steps


class FollowingBed:
    """A recorded bed at a pace that changes in steps.

    Args:
        bed: the recording as an endless bed, at its own pace.
        steps: when it plays how fast; the first from 0.
        anchor: (seconds of the session, seconds of the bed) that fall together: the first count and a bar.
    """

    keeps = True
    """It keeps what it has stretched for whoever reads it next."""

    def __init__(self, bed: RecordedBed, steps: Sequence[PaceStep], anchor: tuple[float, float] = (0.0, 0.0)) -> None:
        self.bed, self.rate = bed, bed.rate
        self._at = np.array([at for at, _ in steps])
        self._pace = np.array([pace for _, pace in steps])
        self._played = np.concatenate([[0.0], np.cumsum(np.diff(self._at) * self._pace[:-1])])
        self._shift = anchor[1] - self._seconds(np.array([anchor[0]]))[0]
        self._stretched = Stretched(
            bed.read, self.rate, float(self._pace[0]), _PIECE, kept=OnDisk(), source=lambda place: self._source(place)
        )

    def _seconds(self, at: NDArray[np.float64]) -> NDArray[np.float64]:
        step = np.maximum(0, np.searchsorted(self._at, at, "right") - 1)
        seconds: NDArray[np.float64] = self._played[step] + (at - self._at[step]) * self._pace[step]
        return seconds

    def _source(self, place: int) -> float:
        return float(self._seconds(np.array([place / self.rate]))[0] + self._shift) * self.rate

    def read(self, start: int, frames: int) -> Stereo:
        """Frames of the bed at places of the session."""
        return self._stretched.read(start, frames)

    def over_average(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        """As of the recorded bed, at places of the session."""
        own = (self._seconds(places / self.rate) + self._shift) * self.rate
        return self.bed.over_average(np.round(own).astype(np.int64))


def following_bed(bed: RecordedBed, choice: FileBed, timeline: Timeline, begin: float) -> FollowingBed:
    """A recorded bed (at its own pace) that follows a session from `begin` seconds on; with a pulse a bar of it begins
    on the first count from there."""
    first = next((float(moment.at) for moment in timeline.counted if moment.at >= begin), None)
    anchor = (0.0, 0.0)
    if bed.beat is not None and choice.on_counts and first is not None:
        anchor = (first, bed.beat.offset(0.0))
    return FollowingBed(bed, pace_steps(timeline, choice.pace, begin), anchor)
