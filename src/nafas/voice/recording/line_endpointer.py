"""Listening while somebody speaks into a microphone: how loud it is, when the line begins and when it is over."""

import numpy as np

from nafas.voice.clip import Samples

_FRAME = 0.02
_ABOVE = 10.0  # dB over the room from which sound is speech
_QUIETEST = -60.0
_SHORTEST = 0.12  # seconds of sound that are more than a click
_KEPT = 0.5  # seconds of room from which its noise is taken


class LineEndpointer:
    """Fed with what the microphone gives, block by block.

    Args:
        rate: samples a second.
        pause: seconds of quiet that end a line.

    Attributes:
        level: dB of the last block.
        peak: dB of the highest sample so far.
        clipped: whether any sample was at full scale.
    """

    def __init__(self, rate: int, pause: float = 0.8) -> None:
        self.rate, self.pause = rate, pause
        self.level = self.peak = -120.0
        self.clipped = False
        self._parts: list[Samples] = []
        self._rest = np.zeros(0, np.float32)
        self._levels: list[float] = []
        self._spoken = 0.0
        self._quiet = 0.0

    def feed(self, samples: Samples) -> None:
        """Hear some more; shape (n,)."""
        if not len(samples):
            return
        self._parts.append(samples)
        top = float(np.abs(samples).max())
        self.peak = max(self.peak, 20 * float(np.log10(max(top, 1e-6))))
        self.clipped |= top >= 0.999
        size = round(_FRAME * self.rate)
        both = np.concatenate([self._rest, samples])
        number = len(both) // size
        self._rest = both[number * size :]
        for power in (both[: number * size].reshape(number, size).astype(float) ** 2).mean(axis=1):
            self.level = 10 * float(np.log10(max(power, 1e-12)))
            self._frame(self.level)

    def _frame(self, level: float) -> None:
        self._levels.append(level)
        if level > self.noise + _ABOVE:
            # A click is over before it counts.
            self._spoken, self._quiet = self._spoken + _FRAME, 0.0
        else:
            self._quiet += _FRAME
            if self._quiet > 0.3 and self._spoken < _SHORTEST:
                self._spoken = 0.0

    @property
    def noise(self) -> float:
        """dB of the room: the quiet part of what was heard."""
        best = max(1, round(_KEPT / _FRAME))
        return max(_QUIETEST, float(np.quantile(self._levels[-8 * best :], 0.1))) if self._levels else _QUIETEST

    @property
    def speaking(self) -> bool:
        return self._spoken >= _SHORTEST

    @property
    def over(self) -> bool:
        """Whether a line was said and has ended."""
        return self.speaking and self._quiet >= self.pause

    @property
    def seconds(self) -> float:
        return sum(map(len, self._parts)) / self.rate

    def sound(self) -> Samples:
        """Everything heard, shape (n,)."""
        return np.concatenate(self._parts) if self._parts else np.zeros(0, np.float32)
