"""A performance held against the grid: each word's felt beat against its count, the plan being known.

A constant lag (the performer's ear, the microphone's buffer) is found first, by laying the beginnings of sounds on the
plan; then each row of words is aligned with its sound, and each word gets its felt beat.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import median, pstdev

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError
from nafas.rehearsal.forced_alignment import Aligner
from nafas.review.audit.decoder import Ear, tuned
from nafas.review.audit.vocabulary import of_timeline, plain
from nafas.timing.timeline import EventKind, Moment, Timeline
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.segmentation.source import Source, at_rate
from nafas.voice.segmentation.utterances import FRAME_SECONDS, RATE, band_levels, noise_floor

_SAID = (EventKind.COUNT, EventKind.CUE, EventKind.CALL, EventKind.STROKE)
_MOST_LAG, _STEP = 0.8, 0.01
"""Seconds of constant lag that are looked for, and how finely."""
_OVER = 7.0
"""dB over the noise at which something is said."""
_LEAST = 0.06
"""Seconds of a word."""
_PAUSE, _MOST_WORDS = 3.5, 60
"""Seconds between two words that are aligned in one go, at most, and how many those are."""
_AROUND, _AFTER = 0.8, 1.5
"""Seconds before the first word of a row and after the last one that are listened to."""
_EARLIER, _OVERLAP = 0.06, 0.02
"""Seconds before a word's beginning that belong to it, and that it may reach into the word before."""
_TALK_EARLY = 0.8
"""Seconds before its time at which a sentence may begin."""
_SECONDS_A_WORD, _LONGEST = 0.9, 60.0


@dataclass(frozen=True)
class PerformedWord:
    """A word or sentence that was due.

    Attributes:
        moment: of the session.
        start, end: seconds of the recording; None where nothing was said.
        beat: seconds of the recording at which it is felt, for a sentence at which it begins; or None.
        late: seconds after its count, the constant lag taken off; or None.
    """

    moment: Moment
    start: float | None
    end: float | None
    beat: float | None
    late: float | None


@dataclass(frozen=True)
class Performance:
    """What was performed.

    Attributes:
        words: all that was due, in order.
        lag: constant seconds by which all of it is late.
    """

    words: tuple[PerformedWord, ...]
    lag: float

    @cached_property
    def counted(self) -> tuple[PerformedWord, ...]:
        """The words on counts that were said."""
        return tuple(w for w in self.words if w.late is not None and w.moment.kind in _SAID)

    @property
    def missing(self) -> tuple[PerformedWord, ...]:
        return tuple(word for word in self.words if word.start is None)

    @property
    def spread(self) -> float:
        """Standard deviation of the words' lateness, in seconds."""
        late = [word.late for word in self.counted if word.late is not None]
        return pstdev(late) if late else 0.0

    def by_round(self) -> list[tuple[str, int, float, float]]:
        """(block, round, middle lateness, furthest) of each round in which something was said, in order."""
        rounds: dict[tuple[str, int], list[float]] = {}
        for word in self.counted:
            if word.late is not None:
                rounds.setdefault((word.moment.block, word.moment.round), []).append(word.late)
        return [(block, number, median(late), max(late, key=abs)) for (block, number), late in rounds.items()]


def judge_performance(
    source: Source,
    timeline: Timeline,
    offset: float,
    progress: Callable[[float], None] = lambda done: None,
) -> Performance:
    """Find every word that was due in a recording, and how late it is.

    Args:
        source: the recording.
        timeline: of the session.
        offset: time of the session, in seconds, at which the recording begins; earlier than 0 with a lead-in.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: nothing was due while it was recorded.
        Cancelled: when `progress` does.
    """
    due = [
        moment
        for moment in timeline.spoken
        if (moment.kind in _SAID or moment.kind is EventKind.TALK) and offset <= moment.at <= offset + source.seconds
    ]
    if not due:
        problem = "holds no time at which a word was due"
        raise InputError(str(source.path), problem, "perform from a place where something is said")
    levels = band_levels(source.blocks(RATE), lambda frames: progress(0.4 * frames / max(1, RATE * source.seconds)))
    over = _over_noise(levels)
    times = [float(moment.at) - offset for moment in due]
    lag = _lag(over, [time for time, moment in zip(times, due) if moment.kind in _SAID] or times)
    words = {
        position: _sentence(
            moment, over, times[position], times[position + 1] if position + 1 < len(times) else None, lag
        )
        for position, moment in enumerate(due)
        if moment.kind is EventKind.TALK
    }
    language = timeline.session.language.partition("-")[0]
    aligner = Aligner([plain(moment.text) for moment in due], language)
    tuning = tuned(source, Ear(of_timeline(timeline)))
    rows = _rows(due, times)
    for number, row in enumerate(rows):
        progress(0.4 + 0.6 * number / len(rows))
        begin, end = times[row[0]] + lag - _AROUND, times[row[-1]] + lag + _AFTER
        said = aligner.align(row, source, begin, min(end, source.seconds), tuning)
        for position, before in zip(row, [None, *row]):
            after_that = said.get(before) if before is not None else None
            words[position] = _word(source, due[position], times[position] + lag, said.get(position), after_that, over)
    return _centred(Performance(tuple(words[position] for position in range(len(due))), lag))


