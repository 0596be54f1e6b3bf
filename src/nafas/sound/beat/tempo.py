"""The tempo of a recording and where its beats fall, with how sure that is; "none" where there is no beat.

Tempos that stand out come from the tempogram, a row of beats for each by dynamic programming; the strongest whose row
is straight wins. The row is then laid straight through the beats by least squares, and its phase taken from where the
energy rises, which is where a listener taps. Times are seconds of the recording.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nafas.errors import Cancelled
from nafas.script.model.beds import BeatGrid
from nafas.sound.beat.beat_tracker import Times, track_beats
from nafas.sound.beat.onsets import FPS, HOP, RATE, Envelope, onset_strength
from nafas.sound.beat.tempogram import SLOWEST, Candidate, candidates
from nafas.sound.files.recording import Recording

LOOKED = 600.0
"""Seconds of a recording that are looked at: enough for a beat, and for how far it wanders."""
SURE = 0.5
"""Confidence under which there is said to be no beat."""
_FINER, _NEAR_TEMPO = 8, 1.02  # of the spectrum in which an even row is sought, and how far from the candidate
_SHORTEST = 6.0  # seconds under which no tempo is looked for
_SNAPS = 0.09  # the same where a beat is moved to its onset
_NEAR = 0.045  # seconds on either side of a beat in which its onset may lie
_ALTERNATE = 0.45  # alternate beats weaker than this part of the others are no beats
_STANDING = 0.6  # of the strongest tempo: another that may be meant
_STRAIGHT = 0.06  # of a beat, RMS: a row that lies nearer to an even one is straight
_LOST = 0.15  # of a beat: a row that is as crooked follows nothing
_CROOKED = 0.8  # of the confidence, where no row is straight
_NOTHING, _PLAIN = 1.2, 2.4
"""Over the median of all tempos: what noise and ambient come to at most, about, and from where a beat is plain."""
_OCTAVES = (0.5, 2.0, 1 / 3, 3.0)
_RISE = 0.004  # seconds over which energy is looked at where its rise is sought
WANDERS = 0.025
"""Seconds (RMS) from an even row at which beats are said to wander: near what is heard as unevenness (common practice,
no source)."""


@dataclass(frozen=True, eq=False)
class Tempo:
    """What was found.

    Attributes:
        pulse: tempo and a beat; None where there is none one could count by.
        confidence: 0 to 1: how far its strength stands over that of all tempos, between what noise comes to and what is
            plain.
        beats: seconds of each, as tracked, shape (n,).
        wander: RMS of the tracked beats' distance from an even row, in seconds.
        drift: the tempo of the last third of the beats over that of the first, less 1.
        looked: seconds that were looked at.
        octaves: bpm at half or twice the tempo (or a third, or three times) that it can also be counted at.
    """

    pulse: BeatGrid | None
    confidence: float
    beats: Times
    wander: float
    drift: float
    looked: float
    octaves: tuple[float, ...] = ()

    @property
    def wanders(self) -> bool:
        """Whether an even row cannot follow it."""
        return self.pulse is not None and self.wander > WANDERS


def find_tempo(
    recording: Recording,
    begin: float = 0.0,
    end: float | None = None,
    stopped: Callable[[], bool] = lambda: False,
) -> Tempo:
    """The tempo of a recording between two places, in seconds.

    Args:
        recording: at `RATE`.
        begin, end: what is looked at; no more than `LOOKED`.
        stopped: asked between blocks.

    Raises:
        InputError: it cannot be read.
        Cancelled: when `stopped` says so.
    """
    end = min(recording.seconds if end is None else end, recording.seconds, begin + LOOKED)
    first, last = round(begin * RATE), round(end * RATE)
    parts = []
    for at in range(first, last, 1 << 18):
        if stopped():
            raise Cancelled
        parts.append(recording.read(at, min(1 << 18, last - at)).mean(axis=0))
    sound = np.nan_to_num(np.concatenate([*parts, np.zeros(0, np.float32)]))
    return tempo_of(sound, begin)


def tempo_of(sound: NDArray[np.float32], begin: float = 0.0) -> Tempo:
    """The tempo of mono sound at `RATE`, shape (n,), whose first sample is `begin` seconds into its recording.

    Of the tempos that stand out the strongest is taken whose row of beats is straight, as nearly all music that a bed
    is made of is; where none is, the strongest, and it is said to wander.
    """
    seconds = len(sound) / RATE
    none = Tempo(None, 0.0, np.zeros(0), 0.0, 0.0, seconds)
    if seconds < _SHORTEST or not np.any(sound):
        return none
    envelope = onset_strength(sound)
    tempos = candidates(envelope)
    if not tempos:
        return none
    strongest = tempos[0].strength
    rows = []
    for candidate in tempos:
        if candidate.strength < _STANDING * strongest:
            continue
        tracked = track_beats(envelope, candidate.bpm)
        laid = [
            _laid(candidate, beats)
            for beats in (
                _snapped(envelope, row) for row in (_slower(envelope, tracked), tracked, _even(envelope, candidate))
            )
            if len(beats) >= 4
        ]
        if laid:  # the first that is straight
            rows.append(min(laid, key=lambda row: row.wander / row.period > _STRAIGHT))
    if not rows:
        return none
    straight = [row for row in rows if row.wander < _STRAIGHT * row.period]
    best = (straight or rows)[0]
    confidence = min(1.0, max(0.0, (best.strength - _NOTHING) / (_PLAIN - _NOTHING)))
    if not straight:
        confidence *= _CROOKED if best.wander < _LOST * best.period else 0.0
    others = tuple(sorted({round(row.bpm, 1) for row in rows if _octave(row.bpm / best.bpm)}))
    if confidence < SURE:
        return Tempo(None, confidence, best.beats + begin, best.wander, 0.0, seconds)
    beats, start = best.beats, best.start
    third = max(2, len(beats) // 3)
    numbers = _numbers(beats)
    early, late = (_straight(numbers[part], beats[part])[0] for part in (slice(third), slice(-third, None)))
    if best.wander <= WANDERS:
        start = _rises(sound, best.period, start)
    first = begin + start % best.period
    grid = BeatGrid(bpm=best.bpm, first=first)
    return Tempo(grid, confidence, beats + begin, best.wander, float(early / late - 1), seconds, others)


def _even(envelope: Envelope, candidate: Candidate) -> Times:
    """An even row near a candidate's tempo, as music made by machine has it: tracking by the beat may lose it where the
    onsets between beats are as strong.

    Its tempo is that at which the onset curve's spectrum is strongest over its whole length, with its double and
    fourfold: where music moves to the off-beat for a while the double goes on. Its phase is that of the double, on the
    side where the onsets are stronger.
    """
    size = _FINER * len(envelope)
    spectrum = np.fft.rfft(envelope - envelope.mean(), size)
    bins = np.arange(*np.rint(size / FPS * candidate.bpm / 60 * np.array([1 / _NEAR_TEMPO, _NEAR_TEMPO])).astype(int))
    best = int(bins[sum(np.abs(spectrum[times * bins]) for times in (1, 2, 4)).argmax()]) if len(bins) else 0
    if not best or 4 * best >= len(spectrum):
        return np.zeros(0)
    frequency = best * FPS / size
    phase = float(-np.angle(spectrum[2 * best]) / (4 * np.pi)) % 0.5
    rows = [np.arange(phase + aside, len(envelope) / FPS * frequency, 1.0) / frequency for aside in (0.0, 0.5)]
    return max(rows, key=lambda row: float(_near(envelope, row).mean()))


def _octave(ratio: float) -> bool:
    return any(abs(ratio / octave - 1) < 0.03 for octave in _OCTAVES)


@dataclass(frozen=True, eq=False)
class _Row:
    """A candidate's beats, and the even row nearest to them."""

    strength: float
    beats: Times
    period: float
    start: float
    wander: float

    @property
    def bpm(self) -> float:
        return 60 / self.period


