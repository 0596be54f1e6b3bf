"""What is heard while working: the mix with parts of it muted, clicks on its counts, or a stretch of it over and over.

Like the mix, each is readable from any place, and a block depends on its place alone.
"""

from bisect import bisect_left
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nafas.sound.meters.measure import Programme
from nafas.sound.mix.mix import Block, Mix
from nafas.timing.timeline import Timeline
from nafas.voice.level import SPEECH_LEVEL

_SEAM = 480  # frames over which a stretch goes over into its beginning


@dataclass(frozen=True)
class Parts:
    """Which parts of a mix are heard."""

    voice: bool = True
    chimes: bool = True
    bed: bool = True
    clicks: bool = False

    @property
    def as_mixed(self) -> bool:
        return self == Parts()

    def toggled(self, name: str) -> "Parts":
        """With one of them turned over."""
        return replace(self, **{name: not getattr(self, name)})

    def alone(self, name: str) -> "Parts":
        """One part alone; all of them where it is alone already. Clicks stay as they are."""
        only = Parts(name == "voice", name == "chimes", name == "bed", self.clicks)
        return Parts(clicks=self.clicks) if self == only else only


class StemMonitor:
    """A mix with some of its parts.

    Args:
        mix: the whole.
        parts: what is heard of it. Clicks are short dry ticks on every count, whether it is spoken or not.
    """

    channels = 2

    def __init__(self, mix: Mix, parts: Parts) -> None:
        self.mix, self.parts = mix, parts
        self.rate, self.length = mix.rate, mix.length
        self._counts = count_places(mix.cast.timeline, mix.rate) if parts.clicks else []
        self._click = _click(mix.rate)

    def read(self, start: int, frames: int) -> Block:
        """Frames `start` to `start + frames`, shape (2, frames)."""
        if self.parts.as_mixed:
            return self.mix.read(start, frames)
        out: Block = np.zeros((2, frames), np.float32)
        stems = self.mix.stems(start, frames)
        for name, stem in zip(("voice", "chimes", "bed"), stems):
            if getattr(self.parts, name):
                out += stem
        first = bisect_left(self._counts, start - len(self._click))
        for position in self._counts[first : bisect_left(self._counts, start + frames)]:
            begin, end = max(start, position), min(start + frames, position + len(self._click))
            if begin < end:
                out[:, begin - start : end - start] += self._click[begin - position : end - position]
        return out


def count_places(timeline: Timeline, rate: int) -> list[int]:
    """The sample of every count, in order."""
    return sorted({moment.sample(rate) for moment in timeline.counted})


def _click(rate: int) -> NDArray[np.float32]:
    t = np.arange(int(0.005 * rate)) / rate
    level = 10 ** ((SPEECH_LEVEL + 12) / 20)
    return (level * np.sin(2 * np.pi * 2500 * t) * np.exp(-t / 0.001)).astype(np.float32)


class LoopRegion:
    """A stretch of a programme over and over: place n is its place n - begin, round and round, from begin on.

    Args:
        programme: a mix or a master.
        begin, end: frames.
    """

    def __init__(self, programme: Programme, begin: int, end: int) -> None:
        self._programme = programme
        self.begin, self.end = begin, max(begin + 1, end)

    def place(self, at: int) -> int:
        """The programme's own place for one that was counted straight on."""
        if at < self.end:
            return at
        return self.begin + (at - self.begin) % (self.end - self.begin)

    def read(self, start: int, frames: int) -> Block:
        """Frames counted straight on from before `end`."""
        parts, done = [], 0
        while done < frames:
            at = self.place(start + done)
            n = min(frames - done, max(1, self.end - at))
            part = self._programme.read(at, n)
            over = min(n, _SEAM - (at - self.begin)) if start + done >= self.end else 0
            if over > 0:
                # What would have come after the end dies away under the beginning.
                way = np.arange(at - self.begin, at - self.begin + over, dtype=np.float32) / _SEAM
                beyond = self._programme.read(self.end + at - self.begin, over)
                part[:, :over] = part[:, :over] * way + beyond * (1 - way)
            parts.append(part)
            done += n
        return np.concatenate(parts, axis=1) if len(parts) != 1 else parts[0]
