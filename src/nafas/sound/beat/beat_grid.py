"""A bed's beat against the count: where the beats of a bed fall, which counts they give, and how far counts are off.

A beat is where a listener taps; its place in a bed that plays is in seconds of the bed itself, whose first sound is 0.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from nafas.script.model.beds import FASTEST, SLOWEST, BeatGrid

_SHORTEST, _LONGEST = 0.2, 6.0  # bounds of a count, in seconds
_FINEST = 100_000  # a count length is offered in these parts of a second: a thousand counts stay within 5 ms


@dataclass(frozen=True)
class PlayingBeatGrid:
    """The beat of a bed that plays: seconds from beat to beat, where the first one is, and beats in a bar."""

    seconds: float
    first: float
    bar: int

    def offset(self, at: float) -> float:
        """Seconds into the bed at which the session begins, so that a bar begins `at` seconds into the session."""
        return (self.first - at) % (self.seconds * self.bar)


def beat_of(pulse: BeatGrid, pace: float, begin: float) -> PlayingBeatGrid:
    """The beat of a recording that plays at a pace from `begin` seconds of it on."""
    return PlayingBeatGrid(
        pulse.seconds / pace, ((pulse.first - begin) % (pulse.seconds * pulse.bar)) / pace, pulse.bar
    )


@dataclass(frozen=True)
class Agreement:
    """One way for count and beat to agree.

    Attributes:
        name: "one count a beat", "one count every two beats", "one count a bar".
        beats: beats in a count.
        count: seconds of a count where the bed stays as it is.
        pace: how fast the bed plays where the count stays as it is; None: that is more than can go unheard.
    """

    name: str
    beats: int
    count: Fraction
    pace: float | None


def agreements(pulse: BeatGrid, count: Fraction) -> tuple[Agreement, ...]:
    """The ways in which a pulse and a count length (seconds) can agree; what would be no count at all is left out."""
    result: list[Agreement] = []
    ways = {1: "one count a beat", 2: "one count every two beats", pulse.bar: f"one count a bar of {pulse.bar}"}
    for beats, name in sorted(ways.items()):
        seconds = pulse.seconds * beats
        if _SHORTEST <= seconds <= _LONGEST:
            pace = seconds / float(count)
            fits = SLOWEST - 1e-9 <= pace <= FASTEST + 1e-9
            exact = Fraction(round(seconds * _FINEST), _FINEST)
            result.append(Agreement(name, beats, exact, pace if fits else None))
    return tuple(result)


@dataclass(frozen=True, eq=False)
class CountsAgainstBeats:
    """Counts of a session next to the beats of its bed.

    Attributes:
        at: seconds of each count, shape (n,).
        off: seconds by which the count comes after the nearest beat, shape (n,); within half a beat on either side.
        worst: the largest of them, whichever way, in seconds; 0.0 where nothing is counted.
        agreeing: share of counts within 30 ms of a beat.
    """

    at: NDArray[np.float64]
    off: NDArray[np.float64]

    @property
    def worst(self) -> float:
        return float(np.abs(self.off).max(initial=0.0))

    @property
    def agreeing(self) -> float:
        return float((np.abs(self.off) <= TOGETHER).mean()) if len(self.off) else 0.0


TOGETHER = 0.03
"""Seconds within which two sounds are taken for one stroke (about the threshold of order, Hirsh 1959; from memory)."""


def beat_offsets(counts: Sequence[float], beat: PlayingBeatGrid, offset: float) -> CountsAgainstBeats:
    """Each count against the beat nearest to it.

    Args:
        counts: seconds of the session, rising.
        beat: of the bed as it plays.
        offset: seconds into the bed at which the session begins.
    """
    at = np.asarray(counts, np.float64)
    index = (at + offset - beat.first) / beat.seconds
    return CountsAgainstBeats(at, (index - np.rint(index)) * beat.seconds)


def beat_offsets_heard(counts: Sequence[float], beats: NDArray[np.float64]) -> CountsAgainstBeats:
    """Each count against the nearest of some beats as they are heard: for a tempo that wanders.

    Args:
        counts, beats: seconds of the session, rising. Without any beat there is nothing to hold counts to: ().
    """
    at = np.asarray(counts, np.float64)
    if not len(beats) or not len(at):
        return CountsAgainstBeats(np.zeros(0), np.zeros(0))
    after = np.clip(np.searchsorted(beats, at), 1, max(1, len(beats) - 1))
    around = np.stack([beats[np.minimum(after - 1, len(beats) - 1)], beats[np.minimum(after, len(beats) - 1)]])
    off = at - around
    nearest = np.abs(off).argmin(axis=0)
    return CountsAgainstBeats(at, off[nearest, np.arange(len(at))])
