"""The felt beat of a spoken clip: its perceptual centre (P-centre).

After F. Cummins and R. Port, "Rhythmic constraints on stress timing in English", Journal of Phonetics 26 (1998)
145-171: the beat is the middle of the rise of the mid-band envelope at the vowel. Filter settings are from memory of
that paper: band-pass about 1000 Hz with 600 Hz bandwidth, first order; rectify; low-pass at 10 Hz; the rise is taken
from 10 % to 90 % of the way from the valley before the first strong peak up to that peak.
Filters run forwards and backwards, so that they add no delay of their own.
"""

import numpy as np

from nafas.voice.clip import Samples

_BAND = (700.0, 1300.0)
_PAD = 0.2
_SMOOTH = 10.0
_STRONG = 0.6  # a peak this part of the highest one carries the beat; a weaker one is a burst, hiss or light syllable
_HEARD = 0.05  # part of the highest peak at which a sound has begun
_FIRST_WORD = 650  # ms in which the first word's beat is sought
_ENVELOPE_RATE = 1000  # enough for a 10 Hz envelope, and makes the estimate the same at every source rate


def envelope(samples: Samples, rate: int) -> np.ndarray:
    """Mid-band amplitude envelope at 1000 samples a second, from `_PAD` seconds before the clip to `_PAD` after it.

    The silence around it is part of the rise: a clip cut right at its onset must give the same beat.
    """
    from scipy import signal

    pad = np.zeros(round(_PAD * rate))
    padded = np.concatenate([pad, samples, pad])
    high = min(_BAND[1], 0.45 * rate)
    band = signal.butter(1, (_BAND[0], high), "bandpass", fs=rate, output="sos")
    smooth = signal.butter(1, _SMOOTH, "lowpass", fs=rate, output="sos")
    found = signal.sosfiltfilt(smooth, np.abs(signal.sosfiltfilt(band, padded)))
    times = np.arange(int(len(padded) * _ENVELOPE_RATE / rate)) / _ENVELOPE_RATE
    return np.interp(times, np.arange(len(found)) / rate, found)


def felt_beat(samples: Samples, rate: int) -> float:
    """Seconds from the first sample to the felt beat; 0.0 for silence or less than 20 ms of sound.

    Args:
        samples: mono, shape (n,); level does not matter.
        rate: samples a second, 4000 or more.
    """
    if len(samples) < rate // 50:
        return 0.0
    from scipy import signal

    found = envelope(samples, rate)
    whole = float(found.max())
    if whole < 1e-7:
        return 0.0
    # Of several words ("inhale, arms up") the first is the one that is due.
    onset = int(np.argmax(found > _HEARD * whole))
    found = found[: onset + _FIRST_WORD]
    top = float(found.max())
    peaks, _ = signal.find_peaks(np.concatenate([[0], found, [0]]), height=_STRONG * top)
    if not len(peaks):
        return 0.0
    peak = int(peaks[0]) - 1
    rise = found[: peak + 1]
    valley = int(np.flatnonzero(rise <= rise.min() + 0.02 * top)[-1])
    low, high = found[valley], found[peak]
    climb = (found[valley : peak + 1] - low) / max(high - low, 1e-12)
    ends = [_crossing(climb, level) for level in (0.1, 0.9)]
    beat = (valley + sum(ends) / 2) / _ENVELOPE_RATE - _PAD
    return float(min(max(0.0, beat), len(samples) / rate))


def _crossing(climb: np.ndarray, level: float) -> float:
    """Fractional index at which a rise first reaches `level`."""
    at = int(np.argmax(climb >= level))
    if at == 0:
        return 0.0
    before, after = climb[at - 1], climb[at]
    return at - 1 + float((level - before) / max(after - before, 1e-12))
