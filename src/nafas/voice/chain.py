"""What every take of a book may pass through on its way to the ear: quieter gaps, evener speech.

Files stay as they are. Both are pedalboard's. Neither moves a beat: a gate and a compressor change level only, and
without delay.
"""

from typing import Any

import numpy as np

from nafas.script.model.phase import Model
from nafas.voice.level import SPEECH_LEVEL, Samples, frame_levels, speech_gain

_OVER_NOISE = 18.0  # dB over a take's own noise for the threshold; it acts from 10 dB below that on, as measured
_LOWEST, _HIGHEST = -75.0, SPEECH_LEVEL - 6  # dB between which the threshold lies, so that speech is left alone
_GATE_RATIO, _RATIO = 2.0, 2.5


class Chain(Model):
    """What a take book's takes pass through.

    Attributes:
        quiet_gaps: what lies near a take's own noise is turned down (an expander of 2 : 1), never cut off.
        even: loud and soft speech are brought nearer (a compressor of 2.5 : 1), at the same level.
    """

    quiet_gaps: bool = False
    even: bool = False


def through(chain: Chain, samples: Samples, rate: int) -> Samples:
    """A take after the chain; of the same length.

    Args:
        samples: mono, shape (n,), at `SPEECH_LEVEL`.
        rate: samples a second.
    """
    if not (chain.quiet_gaps or chain.even) or not len(samples):
        return samples
    import pedalboard

    board: list[Any] = []
    if chain.quiet_gaps:
        noise = float(np.quantile(frame_levels(samples, rate), 0.05))
        threshold = float(np.clip(noise + _OVER_NOISE, _LOWEST, _HIGHEST))
        board.append(pedalboard.NoiseGate(threshold_db=threshold, ratio=_GATE_RATIO, attack_ms=2, release_ms=120))
    if chain.even:
        board.append(pedalboard.Compressor(threshold_db=SPEECH_LEVEL - 4, ratio=_RATIO, attack_ms=8, release_ms=150))
    shaped: Samples = pedalboard.Chain(board)(np.ascontiguousarray(samples[None], np.float32), rate)[0]
    return (shaped * np.float32(10 ** (speech_gain(shaped, rate) / 20))).astype(np.float32) if chain.even else shaped


def shortened(samples: Samples, rate: int, part: float) -> Samples:
    """The same reading in `part` of its time (0.5 to 1), at the same pitch (pedalboard, by Rubber Band)."""
    import pedalboard

    shorter = pedalboard.time_stretch(np.ascontiguousarray(samples[None], np.float32), rate, stretch_factor=1 / part)
    return np.asarray(shorter[0, : round(len(samples) * part) + 1], np.float32)
