"""The tempo of a recording and where its beats fall, with how sure that is; "none" where there is no beat.

A first tempo and a first row of beats are librosa's (spectral flux as onset strength; Ellis, "Beat tracking by dynamic
programming", 2007). From there it is ours: a row that beats twice as fast as the sound does, or half, is found by how
strong its alternate beats are; the row is then laid straight through the beats by least squares, and its phase taken
from where the energy rises, which is where a listener taps. Times are seconds of the recording.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nafas.errors import Cancelled
from nafas.script.beds import Pulse
from nafas.sound.recording import Recording

RATE = 22_050
LOOKED = 600.0
"""Seconds of a recording that are looked at: enough for a beat, and for how far it wanders."""
SURE = 0.5
"""Confidence under which there is said to be no beat."""
_HOP, _FFT = 128, 1024
_SLOWEST, _FASTEST = 40.0, 200.0  # bpm
_SHORTEST = 6.0  # seconds under which no tempo is looked for
_NEAR = 0.045  # seconds on either side of a beat in which its onset may lie
_SNAPS = 0.09  # the same where a beat is moved to its onset
_ALTERNATE = 0.45  # alternate beats weaker than this part of the others are no beats
_RISE = 0.004  # seconds over which energy is looked at where its rise is sought
WANDERS = 0.025
"""Seconds (RMS) from an even row at which beats are said to wander: near what is heard as unevenness (common practice,
no source)."""

Envelope = NDArray[np.float32]
Times = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Tempo:
    """What was found.

    Attributes:
        pulse: tempo and a beat; None where there is none one could count by.
        confidence: 0 to 1: the share of beats that are the strongest onset around, less what chance would give.
        beats: seconds of each, as tracked, shape (n,).
        wander: RMS of the tracked beats' distance from an even row, in seconds.
        drift: the tempo of the last third of the beats over that of the first, less 1.
        looked: seconds that were looked at.
    """

    pulse: Pulse | None
    confidence: float
    beats: Times
    wander: float
    drift: float
    looked: float

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
    """The tempo of mono sound at `RATE`, shape (n,), whose first sample is `begin` seconds into its recording."""
    seconds = len(sound) / RATE
    none = Tempo(None, 0.0, np.zeros(0), 0.0, 0.0, seconds)
    if seconds < _SHORTEST or not np.any(sound):
        return none
    import librosa

    envelope = librosa.onset.onset_strength(y=sound, sr=RATE, hop_length=_HOP, n_fft=_FFT)
    if not envelope.any():
        return none
    coarse = envelope[: len(envelope) // 4 * 4].reshape(-1, 4).max(axis=1)
    bpm = float(np.atleast_1d(librosa.feature.tempo(onset_envelope=coarse, sr=RATE, hop_length=4 * _HOP))[0])
    if not bpm > 0:
        return none
    rows = [_row(envelope, bpm * ratio) for ratio in (1 / 3, 1 / 2, 1, 2, 3) if _SLOWEST <= bpm * ratio <= _FASTEST]
    rows = [row for row in rows if len(row) >= 4]
    if not rows:
        return none
    best = max(rows, key=lambda row: (_confidence(envelope, row) * _strength(envelope, row), len(row)))
    best = _slower(envelope, best)
    confidence = _confidence(envelope, best)
    best = _snapped(envelope, best)
    numbers = _numbers(best)
    period, start = _straight(numbers, best)
    wander = float(np.sqrt(((best - (start + period * numbers)) ** 2).mean()))
    if confidence < SURE or not _SLOWEST * 0.8 <= 60 / period <= _FASTEST * 1.2:
        return Tempo(None, confidence, best + begin, wander, 0.0, seconds)
    third = max(2, len(best) // 3)
    early, late = (_straight(numbers[part], best[part])[0] for part in (slice(third), slice(-third, None)))
    if wander <= WANDERS:
        start = _rises(sound, period, start)
    first = begin + start % period
    return Tempo(
        Pulse(bpm=60 / period, first=first), confidence, best + begin, wander, float(early / late - 1), seconds
    )


def _row(envelope: Envelope, bpm: float) -> Times:
    """Beats at about a tempo, in seconds."""
    import librosa

    _, beats = librosa.beat.beat_track(
        onset_envelope=envelope, sr=RATE, hop_length=_HOP, bpm=bpm, trim=False, units="time"
    )
    found = np.asarray(beats, np.float64)
    # Before its first sound and after its last there is nothing to beat.
    loud = np.flatnonzero(envelope > 0.02 * envelope.max()) * _HOP / RATE
    heard: Times = found[(found >= loud[0] - 0.1) & (found <= loud[-1] + 0.1)]
    return heard


def _near(envelope: Envelope, times: Times) -> NDArray[np.float32]:
    """The strongest onset near each time."""
    reach = round(_NEAR * RATE / _HOP)
    places = np.clip(np.rint(times * RATE / _HOP).astype(int), 0, len(envelope) - 1)
    padded = np.pad(envelope, reach)
    found: NDArray[np.float32] = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)[places].max(axis=1)
    return found


def _strength(envelope: Envelope, row: Times) -> float:
    """How strong the beats of a row are, in the mean, beside all onsets."""
    return float(_near(envelope, row).mean() / (envelope.mean() + 1e-9))


def _confidence(envelope: Envelope, row: Times) -> float:
    """The share of beats that are the strongest onset within half a beat on either side, less what chance gives."""
    period = float(np.median(np.diff(row)))
    half = max(2, round(period / 2 * RATE / _HOP))
    padded = np.pad(envelope, half)
    places = np.clip(np.rint(row * RATE / _HOP).astype(int), 0, len(envelope) - 1)
    around = np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1)[places]
    at = np.abs(around.argmax(axis=1) - half) * _HOP / RATE
    chance = min(0.9, 2 * _NEAR / period)
    share = float((at <= _NEAR).mean())
    return max(0.0, (share - chance) / (1 - chance))


def _slower(envelope: Envelope, row: Times) -> Times:
    """Every second or third beat of a row, where those between are hardly beats at all."""
    for every in (2, 3):
        if len(row) < 4 * every:
            continue
        strengths = [float(np.median(_near(envelope, row[k::every]))) for k in range(every)]
        strong = int(np.argmax(strengths))
        others = [s for k, s in enumerate(strengths) if k != strong]
        slow = np.median(np.diff(row)) * every <= 60 / _SLOWEST
        if slow and max(others) < _ALTERNATE * strengths[strong]:
            return _slower(envelope, row[strong::every])
    return row


def _snapped(envelope: Envelope, row: Times) -> Times:
    """The beats of a row at their onsets, without those that have none: the row was drawn evenly across them."""
    reach = round(_SNAPS * RATE / _HOP)
    places = np.clip(np.rint(row * RATE / _HOP).astype(int), 0, len(envelope) - 1)
    around = np.lib.stride_tricks.sliding_window_view(np.pad(envelope, reach), 2 * reach + 1)[places]
    highest = around.max(axis=1)
    # Between equally strong onsets the nearest counts.
    nearest = np.argmax(around * np.hanning(2 * reach + 3)[1:-1] ** 0.25, axis=1) - reach
    found = (places + nearest) * (_HOP / RATE)
    kept = found[highest > 0.3 * np.median(highest)]
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
    place = middle - reach + int(smooth[middle - reach : middle + reach + 1].argmax())
    return float(start + ((place + 0.5) / bins - 0.5) * period)
