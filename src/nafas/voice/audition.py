"""Sounds to judge takes by: a word against clicks on its beat, and counts said evenly one after another."""

from collections.abc import Sequence

import numpy as np

from nafas.script.words.lexicon import count_word
from nafas.voice.call_sheet import Line, LineKind
from nafas.voice.clip import Clip, Samples

RATE = 48_000
_LEAD = 0.5


def _click(level: float = 0.25) -> Samples:
    """A short dry tick, 4 ms, whose beat is its first sample."""
    t = np.arange(int(0.004 * RATE)) / RATE
    return (level * np.sin(2 * np.pi * 2500 * t) * np.exp(-t / 0.001)).astype(np.float32)


def against_click(clip: Clip, times: int = 4, interval: float = 1.0) -> Samples:
    """A clip again and again, with a click exactly on each felt beat, and one click alone before them.

    Returns:
        mono samples at `RATE`, shape (n,).
    """
    return on_grid([clip] * times, interval, click=True, lead_in=1)


def on_grid(clips: Sequence[Clip], interval: float, click: bool, lead_in: int = 0, by_beat: bool = True) -> Samples:
    """Clips said one after another, each on its own point of an even grid.

    Args:
        clips: in order.
        interval: seconds from one point to the next.
        click: whether each point has a click.
        lead_in: points before the first clip, with clicks alone.
        by_beat: felt beats are on the points; else the beginnings of the clips are, as files would be butted to a grid.

    Returns:
        mono samples at `RATE`, shape (n,).
    """
    heard = [clip.at_rate(RATE) for clip in clips]
    ahead = max((clip.beat for clip in heard), default=0.0)
    start = max(_LEAD, ahead)
    points = [round((start + n * interval) * RATE) for n in range(lead_in + len(heard))]
    ends = [p + len(c.samples) for p, c in zip(points[lead_in:], heard)]
    out = np.zeros(max([*ends, *points, 0]) + RATE // 4, np.float32)
    for point, clip in zip(points[lead_in:], heard):
        begin = point - (round(clip.beat * RATE) if by_beat else 0)
        out[begin : begin + len(clip.samples)] += clip.samples
    if click:
        tick = _click()
        for point in points:
            out[point : point + len(tick)] += tick
    return out


def words_to_count(line: Line) -> list[str]:
    """One to eight as a set says them, in the line's language; a cue takes the first number's place."""
    words = [count_word(number, line.language) for number in range(1, 9)]
    is_cue = line.kind is LineKind.CUE and line.text not in words
    return [line.text, *words[1:]] if is_cue else words


def outline(samples: Samples, columns: int) -> np.ndarray:
    """Lowest and highest sample in each of `columns` even parts, shape (columns, 2): a waveform to be drawn."""
    if not len(samples) or columns < 1:
        return np.zeros((max(0, columns), 2), np.float32)
    edges = np.linspace(0, len(samples), columns + 1).astype(int)
    begins = np.minimum(edges[:-1], len(samples) - 1)
    low, high = np.minimum.reduceat(samples, begins), np.maximum.reduceat(samples, begins)
    return np.stack([low, high], axis=1)
