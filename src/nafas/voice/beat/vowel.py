"""Where the first vowel of a spoken clip begins: three independent measures of its rise.

A word is felt where its vowel begins, not where its sound begins: an S, a breath after a T, or the voice that runs on
through a D carry energy and no beat. First the vowel is located: the first peak of sound that is voiced and open.
Then its rise is measured in three ways, and the middle one of the three is kept:

* the half height of 200 to 1000 Hz, where vowels are strong and hisses are not, after S. K. Scott, "P-centres in
  speech: an acoustic analysis", PhD thesis, University College London, 1993 (band and half height are from memory);
* the half height of 400 to 2500 Hz, which also hears vowels with a low first formant ("six", "dix");
* the fastest growth of eight bands together, spectral flux, after S. Dixon, "Onset detection revisited", DAFx 2006.
"""

from itertools import pairwise

import numpy as np

from nafas.voice.clip import Samples
from nafas.voice.pitch import periodicity

RATE = 8000  # at which every clip is analysed: a telephone carries this much, so all clips have it
PAD = 0.2  # seconds of silence before and after: a clip cut right at its onset must give the same beat
ENVELOPE_RATE = 1000
HEARD = 0.05  # part of the highest peak at which a sound has begun

_OPEN = (400.0, 2500.0)
_VOWELS = (280.0, 2500.0)  # where every vowel is heard, and a hum, a nasal or a hiss hardly
_LOW = (200.0, 1000.0)
_EDGES = np.geomspace(250.0, 2800.0, 9)  # of the eight bands of the flux
_SLOW, _FAST, _BANDWISE = 16.0, 25.0, 20.0  # Hz of smoothing: to locate a vowel, to measure its rise, in each band
_QUIET, _OVER_NOISE = 0.05, 1.6  # share of a clip that is its quietest, and how far noise rises above that
_SILENT = 1e-3  # part of the highest sample; less is digital silence, or as good as that
_MOST_NOISE = 0.25  # part of the highest peak; what is louder throughout is no noise
_NOISE_LIKE, _SOME_VOICE = 0.25, 0.6  # periodicity of noise, and of what is surely voiced
# Of a first vowel: at least this part of the loudest; this part of it stands out; its rise begins at that part of it.
_LEAST, _OWN_PROMINENCE, _FOOT = 0.3, 0.35, 0.2
_BLUR = 25  # ms by which the foot may come late
_FIRST_WORD = 650  # ms in which the first word's vowel is sought: of "inhale, arms up" the first word is due
_STRONG, _SOON = 0.7, 50  # a rise ends at the highest point within 50 ms after it reaches this part of its peak
_GROWTH = 24  # ms over which growth is judged
_RANGE = 1e3  # power over which a band counts, 30 dB


def _butterworth(low: float, high: float, frequencies: np.ndarray, order: int) -> np.ndarray:
    """The gain of a Butterworth filter at each frequency, Hz: a low-pass where `low` is 0, else a band-pass."""
    if low == 0:
        steep = frequencies / high
    else:
        steep = (frequencies**2 - low * high) / np.maximum(frequencies * (high - low), 1e-9)
    gain: np.ndarray = 1 / np.sqrt(1 + np.abs(steep) ** (2 * order))
    return gain


