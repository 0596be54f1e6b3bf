"""How strongly an onset curve repeats at each tempo, and which tempos a listener may count.

Fourier tempogram: P. Grosche and M. Mueller, "Extracting predominant local pulse information from music recordings",
IEEE Trans. Audio, Speech and Language Processing 19 (2011). A tempo is judged with its double and fourfold and its half
and quarter, as several hypotheses held against each other (G. Percival and G. Tzanetakis, "Streamlined tempo estimation
based on autocorrelation and cross-correlation with pulses", IEEE/ACM Trans. ASLP 22, 2014), and by how usual it is as a
walking beat (L. van Noorden and D. Moelants, "Resonance in the perception of musical pulse", JNMR 28, 1999).

The weights below were tuned on made-up music of twelve styles (tests/sound/music.py, seeds 0 to 83) and are held by
others of its seeds.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nafas.sound.beat.onsets import FPS, Envelope

SLOWEST, FASTEST = 40.0, 200.0
"""Tempos in bpm that are looked for."""
_WINDOW, _STEP = 12.0, 3.0  # seconds: long enough to tell tempos apart, short enough for one that drifts
_TEMPOS = np.exp(np.linspace(np.log(SLOWEST / 4), np.log(FASTEST * 4), 1600))
_ASKED = np.exp(np.linspace(np.log(SLOWEST), np.log(FASTEST), 1000))
_WEIGHTS = ((1.0, 1.0), (2.0, 0.5), (4.0, 0.5), (0.5, 0.8), (0.25, 0.4))
"""Multiples of a tempo, and what each counts."""
_USUAL, _SPREAD = 95.0, 0.9  # bpm, and octaves
_APART = 1.04  # between two tempos that are not the same


@dataclass(frozen=True)
class Candidate:
    """A tempo that may be counted: bpm, and its strength over the median of all tempos."""

    bpm: float
    strength: float


def candidates(envelope: Envelope, most: int = 6) -> list[Candidate]:
    """The tempos that stand out, the strongest first; [] for a curve that is all 0 or shorter than 4 s.

    In music with a beat the strongest stands 2 to 10 times over the median; in noise and ambient under 1.5 times.
    """
    if len(envelope) < 4 * FPS or not envelope.any():
        return []
    repeats = _tempogram(envelope)
    usual = np.exp(-0.5 * (np.log2(_ASKED / _USUAL) / _SPREAD) ** 2)
    strength = usual * sum(
        weight * np.interp(_ASKED * times, _TEMPOS, repeats, left=0, right=0) for times, weight in _WEIGHTS
    )
    middle = float(np.median(strength))
    tempos: list[Candidate] = []
    for index in np.argsort(-strength):
        bpm = float(_ASKED[index])
        here = strength[max(0, index - 1) : index + 2]
        if strength[index] < here.max() or any(1 / _APART < bpm / other.bpm < _APART for other in tempos):
            continue
        tempos.append(Candidate(bpm, float(strength[index]) / max(middle, 1e-12)))
        if len(tempos) == most:
            break
    return tempos


def _tempogram(envelope: Envelope) -> NDArray[np.float64]:
    """RMS over windows of how strongly the curve repeats, at `_TEMPOS`; each window counts the same."""
    from scipy import fft

    size = min(len(envelope), round(_WINDOW * FPS))
    starts = range(0, len(envelope) - size + 1, round(_STEP * FPS))
    long = fft.next_fast_len(16 * size, real=True)
    shape = np.hanning(size)
    tempos = fft.rfftfreq(long, 1 / FPS) * 60
    within = tempos <= _TEMPOS[-1] * 1.01
    total = np.zeros(int(within.sum()))
    for start in starts:
        level = envelope[start : start + size]
        part = (level - level.mean()) * shape
        power = float((part**2).sum())
        if power > 0:
            spectrum = fft.rfft(part, long)[within]
            total += (spectrum.real**2 + spectrum.imag**2) / power
    values: NDArray[np.float64] = np.interp(_TEMPOS, tempos[within], np.sqrt(total / len(starts)))
    return values
