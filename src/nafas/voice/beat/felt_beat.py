"""The felt beat of a spoken clip: its perceptual centre (P-centre), the moment at which it is heard to happen.

It lies where the first vowel begins (`vowel.py`), pulled a little by what comes before and after: S. Marcus, "Acoustic
determinants of perceptual center location", Perception & Psychophysics 30 (1981) 247-256, puts it 0.65 of the time from
onset to vowel, and 0.25 of that from vowel to end, after the onset, but for a constant; here that constant puts the
beat of a bare vowel of 0.3 s at its beginning (from memory). His term counts for a part of it only: onsets and ends of
recorded words are uncertain, and readers' words agree best with others' estimators so (handbook/takes.md).
"""

from dataclasses import dataclass

import numpy as np

from nafas.voice.beat.vowel import ENVELOPE_RATE, PAD, Sound, at_one_rate, smoothed, vowel_rises
from nafas.voice.clip import Samples

SURE_BEAT = 0.75
"""With less confidence a person is asked to listen: of 133 words of five readers held back while this was made, 94 % of
the beats over it lay within 30 ms of where others' estimators agree, and 59 % of those under it."""

_ONSET_PART, _RHYME_PART, _USUAL_RHYME = 0.65, 0.25, 0.3
_MARCUS_PART, _MOST_APART = 0.1, 0.09
_EXTENT_SMOOTH = 31.25
_NEAR, _FAR = 0.03, 0.06  # seconds by which two measures, and all three, may differ before one doubts them


@dataclass(frozen=True)
class FeltBeat:
    """A felt beat and what it is made of.

    Attributes:
        seconds: from the clip's first sample.
        confidence: 0 to 1: how well the measures of the vowel agree.
        rises: where the vowel begins by each measure, seconds, sorted; empty for silence.
    """

    seconds: float
    confidence: float
    rises: tuple[float, ...]


def felt_beat(samples: Samples, rate: int) -> float:
    """Seconds from the first sample to the felt beat; as `find_beat`."""
    return find_beat(samples, rate).seconds


def find_beat(samples: Samples, rate: int) -> FeltBeat:
    """The felt beat of the first word of a clip; 0.0 for silence or less than 20 ms of sound.

    Args:
        samples: mono, shape (n,); level does not matter.
        rate: samples a second, 4000 or more.
    """
    nothing = FeltBeat(0.0, 0.0, ())
    if len(samples) < rate // 50:
        return nothing
    sound = Sound(at_one_rate(samples, rate))
    rises = vowel_rises(sound)
    if not rises:
        return nothing
    onset, end = np.clip(_extent(sound), 0.0, len(samples) / rate)
    vowel = min(max(float(np.median(rises)), onset), end)
    marcus = onset + _ONSET_PART * (vowel - onset) + _RHYME_PART * (end - vowel - _USUAL_RHYME)
    away = float(np.clip(marcus - vowel, -_MOST_APART, _MOST_APART))
    seconds = float(np.clip(vowel + _MARCUS_PART * away, 0.0, len(samples) / rate))
    return FeltBeat(seconds, _agreement(rises), tuple(rises))


def _agreement(rises: list[float]) -> float:
    """0 to 1: two that agree are worth much, a third that agrees as well is worth more; one alone is worth little."""
    if len(rises) < 2:
        return 0.2
    near = float(np.diff(rises).min())
    return float(np.exp(-near / _NEAR) * (1 + np.exp(-(rises[-1] - rises[0]) / _FAR)) / 2)


def _extent(sound: Sound) -> tuple[float, float]:
    """Seconds at which a clip's sound begins and ends: within 25 dB of its loudest part, and over its noise."""
    level = smoothed(sound.samples.astype(float) ** 2, _EXTENT_SMOOTH, 1)
    noise = sound.noise(level)
    loud = np.flatnonzero(level > max(level.max() * 10**-2.5, 4 * noise if 16 * noise < level.max() else 0.0))
    return float(loud[0]) / ENVELOPE_RATE - PAD, float(loud[-1]) / ENVELOPE_RATE - PAD
