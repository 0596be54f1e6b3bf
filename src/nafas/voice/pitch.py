"""The pitch of a voice, as far as it is needed to match readings: by autocorrelation of short frames.

The method is that of Rabiner, "On the use of autocorrelation analysis for pitch detection" (1977), without clipping.
"""

import numpy as np

from nafas.voice.level import Samples

_FRAME, _STEP = 0.04, 0.01
_LOWEST, _HIGHEST = 60.0, 400.0
_PERIODIC = 0.5


def median_pitch(samples: Samples, rate: int) -> float:
    """The middle pitch of its voiced frames, Hz; 0 where none is voiced.

    Args:
        samples: mono, shape (n,).
        rate: samples a second.
    """
    size, step = round(_FRAME * rate), round(_STEP * rate)
    if len(samples) < size:
        return 0.0
    frames = np.lib.stride_tricks.sliding_window_view(samples, size)[::step].astype(np.float64)
    frames = frames - frames.mean(axis=1, keepdims=True)
    energy = (frames**2).sum(axis=1)
    spectra = np.fft.rfft(frames, 2 * size, axis=1)
    found = np.fft.irfft(np.abs(spectra) ** 2, axis=1)[:, : round(rate / _LOWEST)]
    first = round(rate / _HIGHEST)
    best = first + found[:, first:].argmax(axis=1)
    strength = found[np.arange(len(found)), best] / np.maximum(energy, 1e-12)
    voiced = (strength > _PERIODIC) & (energy > 0.02 * energy.max(initial=0.0))
    return float(np.median(rate / best[voiced])) if voiced.any() else 0.0
