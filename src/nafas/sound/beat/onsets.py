"""Where sounds begin, as a curve over time: the onset strength of a recording.

Spectral flux on a mel scale in logarithmic level, as D. P. W. Ellis, "Beat tracking by dynamic programming", Journal of
New Music Research 36 (2007), with the maximum over neighbouring bands as the reference (S. Boeck and G. Widmer,
"Maximum filter vibrato suppression for onset detection", DAFx 2013), so that a swaying pad has no onsets.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

RATE = 22_050
HOP = 128
"""Samples from one value of the curve to the next: 5.8 ms."""
FPS = RATE / HOP
_WINDOW = 1024
_BANDS = 48
_LOW, _HIGH = 30.0, 9000.0  # Hz
_LAG = 3  # values: how far back a rise is looked at
_SOFT = 1e-2  # of the loudest band: what is much softer hardly counts
_MEAN = 0.8  # seconds over which the curve's own mean is taken off
_BLOCK = 4096  # windows transformed at once

Envelope = NDArray[np.float32]


def onset_strength(sound: NDArray[np.float32]) -> Envelope:
    """The onset strength of mono sound at `RATE`, shape (n,): one value every `HOP` samples, none below 0, its mean 1;
    all 0 where nothing begins."""
    from scipy import fft
    from scipy.ndimage import maximum_filter1d, uniform_filter1d

    frames = len(sound) // HOP + 1
    # The window that is looked at lies around its place.
    padded = np.pad(sound.astype(np.float32), (_WINDOW // 2, _WINDOW // 2 + HOP))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::HOP][:frames]
    shape, bands = np.hanning(_WINDOW).astype(np.float32), _mel()
    levels = np.empty((frames, _BANDS), np.float32)
    for at in range(0, frames, _BLOCK):
        spectra = fft.rfft(windows[at : at + _BLOCK] * shape, axis=1)
        levels[at : at + _BLOCK] = (spectra.real**2 + spectra.imag**2) @ bands
    loudest = float(levels.max(initial=0.0))
    if not loudest:
        return np.zeros(frames, np.float32)
    levels = np.log10(1 + levels / (loudest * _SOFT**2))
    before = maximum_filter1d(levels, 3, axis=1)[:-_LAG]
    flux = np.zeros(frames, np.float32)
    flux[_LAG:] = np.maximum(0, levels[_LAG:] - before).mean(axis=1)
    flux = np.maximum(0, flux - uniform_filter1d(flux, round(_MEAN * FPS)))
    mean = float(flux.mean())
    return flux / np.float32(mean) if mean > 1e-9 else np.zeros(frames, np.float32)


@lru_cache(maxsize=1)
def _mel() -> NDArray[np.float32]:
    """Triangles on the mel scale (S. S. Stevens and others, 1937, in O'Shaughnessy's form), shape (bins, bands)."""

    def mel(f: float) -> float:
        return float(2595 * np.log10(1 + f / 700))

    edges = 700 * (10 ** (np.linspace(mel(_LOW), mel(_HIGH), _BANDS + 2) / 2595) - 1)
    bins = np.arange(_WINDOW // 2 + 1)[:, None] * RATE / _WINDOW
    rise = (bins - edges[:-2]) / (edges[1:-1] - edges[:-2])
    fall = (edges[2:] - bins) / (edges[2:] - edges[1:-1])
    values: NDArray[np.float32] = np.maximum(0, np.minimum(rise, fall)).astype(np.float32)
    return values