def _centred(performance: Performance) -> Performance:
    """With the middle of all lateness taken for the constant lag."""
    late = [word.late for word in performance.counted if word.late is not None]
    if not late:
        return performance
    more = median(late)
    words = tuple(
        PerformedWord(w.moment, w.start, w.end, w.beat, None if w.late is None else w.late - more)
        for w in performance.words
    )
    return Performance(words, performance.lag + more)


def _over_noise(levels: NDArray[np.float32]) -> NDArray[np.float64]:
    """How far the loudest band stands over its noise, dB, every 10 ms."""
    if not len(levels):
        return np.zeros(0)
    kernel = np.hanning(7)[1:-1] / np.hanning(7)[1:-1].sum()
    smooth = np.stack([np.convolve(band, kernel, "same") for band in levels.T], axis=1).astype(np.float32)
    values: NDArray[np.float64] = (smooth - noise_floor(smooth)).max(axis=1).astype(np.float64)
    return values


def _lag(over: NDArray[np.float64], times: Sequence[float]) -> float:
    """The constant lag at which most words begin: where the sum of rises at all places is greatest."""
    loud = np.clip(over, 0, 30)
    rises = np.maximum(0, loud[6:] - loud[:-6])  # over 60 ms
    lags = np.arange(-_MOST_LAG, _MOST_LAG + _STEP / 2, _STEP)
    places = np.array(times)[:, None] + lags[None, :]
    index = np.round(places / FRAME_SECONDS).astype(int) - 3
    inside = (index >= 0) & (index < len(rises))
    sums = (
        np.where(inside, rises[np.clip(index, 0, max(0, len(rises) - 1))], 0.0).sum(axis=0) if len(rises) else lags * 0
    )
    # A little for being early or late by little: of equal sums the least lag is meant.
    return float(lags[int(np.argmax(sums - 1e-3 * sums.max(initial=0.0) * np.abs(lags)))])


def _rows(due: Sequence[Moment], times: Sequence[float]) -> list[list[int]]:
    """The places of words on counts that follow each other without a long pause: what is aligned in one go."""
    rows: list[list[int]] = []
    for position, moment in enumerate(due):
        if moment.kind not in _SAID:
            continue
        last = rows[-1][-1] if rows else None
        goes_on = last == position - 1 and times[position] - times[position - 1] < _PAUSE if position else False
        if goes_on and len(rows[-1]) < _MOST_WORDS:
            rows[-1].append(position)
        else:
            rows.append([position])
    return rows


def _word(
    source: Source,
    moment: Moment,
    due: float,
    said: tuple[float, float] | None,
    before: tuple[float, float] | None,
    over: NDArray[np.float64],
) -> PerformedWord:
    """A word on its felt beat.

    Args:
        due: seconds of the recording, the lag taken in.
        said: where it is said, or None.
        before: where the word before it is said, or None.
    """
    bounds = None if said is None else _loud(over, *said)
    if said is None or bounds is None:
        return PerformedWord(moment, None, None, None, None)
    start = max(said[0] - _EARLIER, before[1] - _OVERLAP if before is not None else 0.0, 0.0)
    first = round(start * source.rate)
    samples = source.read(first, round(bounds[1] * source.rate) - first)
    beat = first / source.rate + find_beat(at_rate(samples, source.rate), RATE).seconds
    return PerformedWord(moment, min(bounds[0], beat), bounds[1], beat, beat - due)


def _loud(over: NDArray[np.float64], begin: float, end: float) -> tuple[float, float] | None:
    """From where to where something is said between two times; None for nothing."""
    first, last = (min(len(over), max(0, round(time / FRAME_SECONDS))) for time in (begin, end))
    heard = np.flatnonzero(over[first:last] > _OVER)
    if len(heard) * FRAME_SECONDS < _LEAST:
        return None
    return float((first + heard[0]) * FRAME_SECONDS), float((first + heard[-1] + 1) * FRAME_SECONDS)


def _sentence(moment: Moment, over: NDArray[np.float64], at: float, after: float | None, lag: float) -> PerformedWord:
    """A sentence from its first sound to its last before what is due next."""
    longest = min(_LONGEST, 2.0 + _SECONDS_A_WORD * len(moment.text.split()))
    end = at + lag + longest if after is None else min(at + lag + longest, after + lag - 0.1)
    bounds = _loud(over, at + lag - _TALK_EARLY, end)
    if bounds is None:
        return PerformedWord(moment, None, None, None, None)
    return PerformedWord(moment, bounds[0], bounds[1], bounds[0], bounds[0] - at - lag)
