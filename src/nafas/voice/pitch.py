"""The pitch of a voice, as far as it is needed to match readings: by autocorrelation of short frames.

The method is that of Rabiner, "On the use of autocorrelation analysis for pitch detection" (1977), without clipping.
"""

import numpy as np
from numpy.typing import NDArray

from nafas.voice.level import Samples

_FRAME, _STEP = 0.04, 0.01
_LOWEST, _HIGHEST = 60.0, 400.0
_PERIODIC = 0.5
_HEARD = 0.02  # part of the loudest frame's energy


def median_pitch(samples: Samples, rate: int) -> float:
    """The middle pitch of its voiced frames, Hz; 0 where none is voiced.

    Args:
        samples: mono, shape (n,).
        rate: samples a second.
    """
    periods, strength = _periods(samples, rate)
    voiced = strength > _PERIODIC
    return float(np.median(rate / periods[voiced])) if voiced.any() else 0.0


def voiced_seconds(samples: Samples, rate: int) -> float:
    """How long it is voiced: a word has a vowel, while a cough, a breath or a chair hardly has any.

    Args:
        samples: mono, shape (n,).
        rate: samples a second.
    """
    return float((_periods(samples, rate)[1] > _PERIODIC).sum()) * _STEP


def periodicity(samples: Samples, rate: int) -> NDArray[np.float64]:
    """How periodic it is, 0 to 1, every 5 ms; the first is that of 20 ms after the first sample. Noise is some 0.2.

    Args:
        samples: mono, shape (n,).
        rate: samples a second.
    """
    return _periods(samples, rate, _STEP / 2)[1]


def _periods(samples: Samples, rate: int, every: float = _STEP) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The likeliest period of each frame, in samples, and how periodic it is; 0 where it is hardly heard."""
    from scipy import fft

    size, step = round(_FRAME * rate), round(every * rate)
    if len(samples) < size:
        return np.ones(0, np.int64), np.zeros(0)
    frames = np.lib.stride_tricks.sliding_window_view(samples, size)[::step].astype(np.float64)
    frames = frames - frames.mean(axis=1, keepdims=True)
    energy = (frames**2).sum(axis=1)
    longest = round(rate / _LOWEST)
    long = fft.next_fast_len(size + longest, real=True)  # the longest period does not come round to the beginning
    spectra = fft.rfft(frames, long, axis=1)
    correlation = fft.irfft(spectra.real**2 + spectra.imag**2, long, axis=1)[:, :longest]
    first = round(rate / _HIGHEST)
    best = first + correlation[:, first:].argmax(axis=1)
    strength = correlation[np.arange(len(correlation)), best] / np.maximum(energy, 1e-12)
    heard = energy > _HEARD * energy.max(initial=0.0)
    return best, np.where(heard, np.clip(strength, 0, 1), 0.0)
