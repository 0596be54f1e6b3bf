"""A clip: one spoken line as sound, ready to be placed.

Samples are mono float32 in [-1, 1], shape (n,), already trimmed and levelled. `beat` is the felt beat, seconds from
the first sample.
"""

from fractions import Fraction
from functools import cached_property

import numpy as np

from nafas.voice.level import Samples, sounding
from nafas.voice.spool import Spooled, spool

__all__ = ["Clip", "Samples", "tapered"]

MIN_RATE, MAX_RATE = 4_000, 768_000


class Clip:
    """One reading of a line.

    Args:
        samples: shape (n,), float32. Kept by the spool: with hours of talk, on the disk.

    Attributes:
        text: the words said.
        name: what to call it in a report ("two-b.flac", "narrator").
        kept: its samples where the spool has them.
        frames, rate: how many, and how many a second.
        beat: felt beat, seconds from the first sample.
        stand_in: read by the narrator, not by the producer.
        part: of its length as recorded, where it was shortened.
        waiting: silent in the place of a line that is not read, yet or at all.
    """

    def __init__(
        self,
        text: str,
        name: str,
        samples: Samples,
        rate: int,
        beat: float,
        stand_in: bool = False,
        part: float = 1.0,
        waiting: bool = False,
    ) -> None:
        self.text, self.name, self.rate, self.beat = text, name, rate, beat
        self.stand_in, self.part, self.waiting = stand_in, part, waiting
        self.frames = len(samples)
        self.kept: Samples | Spooled = spool.hold(samples)
        self._at_rates: dict[int, Clip] = {}
        self._shorter: dict[float, Clip] = {}

    @property
    def samples(self) -> Samples:
        """All its samples, shape (n,), float32; not to be changed."""
        return self.kept.whole() if isinstance(self.kept, Spooled) else self.kept

    @cached_property
    def spoken(self) -> int:
        """Samples until the word is over. Its quiet tail may lie under the next word: it is not heard there."""
        return sounding(self.samples, self.rate)

    @property
    def after_beat(self) -> int:
        """Samples from its beat to where it is over."""
        return self.spoken - round(self.beat * self.rate)

    @property
    def seconds(self) -> Fraction:
        """Exact length."""
        return Fraction(self.frames, self.rate)

    def at_rate(self, rate: int) -> "Clip":
        """The clip at another sample rate; kept with it, since a clip is used many times."""
        if rate == self.rate:
            return self
        if rate not in self._at_rates:
            import soxr

            samples = soxr.resample(self.samples, self.rate, rate, quality="HQ").astype(np.float32)
            self._at_rates[rate] = Clip(
                self.text, self.name, samples, rate, self.beat, self.stand_in, self.part, self.waiting
            )
        return self._at_rates[rate]

    def shorter(self, part: float) -> "Clip":
        """The clip in `part` of its time, at the same pitch, its beat moved with it; kept with it."""
        if part not in self._shorter:
            from nafas.voice.chain import shortened

            samples = tapered(shortened(self.samples, self.rate, part), self.rate)
            self._shorter[part] = Clip(self.text, self.name, samples, self.rate, self.beat * part, self.stand_in, part)
        return self._shorter[part]


def tapered(samples: Samples, rate: int, seconds: float = 0.004) -> Samples:
    """A copy with both ends faded over `seconds`, so that a trim never clicks."""
    n = min(int(rate * seconds), len(samples) // 2)
    out = samples.astype(np.float32, copy=True)
    if n:
        ramp = np.sin(np.linspace(0, np.pi / 2, n, endpoint=False, dtype=np.float32)) ** 2
        out[:n] *= ramp
        out[-n:] *= ramp[::-1]
    return out
