"""Find what was said in a recording: stretches of sound that stand out of the noise, band by band.

The noise floor is followed through the recording in each band, so hum and a slowly changing room do not count. Steady
parts shorter than a click, and pauses inside a word (the closure of a stop), do not cut.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nafas.voice.clip import Samples

RATE = 16_000
"""Samples a second at which a recording is looked at."""
HOP = 160
FRAME_SECONDS = HOP / RATE
_WINDOW = 400
_BANDS = ((120, 500), (500, 1500), (1500, 3500), (3500, 7600))
# Set on the same practice recordings as `aligner`'s, so that a fricative stays and a chair goes.
_FLOOR_SPAN = 6.0  # seconds of a stretch whose quiet part is its noise
_FLOOR_SHARE = 0.2  # of a stretch's frames lie at or under its noise
_ABOVE_QUIET = 0.8  # dB from the quiet part of smoothed noise to its mean
_ENTER, _STAY = 7.0, 3.5  # dB over the noise at which sound counts, and goes on
_HISS, _HISS_FRAMES = 1.7, 16  # dB over the noise of a weak fricative, and how far out it is looked for
_SMOOTH = np.hanning(7)[1:-1] / np.hanning(7).sum()  # 50 ms: noise flickers, speech does not
_LOUD = 14.0  # dB under the loudest sound, within which lines lie
_BREATH = 17.0  # dB under the usual line, below which a sound is a breath or a chair
_BREATH_BEFORE, _AFTER_BREATH = 15.0, 0.1  # dB under a line, and seconds before it, at which a breath is no part of it
_JOIN = 0.28  # seconds of pause that do not end a line
_SHORTEST = 0.09  # seconds; less is a click
_QUIETEST = -75.0  # dB full scale, under which nothing is speech


@dataclass(frozen=True)
class Utterance:
    """A stretch of sound: seconds in the recording, its loudest part over the noise, and its level, both in dB."""

    start: float
    end: float
    over_noise: float
    level: float

    @property
    def seconds(self) -> float:
        return self.end - self.start


def band_levels(
    blocks: Iterable[Samples], progress: Callable[[int], None] = lambda frames: None
) -> NDArray[np.float32]:
    """Levels of each band in dB, shape (frames, bands), every 10 ms, of blocks at `RATE`.

    `progress` is called with samples seen so far; raises Cancelled to stop.
    """
    window = np.hanning(_WINDOW).astype(np.float32)
    scale = 2.0 / (window.sum() ** 2)
    frequency = np.fft.rfftfreq(512, 1 / RATE)
    masks = np.array([(frequency >= low) & (frequency < high) for low, high in _BANDS], np.float32).T
    result: list[NDArray[np.float32]] = []
    rest = np.zeros(_WINDOW // 2, np.float32)  # so that frame n is centred on n x 10 ms
    seen = 0
    for block in blocks:
        samples = np.concatenate([rest, block])
        number = max(0, (len(samples) - _WINDOW) // HOP + 1)
        if number:
            frames = np.lib.stride_tricks.sliding_window_view(samples, _WINDOW)[: number * HOP : HOP]
            power = np.abs(np.fft.rfft(frames * window, 512)) ** 2 @ masks * scale
            result.append((10 * np.log10(np.maximum(power, 1e-12))).astype(np.float32))
        rest = samples[number * HOP :]
        seen += len(block)
        progress(seen)
    return np.concatenate(result) if result else np.zeros((0, len(_BANDS)), np.float32)


def noise_floor(levels: NDArray[np.float32]) -> NDArray[np.float32]:
    """The noise in each band through a recording, dB, same shape: the quiet part of every few seconds, smoothed."""
    from scipy import ndimage

    span = round(_FLOOR_SPAN / FRAME_SECONDS)
    number = max(1, len(levels) // span)
    parts = np.array_split(levels, number)
    quiet = np.array([np.quantile(part, _FLOOR_SHARE, axis=0) for part in parts])
    # A stretch full of talk has no quiet part of its own: it takes that of its neighbours.
    lowest = ndimage.minimum_filter1d(quiet, 3, axis=0, mode="nearest")
    middles = np.cumsum([len(part) for part in parts]) - [len(part) / 2 for part in parts]
    at = np.arange(len(levels))
    return np.stack([np.interp(at, middles, band) for band in lowest.T], axis=1).astype(np.float32)


def find_utterances(levels: NDArray[np.float32]) -> list[Utterance]:
    """The stretches of sound in a recording, in order; [] for silence.

    Args:
        levels: of `band_levels`.
    """
    if not len(levels) or levels.max() < _QUIETEST:
        return []
    from scipy import ndimage

    power = ndimage.convolve1d(10 ** (levels / 10), _SMOOTH, axis=0, mode="nearest")
    smooth = 10 * np.log10(np.maximum(power, 1e-12)).astype(np.float32)
    over = smooth - np.maximum(noise_floor(smooth) + _ABOVE_QUIET, _QUIETEST)
    best = np.sort(over, axis=1)
    # One band alone must stand out further than two together.
    score = np.maximum(best[:, -1] - 1.5, best[:, -2])
    loudness = 10 * np.log10(np.maximum(power.sum(axis=1), 1e-12))
    hiss = over[:, 2:].max(axis=1) > _HISS  # wide bands flicker little: a weak fricative is seen in them
    utterances: list[Utterance] = []
    labels, _ = ndimage.label(score > _STAY)
    for (part,) in filter(None, ndimage.find_objects(labels)):
        peak = float(score[part].max())
        if peak < _ENTER:
            continue
        level = float(np.quantile(loudness[part], 0.9))
        start, stop = _with_hiss(hiss, part.start, -1) * FRAME_SECONDS, _with_hiss(hiss, part.stop, 1) * FRAME_SECONDS
        breath = (
            utterances and start - utterances[-1].end > _AFTER_BREATH and utterances[-1].level < level - _BREATH_BEFORE
        )
        if utterances and start - utterances[-1].end < _JOIN and not breath:
            last = utterances[-1]
            utterances[-1] = Utterance(last.start, stop, max(last.over_noise, peak), max(last.level, level))
        else:
            utterances.append(Utterance(start, stop, peak, level))
    lines = [u for u in utterances if u.seconds >= _SHORTEST]
    # Breaths may be as many as lines: what is usual is judged among what is loud.
    loudest = max((u.level for u in lines), default=0.0)
    usual = float(np.median([u.level for u in lines if u.level > loudest - _LOUD])) if lines else 0.0
    return [u for u in lines if u.level > usual - _BREATH]


def _with_hiss(hiss: NDArray[np.bool_], at: int, way: int) -> int:
    """A frame further out, as long as there is hiss; a gap of two frames does not end it."""
    edge, missed = at, 0
    for _ in range(_HISS_FRAMES):
        at += way
        if not 0 <= at < len(hiss) or missed > 2:
            break
        missed = 0 if hiss[at] else missed + 1
        edge = at if hiss[at] else edge
    return edge
