"""The bed of a session: one bed after another, each at its planned level, with a fade at either end of the whole."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from nafas.sound.bed.ducking import LevelLine

Block = NDArray[np.float32]


class BedSound(Protocol):
    """An endless bed at `BED_LEVEL`, readable from any place by several threads at once."""

    def read(self, start: int, frames: int) -> Block: ...


@dataclass(frozen=True, eq=False)
class BedRegion:
    """One bed's turn.

    Attributes:
        sound: the bed; None: none sounds.
        level: its planned level in dB.
        begin: the sample at which the bed before it has gone over into it by half.
        offset: the bed's own sample that sounds at the session's first.
    """

    sound: BedSound | None
    level: LevelLine
    begin: int = 0
    offset: int = 0


@dataclass(frozen=True, eq=False)
class BedTrack:
    """The beds with their levels and fades, all counted in samples of the session.

    Attributes:
        turns: in order; the first begins at 0.
        over: half the samples over which a turn goes over into the next, at each but the first.
        fade_in, fade_out, length: of the whole.
    """

    turns: Sequence[BedRegion]
    over: Sequence[int]
    fade_in: int
    fade_out: int
    length: int

    @property
    def keeps(self) -> bool:
        """Whether a bed keeps what it makes for whoever reads it next, as one at another pace does."""
        return any(getattr(turn.sound, "keeps", False) for turn in self.turns)

    def level_at(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        """The planned level in dB, without fades, at rising samples; where no bed sounds it is that of silence."""
        values = np.full(len(places), -np.inf)
        begins = [turn.begin for turn in self.turns[1:]]
        for turn, (first, last) in zip(self.turns, pairwise([-np.inf, *begins, np.inf])):
            here = (places >= first) & (places < last)
            if turn.sound is not None:
                values[here] = turn.level.level_at(places[here])
        return values

    def read(self, start: int, frames: int) -> Block:
        """Frames `start` to `start + frames`, shape (2, frames)."""
        out: Block | None = None
        for number, turn in enumerate(self.turns):
            first = turn.begin - self.over[number - 1] if number else start
            last = self.turns[number + 1].begin + self.over[number] if number + 1 < len(self.turns) else start + frames
            begin, end = max(start, first), min(start + frames, last)
            if begin >= end or turn.sound is None:
                continue
            part = turn.sound.read(begin + turn.offset, end - begin)
            turn.level.apply(part, begin)
            if number:
                _rise(part, begin, first, turn.begin + self.over[number - 1])
            if number + 1 < len(self.turns):
                _rise(part[:, ::-1], -end + 1, 1 - last, 1 - (self.turns[number + 1].begin - self.over[number]))
            if out is None and begin == start and end == start + frames:
                out = part
                continue
            out = np.zeros((2, frames), np.float32) if out is None else out
            out[:, begin - start : end - start] += part
        out = np.zeros((2, frames), np.float32) if out is None else out
        self._fade(out, start)
        return out

    def faded(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        """The fades at both ends of the whole, linear, 0 to 1: sin squared. What is drawn is what sounds."""
        risen = np.clip(places / max(1, self.fade_in), 0, 1)
        left = np.clip((self.length - places) / max(1, self.fade_out), 0, 1)
        values: NDArray[np.float64] = np.sin(np.pi / 2 * risen) ** 2 * np.sin(np.pi / 2 * left) ** 2
        return values

    def _fade(self, out: Block, start: int) -> None:
        frames = out.shape[1]
        n = min(frames, self.fade_in - start)
        if n > 0:
            out[:, :n] *= self.faded(np.arange(start, start + n)).astype(np.float32)
        begin = max(start, self.fade_in, self.length - self.fade_out)
        if begin < start + frames:
            out[:, begin - start :] *= self.faded(np.arange(begin, start + frames)).astype(np.float32)


def _rise(block: Block, start: int, first: int, last: int) -> None:
    """Let a block that begins at `start` rise at equal power from `first` to `last`, in place."""
    n = min(block.shape[1], last - start)
    if n > 0:
        way = (np.arange(start - first, start - first + n, dtype=np.float64) + 0.5) / max(1, last - first)
        block[:, :n] *= np.sin(np.pi / 2 * np.clip(way, 0, 1)).astype(np.float32)
