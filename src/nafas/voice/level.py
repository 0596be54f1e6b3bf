"""Where speech begins and ends in a clip, and how loud it is while it speaks."""

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]

SPEECH_LEVEL = -23.0
"""dB RMS, re full scale, that every clip is brought to over its active part."""

HIGHEST_PEAK = SPEECH_LEVEL + 10.5
"""dB: peaks of a clip above this are eased down, so that a master at -16 LUFS keeps under its ceiling."""

_TAIL = 32.0
_FRAME = 0.01
_REACH = 12  # millisecond steps over which a gain goes down and comes back


def frame_levels(samples: Samples, rate: int) -> np.ndarray:
    """RMS of consecutive 10 ms frames in dB, shape (frames,); at least one frame. Silence is -200 dB."""
    size = max(1, round(rate * _FRAME))
    frames = max(1, len(samples) // size)
    padded = np.zeros(frames * size)
    kept = samples[: frames * size]
    padded[: len(kept)] = kept
    power = (padded.reshape(frames, size) ** 2).mean(axis=1)
    levels: np.ndarray = 10 * np.log10(np.maximum(power, 1e-20))
    return levels


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


def sounding(samples: Samples, rate: int) -> int:
    """Samples until the sound is over: what comes after it is the room, `_TAIL` dB and more under its loudest part."""
    return speech_bounds(samples, rate, below_peak=_TAIL, margin=0.0)[1]


def active_level(samples: Samples, rate: int) -> float:
    """RMS in dB over the active part: frames within 20 dB of the loudest. -200 for silence."""
    levels = frame_levels(samples, rate)
    active = levels[levels > levels.max() - 20]
    return float(10 * np.log10(np.mean(10 ** (active / 10))))


def speech_gain(samples: Samples, rate: int) -> float:
    """Gain in dB that brings the active part to `SPEECH_LEVEL`. 0 for silence; kept within +-40 dB."""
    level = active_level(samples, rate)
    return 0.0 if level < -80 else float(np.clip(SPEECH_LEVEL - level, -40, 40))


def gain_curve(required: np.ndarray, reach: int) -> np.ndarray:
    """A smooth gain that is never above what is required, step for step.

    The lowest requirement within `reach` steps on either side, averaged under a raised cosine one step shorter, so it
    begins to fall before a peak and looks only `2 * reach` steps around itself.

    Args:
        required: highest allowed linear gain of each step, shape (n,), in (0, 1].
        reach: steps; 2 or more.
    """
    lowest, width = np.pad(required, reach, mode="edge"), 1
    while 2 * width <= 2 * reach + 1:  # the lowest of two, of four, of eight ...
        lowest, width = np.minimum(lowest[:-width], lowest[width:]), 2 * width
    rest = 2 * reach + 1 - width
    lowest = np.minimum(lowest[: len(lowest) - rest], lowest[rest:])
    lowest = np.pad(lowest, reach, mode="edge")
    window = np.hanning(2 * reach + 1)
    return np.convolve(lowest, window / window.sum(), mode="valid")


def _between(samples: Samples) -> Samples:
    """The clip at four times its rate, band-limited, by its spectrum."""
    size = (len(samples) // 1024 + 2) * 1024  # quickly transformed; and the end does not meet the beginning
    wave = np.fft.irfft(np.fft.rfft(samples, size), 4 * size)[: 4 * len(samples)]
    return (4 * wave).astype(np.float32)


def tame_peaks(samples: Samples, rate: int, highest: float = HIGHEST_PEAK) -> Samples:
    """The clip as loud as before with its peaks at most `highest` dB full scale.

    Peaks are eased down by a gain that moves over 12 ms, and the clip is raised again by what that cost, by at most
    6 dB. A clip without such peaks is returned as it is.
    """
    ceiling = 10 ** (highest / 20)
    if not len(samples) or np.abs(samples).max() <= ceiling / 4:
        return samples
    wanted = active_level(samples, rate)
    # Peaks are looked for between the samples too: the clip will be heard at another rate.
    between = np.abs(_between(samples))
    size = max(1, rate // 1000)
    steps = -(-len(samples) // size)
    padded = np.zeros(steps * size * 4, np.float32)
    padded[: len(between)] = between
    peaks = np.maximum(padded.reshape(steps, 4 * size).max(axis=1), 1e-9)
    if peaks.max() <= ceiling:
        return samples
    centres = (np.arange(steps) + 0.5) * size
    raised = 0.0
    for _ in range(4):
        up = 10 ** (raised / 20)
        curve = gain_curve(np.minimum(1.0, ceiling / (peaks * up)), _REACH) * up
        eased = (samples * np.interp(np.arange(len(samples)), centres, curve)).astype(np.float32)
        raised = min(6.0, raised + max(0.0, wanted - active_level(eased, rate)))
    return eased
