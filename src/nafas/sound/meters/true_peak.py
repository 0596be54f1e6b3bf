"""True peak by ITU-R BS.1770-4 Annex 2: the highest absolute value after four-times oversampling.

Most of a signal cannot hold the peak: an interpolated value is at most the filter's absolute sum times the samples it
spans. Only stretches whose sample peak could beat the highest value so far are oversampled, so the result is exact
and the work is small.
"""

import math
from threading import Lock

import numpy as np
from numpy.typing import NDArray

_FACTOR = 4
_SIDE = 8  # samples of context on each side of an interpolated value
_PIECE = 64  # interpolated together, by one matrix product


def _filter() -> NDArray[np.float64]:
    # Kaiser-windowed sinc, cut at the old Nyquist frequency; each phase's gain is set to exactly 1 at DC.
    places = np.arange(-_SIDE * _FACTOR, _SIDE * _FACTOR + 1) / _FACTOR
    taps: NDArray[np.float64] = np.sinc(places) * np.kaiser(len(places), 6.0)
    for phase in range(_FACTOR):
        taps[phase::_FACTOR] /= taps[phase::_FACTOR].sum()
    return taps


def _matrix() -> NDArray[np.float32]:
    """Turns _PIECE samples and their context into the interpolated values between them, phase by phase."""
    matrix = np.zeros((_PIECE + 2 * _SIDE, _FACTOR * _PIECE), np.float32)
    for phase in range(_FACTOR):
        taps = _TAPS[phase::_FACTOR][::-1]
        for i in range(_PIECE):
            # Phase 0 has one tap more than the others: it falls on the samples themselves.
            begin = i + 2 * _SIDE + 1 - len(taps)
            matrix[begin : begin + len(taps), phase * _PIECE + i] = taps
    return matrix


_TAPS = _filter()
_MATRIX = _matrix()
_BOUND = max(float(np.abs(_TAPS[phase::_FACTOR]).sum()) for phase in range(_FACTOR))


def cannot_exceed(block: NDArray[np.floating], limit: float) -> bool:
    """Whether no interpolated value of a block can be above `limit`; certain, from the sample peak alone."""
    return not block.size or max(float(block.max()), -float(block.min())) * _BOUND <= limit


PIECE = _PIECE
CONTEXT = _SIDE
"""Samples on each side that an interpolated value depends on."""


def piece_peaks(block: NDArray[np.floating], limit: float) -> NDArray[np.float64]:
    """True peak of each run of `PIECE` samples, linear, where it could be above `limit`; elsewhere a bound below it.

    Args:
        block: shape (channels, n); its first and last `CONTEXT` samples are context only.
        limit: linear.

    Returns:
        Shape (ceil((n - 2 * CONTEXT) / PIECE),); the last run may be shorter.
    """
    channels, n = block.shape
    pieces = -(-(n - 2 * _SIDE) // _PIECE)
    padded = np.zeros((channels, (pieces + 1) * _PIECE), np.float32)
    padded[:, :n] = block
    steps = np.abs(padded).max(axis=0).reshape(-1, _PIECE).max(axis=1)
    peaks: NDArray[np.float64] = np.maximum(steps[:-1], steps[1:]).astype(np.float64) * _BOUND
    windows = np.lib.stride_tricks.sliding_window_view(padded, _PIECE + 2 * _SIDE, axis=1)[:, ::_PIECE][:, :pieces]
    likely = np.flatnonzero(peaks > limit)
    if len(likely):
        values = np.abs(windows[:, likely].reshape(-1, _PIECE + 2 * _SIDE) @ _MATRIX)
        values = values.reshape(channels, -1, _FACTOR, _PIECE)
        if likely[-1] == pieces - 1:
            # What lies past the last whole context is not known yet: no value there is.
            values[:, -1, :, (n - 2 * _SIDE - 1) % _PIECE + 1 :] = 0
        peaks[likely] = values.max(axis=(0, 2, 3))
    return peaks


def highest_peak(block: NDArray[np.floating], floor: float) -> float:
    """The highest true peak of a block (shape and context as in `piece_peaks`), or `floor` when none is above it."""
    loudest = int(np.abs(block).max(axis=0).argmax())
    begin = min(max(0, loudest - _PIECE // 2 - _SIDE), max(0, block.shape[1] - _PIECE - 2 * _SIDE))
    # The likeliest place first: what it shows rules out most of the rest.
    floor = max(floor, float(piece_peaks(block[:, begin : begin + _PIECE + 2 * _SIDE], floor)[0]))
    peaks = piece_peaks(block, floor)
    return max(floor, float(peaks[peaks > floor].max(initial=0.0)))


class Highest:
    """The highest value that any of several meters of one programme has seen: lower ones need not be interpolated."""

    def __init__(self) -> None:
        self.value = 0.0
        self._lock = Lock()

    def rise(self, value: float) -> None:
        with self._lock:
            self.value = max(self.value, value)


class TruePeakMeter:
    """Measures the true peak of a stream of blocks of shape (channels, n), full scale 1.0.

    Args:
        known: shared with the meters of other parts of the programme; the highest of all of them is exact.
    """

    def __init__(self, channels: int = 2, known: Highest | None = None) -> None:
        self.highest = 0.0
        """The highest absolute value so far, linear; of several meters with one `known`, the highest of all counts."""
        self._known = known or Highest()
        self._channels = channels
        self._tail = np.zeros((channels, 2 * _SIDE), np.float32)

    def push(self, block: NDArray[np.floating]) -> None:
        """Take the next samples, any n."""
        joined = np.concatenate([self._tail, block], axis=1)
        self._tail = joined[:, -2 * _SIDE :].copy()
        floor = self._known.value
        if joined.shape[1] <= 2 * _SIDE or cannot_exceed(joined, floor):
            return
        found = highest_peak(joined, floor)
        if found > floor:
            self.highest = max(self.highest, found)
            self._known.rise(found)

    def settle(self, block: NDArray[np.floating]) -> None:
        """Take the samples before the first ones to be measured, without measuring them."""
        self._tail = np.concatenate([self._tail, block], axis=1)[:, -2 * _SIDE :].astype(np.float32)

    def finish(self) -> float:
        """Let the last samples through and give the true peak in dBTP; -inf for silence."""
        self.push(np.zeros((self._channels, 2 * _SIDE), np.float32))
        return 20 * math.log10(self.highest) if self.highest > 0 else -math.inf
