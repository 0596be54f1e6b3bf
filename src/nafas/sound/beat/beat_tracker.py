"""A row of beats through an onset curve at about a tempo, by dynamic programming.

D. P. W. Ellis, "Beat tracking by dynamic programming", Journal of New Music Research 36 (2007).
"""

import numpy as np
from numpy.typing import NDArray

from nafas.sound.beat.onsets import FPS, HOP, RATE, Envelope

_COARSE = 3  # values of the curve taken together: 17 ms, finer than the ear minds before beats are placed at onsets
_TIGHT = 100.0  # how much a beat costs that comes early or late (Ellis's alpha)

Times = NDArray[np.float64]


def track_beats(envelope: Envelope, bpm: float) -> Times:
    """The beats at about a tempo, in seconds from the curve's first value, shape (n,)."""
    from scipy.ndimage import gaussian_filter1d

    whole = len(envelope) // _COARSE * _COARSE
    curve = envelope[:whole].reshape(-1, _COARSE).max(axis=1).astype(np.float64)
    fps = FPS / _COARSE
    period = 60 / bpm * fps
    curve = gaussian_filter1d(curve / (curve.std() + 1e-12), max(0.5, period / 32))
    lags = np.arange(-round(2 * period), -round(period / 2) + 1)
    if not len(curve) or not len(lags):
        return np.zeros(0)
    cost = -_TIGHT * np.log(-lags / period) ** 2
    score, link = curve.copy(), np.full(len(curve), -1)
    begin = -int(lags[0])
    padded = np.concatenate([np.zeros(begin), score])
    for index in range(len(curve)):
        before = padded[index : index + len(lags)] + cost
        best = int(before.argmax())
        if index + int(lags[best]) >= 0:
            link[index] = index + int(lags[best])
        padded[begin + index] = score[index] = curve[index] + before[best]
    # The last beat is the best-scored of the last period.
    tail = max(0, len(score) - round(period))
    index = tail + int(score[tail:].argmax())
    row = []
    while index >= 0:
        row.append(index)
        index = int(link[index])
    beats = (np.array(row[::-1]) + 0.5) * _COARSE * HOP / RATE
    # Before its first sound and after its last there is nothing to beat.
    loud = np.flatnonzero(envelope > 0.02 * envelope.max()) * HOP / RATE
    heard: Times = beats[(beats >= loud[0] - 0.1) & (beats <= loud[-1] + 0.1)] if len(loud) else beats[:0]
    return heard
