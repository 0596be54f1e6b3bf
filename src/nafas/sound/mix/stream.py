"""What a player reads: a programme from a place on, straight or over and over, at any speed with its pitch kept."""

from nafas.sound.bed.stretched import Stretched
from nafas.sound.meters.measure import Programme
from nafas.sound.mix.mix import Block
from nafas.sound.mix.monitor import LoopRegion

SLOWEST, FASTEST = 0.5, 1.5
"""Speeds for checking: past them words are no longer words."""
_PIECE = 0.4  # seconds stretched at once: short, since the first of them is waited for


class Stream:
    """A programme read from `begin` on; its frames are counted from there, as a sound card counts them.

    Args:
        programme: a mix or a master.
        begin: frame of the programme.
        loop: (from, to) in frames: played over and over once it is reached; None: straight on to the end.
        speed: `SLOWEST` to `FASTEST`.

    Raises:
        ValueError: another speed.
    """

    def __init__(
        self, programme: Programme, begin: int, loop: tuple[int, int] | None = None, speed: float = 1.0
    ) -> None:
        if not SLOWEST <= speed <= FASTEST:
            raise ValueError(f"speed {speed:g} is not offered; choose {SLOWEST:g} to {FASTEST:g}")
        self.begin, self.speed = begin, speed
        self.length = programme.length
        self._turning: LoopRegion | None = None
        if loop is not None:
            first, last = loop[0], min(loop[1], programme.length)
            if first < last and begin < last:
                self._turning = LoopRegion(programme, first, last)
        self._source = self._turning or programme
        self._stretched: Stretched | None = None
        if speed != 1:
            self._from = round(begin / speed)
            read = self._source.read
            self._stretched = Stretched(read, programme.rate, speed, _PIECE, fine=False, begin=self._from, ahead=True)

    def read(self, at: int, frames: int) -> Block:
        """Frames `at` to `at + frames` since it began, shape (2, frames)."""
        if self._stretched is not None:
            return self._stretched.read(self._from + at, frames)
        return self._source.read(self.begin + at, frames)

    def place(self, at: int) -> int:
        """The programme's frame that sounds `at` frames after it began; its length once it has ended."""
        index = self.begin + round(at * self.speed)
        return self._turning.place(index) if self._turning else min(index, self.length)