def _laid(candidate: Candidate, beats: Times) -> _Row:
    numbers = _numbers(beats)
    period, start = _straight(numbers, beats)
    wander = float(np.sqrt(((beats - (start + period * numbers)) ** 2).mean()))
    return _Row(candidate.strength, beats, period, start, wander)


def _near(envelope: Envelope, times: Times) -> NDArray[np.float32]:
    """The strongest onset near each time."""
    reach = round(_NEAR * RATE / HOP)
    places = np.clip(np.rint(times * RATE / HOP).astype(int), 0, len(envelope) - 1)
    padded = np.pad(envelope, reach)
    values: NDArray[np.float32] = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)[places].max(axis=1)
    return values


def _slower(envelope: Envelope, row: Times) -> Times:
    """Every second or third beat of a row, where those between are hardly beats at all."""
    for every in (2, 3):
        if len(row) < 4 * every:
            continue
        strengths = [float(np.median(_near(envelope, row[k::every]))) for k in range(every)]
        strong = int(np.argmax(strengths))
        others = [s for k, s in enumerate(strengths) if k != strong]
        slow = np.median(np.diff(row)) * every <= 60 / SLOWEST
        if slow and max(others) < _ALTERNATE * strengths[strong]:
            return _slower(envelope, row[strong::every])
    return row


