"""Where speech begins and ends in a clip, and how loud it is while it speaks."""

import numpy as np

from nafas.voice.clip import Samples

SPEECH_LEVEL = -23.0
"""dB RMS, re full scale, that every clip is brought to over its active part."""

_FRAME = 0.01


def frame_levels(samples: Samples, rate: int) -> np.ndarray:
    """RMS of consecutive 10 ms frames in dB, shape (frames,); at least one frame. Silence is -200 dB."""
    size = max(1, round(rate * _FRAME))
    frames = max(1, len(samples) // size)
    padded = np.zeros(frames * size)
    kept = samples[: frames * size]
    padded[: len(kept)] = kept
    power = (padded.reshape(frames, size) ** 2).mean(axis=1)
    return 10 * np.log10(np.maximum(power, 1e-20))


def speech_bounds(samples: Samples, rate: int, below_peak: float = 42.0, margin: float = 0.03) -> tuple[int, int]:
    """First and last sample of the sound, with a safe margin.

    Frames within `below_peak` dB of the loudest count as sound. Returns (0, 0) for silence.
    """
    levels = frame_levels(samples, rate)
    if levels.max() < -80:
        return 0, 0
    loud = np.flatnonzero(levels > levels.max() - below_peak)
    size = max(1, round(rate * _FRAME))
    pad = round(margin * rate)
    return max(0, int(loud[0]) * size - pad), min(len(samples), int(loud[-1] + 1) * size + pad)


def speech_gain(samples: Samples, rate: int) -> float:
    """Gain in dB that brings the active part (frames within 20 dB of the loudest) to `SPEECH_LEVEL`.

    0 for silence; kept within +-40 dB.
    """
    levels = frame_levels(samples, rate)
    if levels.max() < -80:
        return 0.0
    active = levels[levels > levels.max() - 20]
    level = 10 * np.log10(np.mean(10 ** (active / 10)))
    return float(np.clip(SPEECH_LEVEL - level, -40, 40))
