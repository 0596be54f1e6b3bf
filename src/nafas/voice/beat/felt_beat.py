"""The felt beat of a spoken clip: its perceptual centre (P-centre).

After F. Cummins and R. Port, "Rhythmic constraints on stress timing in English", Journal of Phonetics 26 (1998)
145-171: the beat is the middle of the rise of the mid-band envelope at the vowel. Filter settings are from memory of
that paper: band-pass about 1000 Hz with 600 Hz bandwidth, first order; rectify; low-pass at 10 Hz; the rise is taken
from 10 % to 90 % of the way from the valley before the first strong peak up to that peak.
The band-pass runs once, as theirs did: its gentle skirts let the low vowels of "two" and "six" through, and its delay
is half a millisecond. The low-pass runs forwards and backwards, so that it adds none.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nafas.voice.clip import Samples
from nafas.voice.pitch import periodicity

_BAND = (700.0, 1300.0)
_PAD = 0.2
_SMOOTH = 10.0
_EXTENT_SMOOTH = 31.25
_WIDE = (400.0, 2500.0)  # where every vowel is heard and a hum, a nasal or a hiss hardly
_NOISE_LIKE, _SOME_VOICE = 0.25, 0.6  # periodicity of noise, and of what is surely voiced
_BLUR = 25  # ms by which that may come late
# Of a first vowel: at least this part of the loudest; this part of it stands out; its rise begins at that part of it.
_LEAST, _OWN_PROMINENCE, _FOOT = 0.3, 0.25, 0.2
_STRONG = 0.6  # a peak this part of the highest one carries the beat; a weaker one is a burst, hiss or light syllable
_QUIET, _OVER_NOISE = 0.05, 1.6  # share of a clip that is its quietest, and how far noise rises above that
_SILENT = 1e-3  # part of the highest sample; less is digital silence, or as good as that
_MOST_NOISE = 0.25  # part of the highest peak; what is louder throughout is no noise
_GROWTH = 16  # ms over which the growth of the mid band is judged
_SOON = 60  # ms after a strong sound begins in which it is at its height
_BUMP = 0.1  # prominence, part of the highest peak, at which a rise and fall is a sound of its own
_ONSET_PART, _RHYME_PART, _USUAL_RHYME = 0.65, 0.25, 0.3
_RHYME_WEIGHT, _MOST_APART = 0.3, 0.09
_HEARD = 0.05  # part of the highest peak at which a sound has begun
_FIRST_WORD = 650  # ms in which the first word's beat is sought
_RATE = 8000  # at which every clip is looked at: what a telephone carries is what all have in common
_ENVELOPE_RATE = 1000  # enough for a 10 Hz envelope


@lru_cache(maxsize=32)
def _band_pass(low: float, high: float, rate: int) -> NDArray[np.float64]:
    from scipy import signal

    return np.asarray(signal.butter(1, (low, min(high, 0.45 * rate)), "bandpass", fs=rate, output="sos"))


@lru_cache(maxsize=32)
def _low_pass(cut: float, rate: int) -> NDArray[np.float64]:
    from scipy import signal

    return np.asarray(signal.butter(1, cut, "lowpass", fs=rate, output="sos"))


def envelope(samples: Samples, rate: int, within: tuple[float, float] = _BAND) -> np.ndarray:
    """Amplitude envelope of a band, in Hz, at 1000 samples a second, from `_PAD` seconds before a clip to `_PAD` after.

    The silence around it is part of the rise: a clip cut right at its onset must give the same beat. What the quiet
    part of the clip holds is taken for noise, and taken away.
    """
    from scipy import signal

    pad = np.zeros(round(_PAD * rate))
    padded = np.concatenate([pad, samples, pad])
    smooth = signal.sosfiltfilt(_low_pass(_SMOOTH, rate), np.abs(signal.sosfilt(_band_pass(*within, rate), padded)))
    times = np.arange(int(len(padded) * _ENVELOPE_RATE / rate)) / _ENVELOPE_RATE
    even = np.interp(times, np.arange(len(smooth)) / rate, smooth)
    noise = _OVER_NOISE * _noise(padded, times, rate, even)
    noise = min(noise, _MOST_NOISE * float(even.max()))
    return np.sqrt(np.maximum(even**2 - noise**2, 0.0))


def _noise(samples: Samples, times: np.ndarray, rate: int, level: np.ndarray) -> float:
    """The level of the quiet part of a clip. Digital silence, before it or after, is no part of it.

    Args:
        samples: shape (n,).
        times, level: a level, and when, in seconds; shapes (m,).
    """
    from scipy import ndimage

    starts = np.minimum((times * rate).astype(int), len(samples) - 1)
    sound = np.maximum.reduceat(np.abs(samples), starts)
    heard = ndimage.maximum_filter1d(sound, 21) > _SILENT * max(float(sound.max()), 1e-12)
    return float(np.quantile(level[heard], _QUIET)) if heard.any() else 0.0


def felt_beat(samples: Samples, rate: int) -> float:
    """Seconds from the first sample to the felt beat; 0.0 for silence or less than 20 ms of sound.

    Args:
        samples: mono, shape (n,); level does not matter.
        rate: samples a second, 4000 or more.
    """
    if len(samples) < rate // 50:
        return 0.0
    samples, rate = _even(samples, rate)
    return _rise(samples, rate, envelope(samples, rate))


def _even(samples: Samples, rate: int) -> tuple[Samples, int]:
    """The clip at one rate, whatever it came at: the same filters then see the same sound."""
    if rate == _RATE:
        return samples, rate
    import soxr

    even: Samples = soxr.resample(samples.astype(np.float32, copy=False), rate, _RATE, quality="HQ")
    return even, _RATE


def _rise(samples: Samples, rate: int, values: np.ndarray) -> float:
    """The middle of the rise of a clip whose envelope is `values`, in seconds."""
    from scipy import signal

    whole = float(values.max())
    if whole < 1e-7:
        return 0.0
    # Of several words ("inhale, arms up") the first is the one that is due, and of a word its first vowel.
    onset = int(np.argmax(values > _HEARD * whole))
    start, nucleus = _first_nucleus(_sonorous(samples, rate, onset + _FIRST_WORD))
    values = values[: nucleus + _SOON]
    values[:start] = values[start]  # a hiss before the vowel is no part of its rise
    top = float(values.max())
    # The first strong sound, and its height within a short time: ripples on the way up are no peaks of their own.
    strong = int(np.argmax(values >= _STRONG * top))
    peak = strong + int(np.argmax(values[strong : strong + _SOON]))
    # The rise begins in the valley after a weaker sound before it (the light syllable of "inhale"), if there is one.
    bumps, _ = signal.find_peaks(np.concatenate([[0], values, [0]]), prominence=_BUMP * top)
    begin = max((int(bump) - 1 for bump in bumps if bump <= strong), default=0)
    rise = values[begin : peak + 1]
    valley = begin + int(np.flatnonzero(rise <= rise.min() + 0.02 * top)[-1])
    low, high = values[valley], values[peak]
    climb = (values[valley : peak + 1] - low) / max(high - low, 1e-12)
    high_at = _crossing(climb, 0.9)
    # The last time it was that low: a hiss before the vowel may have been louder.
    low_at = int(high_at) - _crossing(climb[int(high_at) :: -1] * -1 + 1, 0.9) if high_at else 0.0
    ends = (low_at, high_at)
    beat = (valley + sum(ends) / 2) / _ENVELOPE_RATE - _PAD
    return float(min(max(0.0, beat), len(samples) / rate))


def _sonorous(samples: Samples, rate: int, number: int) -> np.ndarray:
    """The envelope in which vowels are sought, shape (many,): wide enough for all of them, and little of what is not
    periodic; a whisper, which has no voice anywhere, as it is."""
    wide = envelope(samples, rate, _WIDE)[:number]
    pad = np.zeros(round(_PAD * rate), np.float32)  # a clip cut at its onset has frames across it too
    periodic = periodicity(np.concatenate([pad, samples, pad]), rate)
    if periodic.max(initial=0.0) < _SOME_VOICE:
        return wide
    share = np.clip((periodic - _NOISE_LIKE) / (_SOME_VOICE - _NOISE_LIKE), 0.0, 1.0)
    share = np.convolve(
        share, np.hanning(7)[1:-1] / np.hanning(7).sum(), "same"
    )  # it must not hang on where frames lie
    centres = np.arange(len(share)) * 0.005 + 0.02
    sung: np.ndarray = wide * np.interp(np.arange(len(wide)) / _ENVELOPE_RATE, centres, share, left=0.0, right=0.0)
    return sung


def _first_nucleus(wide: np.ndarray) -> tuple[int, int]:
    """Where the first vowel begins to stand out, and where it is at its height, in an envelope of vowels. It need not
    be strong, only stand out of what is around it: the first of "cinque" is half the second."""
    from scipy import signal

    top = float(wide.max())
    peaks, about = signal.find_peaks(np.concatenate([wide, [0.0]]), prominence=1e-9)
    own = about["prominences"] > _OWN_PROMINENCE * wide[peaks]
    peaks = peaks[own & (wide[peaks] >= _LEAST * top)]
    nucleus = int(peaks[0]) if len(peaks) else int(wide.argmax())
    low = np.flatnonzero(wide[: nucleus + 1] < _FOOT * wide[nucleus])
    return max(0, int(low[-1]) - _BLUR if len(low) else 0), nucleus


def _crossing(climb: np.ndarray, level: float) -> float:
    """Fractional index at which a rise first reaches `level`."""
    at = int(np.argmax(climb >= level))
    if at == 0:
        return 0.0
    before, after = climb[at - 1], climb[at]
    return at - 1 + float((level - before) / max(after - before, 1e-12))


@dataclass(frozen=True)
class FeltBeat:
    """A felt beat from two methods.

    Attributes:
        seconds: from the clip's first sample.
        confidence: 0 to 1: how well the two agree, and how clear the rise is.
        rise, rhyme: what each of them says alone (Cummins and Port; Marcus).
    """

    seconds: float
    confidence: float
    rise: float
    rhyme: float


def find_beat(samples: Samples, rate: int) -> FeltBeat:
    """The felt beat by the rise of the envelope, drawn towards what onset, vowel and rhyme say.

    The second method is S. Marcus, "Acoustic determinants of perceptual center location", Perception &
    Psychophysics 30 (1981) 247-256: 0.65 of the time from onset to vowel and 0.25 of that from vowel to end. It is
    exact but for a constant; here that puts the beat of a bare vowel of 0.3 s at its beginning. From memory.

    Args:
        samples: mono, shape (n,); level does not matter.
        rate: samples a second, 4000 or more.
    """
    if len(samples) < rate // 50:
        return FeltBeat(0.0, 0.0, 0.0, 0.0)
    samples, rate = _even(samples, rate)
    result = envelope(samples, rate)
    rise = _rise(samples, rate, result)
    top = float(result.max())
    if top < 1e-7:
        return FeltBeat(rise, 0.0, rise, rise)
    onset, end = _extent(samples, rate)
    at = round((rise + _PAD) * _ENVELOPE_RATE)
    # The vowel begins where the mid band grows fastest, near the rise.
    low, high = max(0, at - 120), min(len(result) - 1, at + 60)
    slope = result[low + _GROWTH : high + 1] - result[low : max(low, high + 1 - _GROWTH)]
    vowel = (low + int(slope.argmax()) + _GROWTH // 2) / _ENVELOPE_RATE - _PAD if len(slope) else rise
    vowel = min(max(vowel, onset), end)
    rhyme = onset + _ONSET_PART * (vowel - onset) + _RHYME_PART * (end - vowel) - _RHYME_PART * _USUAL_RHYME
    away = float(np.clip(rhyme - rise, -_MOST_APART, _MOST_APART))
    seconds = float(np.clip(rise + _RHYME_WEIGHT * away, 0.0, len(samples) / rate))
    clear = float(np.clip((result[min(len(result) - 1, at + 40)] - result[max(0, at - 60)]) / top, 0, 1))
    return FeltBeat(seconds, float(np.exp(-abs(rhyme - rise) / 0.12)) * clear, rise, rhyme)


def _extent(samples: Samples, rate: int) -> tuple[float, float]:
    """Seconds at which the sound begins and ends: within 25 dB of its loudest part, and over
    its noise."""
    from scipy import signal

    pad = np.zeros(round(_PAD * rate), np.float32)
    padded = np.concatenate([pad, samples, pad])
    power = np.maximum(signal.sosfiltfilt(_low_pass(_EXTENT_SMOOTH, rate), padded.astype(float) ** 2), 0)
    times = np.arange(0, len(padded) / rate, 1 / _ENVELOPE_RATE)
    places = np.arange(len(padded)) / rate
    level = np.interp(times, places, power)
    noise = _noise(padded, times, rate, level)
    loud = np.flatnonzero(level > max(level.max() * 10**-2.5, 4 * noise if 16 * noise < level.max() else 0.0))
    ends = np.clip(times[loud[[0, -1]]] - _PAD, 0.0, len(samples) / rate)
    return float(ends[0]), float(ends[1])