def _snapped(envelope: Envelope, row: Times) -> Times:
    """The beats of a row at their onsets, without those that have none: the row was drawn evenly across them."""
    reach = round(_SNAPS * RATE / HOP)
    places = np.clip(np.rint(row * RATE / HOP).astype(int), 0, len(envelope) - 1)
    around = np.lib.stride_tricks.sliding_window_view(np.pad(envelope, reach), 2 * reach + 1)[places]
    highest = around.max(axis=1)
    # Between equally strong onsets the nearest counts.
    nearest = np.argmax(around * np.hanning(2 * reach + 3)[1:-1] ** 0.25, axis=1) - reach
    beats = (places + nearest) * (HOP / RATE)
    kept = beats[highest > 0.3 * np.median(highest)]
    return np.asarray(kept[np.diff(kept, prepend=-np.inf) > 0.1], np.float64)


def _numbers(row: Times) -> Times:
    """The number of each beat, counted on across one that was missed."""
    period = np.median(np.diff(row))
    return np.concatenate([[0.0], np.cumsum(np.maximum(1, np.rint(np.diff(row) / period)))])


def _straight(numbers: Times, row: Times) -> tuple[float, float]:
    """Period and start of the even row nearest to some beats."""
    period, start = np.polyfit(numbers, row, 1)
    return float(period), float(start)


def _rises(sound: NDArray[np.float32], period: float, start: float) -> float:
    """Where an even row starts by where the energy rises in the mean over its beats: an onset's strength comes before
    it or after it by as much as the window it was looked at through.

    The rise of energy over `_RISE` is folded at the period; its steepest place near the row is the beat.
    """
    hop = round(_RISE * RATE / 2)
    level = np.sqrt(np.add.reduceat(sound.astype(np.float64) ** 2, np.arange(0, len(sound), hop)))
    rise = np.maximum(level[2:] - level[:-2], 0)
    rise = np.minimum(rise / (rise.mean() + 1e-12), 12.0)  # one loud stroke does not speak for all
    at = (np.arange(len(rise)) + 1.5) * hop / RATE
    bins = max(8, round(period / _RISE))
    fold = np.bincount((((at - start) / period + 0.5) % 1 * bins).astype(int), rise, bins)
    width = round(0.012 / _RISE)
    smooth = np.convolve(fold, np.hanning(2 * width + 1), "same")
    reach, middle = round(0.06 / _RISE), bins // 2
    index = middle - reach + int(smooth[middle - reach : middle + reach + 1].argmax())
    return float(start + ((index + 0.5) / bins - 0.5) * period)
