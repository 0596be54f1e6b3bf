"""The mix at its master gain, with a look-ahead true-peak limiter that works only where it must.

A block depends on its place alone, as in `mix`: the gain at a sample depends on peaks at most `REACH` pieces away.
"""

from threading import Lock

import numpy as np
from numpy.typing import NDArray

from nafas import native
from nafas.sound.meters.measure import Programme
from nafas.sound.meters.true_peak import CONTEXT, PIECE, cannot_exceed, piece_peaks
from nafas.voice.level import gain_curve

REACH = 8
"""Pieces of 64 samples over which the gain moves, each way: about 11 ms at 48 kHz."""
_SPAN = (2 * REACH + 2) * PIECE
MARGIN = 0.05
"""dB kept under the ceiling, for the little that the moving gain itself adds."""


class MasterStream:
    """A mix made loud.

    Args:
        mix: what sounds.
        gain: dB.
        ceiling: highest true peak in dBTP, or None for the gain alone.

    Attributes:
        deepest: the most the limiter has taken away so far, in dB (0 or less).
    """

    def __init__(self, mix: Programme, gain: float, ceiling: float | None) -> None:
        self.mix = mix
        self.rate = mix.rate
        self.length = mix.length
        self.channels = mix.channels
        self._gain = np.float32(10 ** (gain / 20))
        self._ceiling = None if ceiling is None else 10 ** ((ceiling - MARGIN) / 20)
        self.forkable = getattr(mix, "forkable", False)
        self.deepest = 0.0
        self._lock = Lock()

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Frames `start` to `start + frames`, shape (channels, frames), full scale 1.0."""
        if self._ceiling is None:
            out = self.mix.read(start, frames)
            out *= self._gain
            return out
        # Pieces lie on an absolute grid, so that every read of a place sees the same ones.
        begin = (start - _SPAN) // PIECE * PIECE
        end = -(-(start + frames + _SPAN) // PIECE) * PIECE
        wide = self.mix.read(begin - CONTEXT, end - begin + 2 * CONTEXT)
        wide *= self._gain
        mine = slice(start - begin + CONTEXT, start - begin + CONTEXT + frames)
        return self.limit(wide, mine)

    def limit(self, wide: NDArray[np.float32], mine: slice) -> NDArray[np.float32]:
        """The part `mine` of an amplified block that begins `CONTEXT` before a piece and ends `CONTEXT` after one."""
        assert self._ceiling is not None
        out = wide[:, mine]
        if cannot_exceed(wide, self._ceiling):
            return out
        peaks = piece_peaks(wide, self._ceiling)
        if peaks.max() <= self._ceiling:
            return out
        curve = gain_curve(np.minimum(1.0, self._ceiling / np.maximum(peaks, 1e-12)), REACH)
        deepest = float(20 * np.log10(curve.min()))
        with self._lock:  # several threads read at once
            self.deepest = min(self.deepest, deepest)
        # Only the stretch where the gain moves is touched: nearly all of a programme is left as it was.
        moved = np.flatnonzero(curve < 1 - 1e-9)
        first = max(mine.start, CONTEXT + (int(moved[0]) - 1) * PIECE)
        last = min(mine.stop, CONTEXT + (int(moved[-1]) + 2) * PIECE)
        if first < last:
            glide(out[:, first - mine.start : last - mine.start], first - CONTEXT, curve)
        return out


def glide(block: NDArray[np.float32], first: int, curve: NDArray[np.float64]) -> None:
    """Multiply a block of shape (channels, n), in place, by a gain that goes straight from the middle of one piece to
    that of the next; it begins `first` samples after the first piece, 0 or more."""
    if native.available() and block.strides[1] == 4:
        native.glide(block, first, curve, PIECE)
        return
    centres = (np.arange(len(curve)) + 0.5) * PIECE
    block *= np.interp(np.arange(first, first + block.shape[1]), centres, curve).astype(np.float32)