def smoothed(values: np.ndarray, cut: float, order: int = 2) -> np.ndarray:
    """Values at `RATE`, a multiple of 8 of them, through a low-pass at `cut` Hz, without delay, at `ENVELOPE_RATE`."""
    number = len(values) * ENVELOPE_RATE // RATE
    spectrum = np.fft.rfft(values)[: number // 2 + 1]
    frequencies = np.arange(len(spectrum)) * RATE / len(values)
    gain = _butterworth(0, cut, frequencies, order) ** 2
    return np.maximum(np.fft.irfft(spectrum * gain, number) * (number / len(values)), 0.0)


def at_one_rate(samples: Samples, rate: int) -> Samples:
    """The clip at `RATE`, whatever it came at: the same filters then see the same sound."""
    if rate == RATE:
        return samples
    import soxr

    even: Samples = soxr.resample(samples.astype(np.float32, copy=False), rate, RATE, quality="HQ")
    return even


class Sound:
    """A clip at `RATE`, padded, with its spectrum, from which the envelope of any band is made.

    Args:
        samples: mono, at `RATE`, shape (n,).
    """

    def __init__(self, samples: Samples) -> None:
        from scipy import fft, ndimage

        step = RATE // ENVELOPE_RATE
        before = round(PAD * RATE)
        length = step * fft.next_fast_len(-(-(len(samples) + 2 * before) // step), real=True)
        self.samples = np.pad(samples, (before, length - before - len(samples)))
        self._spectrum = np.fft.rfft(self.samples)
        self._frequencies = np.arange(len(self._spectrum)) * RATE / len(self.samples)
        loud = np.maximum.reduceat(np.abs(self.samples), np.arange(0, len(self.samples), step))
        self._heard = ndimage.maximum_filter1d(loud, 21) > _SILENT * max(float(loud.max()), 1e-12)

    def envelope(self, low: float, high: float, smooth: float) -> np.ndarray:
        """Amplitude of the band from `low` to `high` Hz, smoothed at `smooth` Hz, at 1000 values a second, from `PAD`
        seconds before the clip to at least `PAD` after. The level of its quiet part is taken for noise and removed."""
        gain = _butterworth(low, high, self._frequencies, 2) ** 2
        level = smoothed(np.abs(np.fft.irfft(self._spectrum * gain, len(self.samples))), smooth)
        noise = min(_OVER_NOISE * self.noise(level), _MOST_NOISE * float(level.max()))
        return np.sqrt(np.maximum(level**2 - noise**2, 0.0))

    def noise(self, level: np.ndarray) -> float:
        """The value of a level, at 1000 a second, in the quiet part of the clip; digital silence is no part of it."""
        return float(np.quantile(level[self._heard], _QUIET)) if self._heard.any() else 0.0


def vowel_rises(sound: Sound) -> list[float]:
    """The beginning of the first vowel by each of the three measures, in seconds from the first sample, sorted.

    Returns:
        One to three times, each at least 0; none for silence.
    """
    middle = sound.envelope(*_VOWELS, _SLOW)
    if middle.max() < 1e-7:
        return []
    onset = int(np.argmax(middle > HEARD * middle.max()))
    start, nucleus = _first_nucleus(_sonorous(sound, onset + _FIRST_WORD))
    rises = [_half_height(sound.envelope(*band, _FAST), start, nucleus) for band in (_LOW, _OPEN)]
    rises.append(_fastest_growth(sound, start, nucleus))
    return sorted(max(0.0, rise / ENVELOPE_RATE - PAD) for rise in rises if rise is not None)


def _sonorous(sound: Sound, number: int) -> np.ndarray:
    """The envelope in which vowels are sought, shape (number,): wide enough for all of them, and little of what is not
    periodic; a whisper, which has no voice anywhere, as it is."""
    wide = sound.envelope(*_VOWELS, _SLOW)[:number]
    periodic = periodicity(sound.samples, RATE)  # a clip cut at its onset has frames across it too
    if periodic.max(initial=0.0) < _SOME_VOICE:
        return wide
    share = np.clip((periodic - _NOISE_LIKE) / (_SOME_VOICE - _NOISE_LIKE), 0.0, 1.0)
    window = np.hanning(7)
    share = np.convolve(share, window[1:-1] / window.sum(), "same")  # it must not depend on where frames lie
    centres = np.arange(len(share)) * 0.005 + 0.02
    sung: np.ndarray = wide * np.interp(np.arange(len(wide)) / ENVELOPE_RATE, centres, share, left=0.0, right=0.0)
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


def _half_height(values: np.ndarray, start: int, nucleus: int) -> float | None:
    """Where the rise to the first strong peak after `start` last passes half its height, as a fractional index."""
    part = values[start : nucleus + _SOON]
    if not len(part):
        return None
    strong = int(np.argmax(part >= _STRONG * part.max()))
    peak = strong + int(np.argmax(part[strong : strong + _SOON]))
    half = part[peak] / 2
    below = np.flatnonzero(part[:peak] < half)
    if not len(below):
        return None
    last = int(below[-1])
    return start + last + float((half - part[last]) / max(part[last + 1] - part[last], 1e-12))


def _fastest_growth(sound: Sound, start: int, nucleus: int) -> float | None:
    """Where eight bands together grow fastest between `start` and `nucleus`. A band counts by the logarithm of its
    power, down to 30 dB under the loudest: the hum of a D before its vowel is not much growth, and neither is noise."""
    bands = np.array([sound.envelope(*edges, _BANDWISE) for edges in pairwise(_EDGES)])
    level = np.log10(bands**2 / max(float(bands.max()), 1e-12) ** 2 * _RANGE + 1)
    growth = np.maximum(0.0, level[:, _GROWTH:] - level[:, :-_GROWTH]).sum(axis=0)
    first = max(0, start - _GROWTH // 2)
    window = growth[first : nucleus + 1]
    return first + int(window.argmax()) + _GROWTH / 2 if len(window) else None
