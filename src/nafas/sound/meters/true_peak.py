"""True peak by ITU-R BS.1770-4 Annex 2: the highest absolute value after four-times oversampling.

Most of a signal cannot hold the peak. An interpolated value is at most the filter's absolute sum times the samples it
spans; and it lies no further from the straight line between its neighbours than the second differences of those
samples allow. Only stretches that could beat the highest value so far by both bounds are oversampled, so the result is
exact and the work is small.
"""

import math
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from nafas import native

_FACTOR = 4
_SIDE = 8  # samples of context on each side of an interpolated value
_PIECE = 64  # interpolated together, by one matrix product
_CHUNK = 1024  # samples judged together at first


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


def _bends() -> tuple[float, float]:
    """How far an interpolated value can be from the straight line between the samples next to it: so many times the
    largest sample and the largest second difference of those that it spans.

    What the filter's taps are beyond those of the line sums to nothing; its first moment, less than two thousandths,
    is a multiple of one first difference, which is at most twice the largest sample; what is left then is the double
    running sum of the taps times second differences (summation by parts).
    """
    slope, bend = 0.0, 0.0
    for phase in range(1, _FACTOR):
        taps = _TAPS[phase::_FACTOR][::-1].copy()
        left = len(taps) // 2 - 1
        part = phase / _FACTOR
        taps[left] -= 1 - part
        taps[left + 1] -= part
        moment = float((taps * np.arange(len(taps))).sum())
        taps[left] += moment
        taps[left + 1] -= moment
        slope = max(slope, 2 * abs(moment))
        bend = max(bend, float(np.abs(np.cumsum(np.cumsum(taps))).sum()))
    return slope, bend


_SLOPE, _BEND = _bends()
_PHASES = np.zeros((_FACTOR, 2 * _SIDE + 1), np.float32)
"""The taps of each phase, in the order of the samples, as the compiled loop takes them."""
for _phase in range(_FACTOR):
    _own = _TAPS[_phase::_FACTOR][::-1]
    _PHASES[_phase, 2 * _SIDE + 1 - len(_own) :] = _own


def _bounds(windows: NDArray[np.float32], highest: NDArray[np.float32]) -> NDArray[np.float32]:
    """What no interpolated value within windows of samples and their context can be above, by the second bound; shape
    (..., n) to (...). `highest` is the largest sample of each."""
    bends = np.diff(windows, 2)
    most: NDArray[np.float32] = (1 + _SLOPE) * highest + _BEND * _extreme(bends)
    return most * np.float32(1 + 1e-6)  # for rounding


def _windows(samples: NDArray[np.float32], width: int, step: int) -> NDArray[np.float32]:
    """Every window of `width` samples that begins `step` after the one before, as a view, shape (channels, windows,
    width)."""
    channels, n = samples.shape
    across, along = samples.strides
    shape = (channels, (n - width) // step + 1, width)
    return np.lib.stride_tricks.as_strided(samples, shape, (across, step * along, along), writeable=False)


def _extreme(values: NDArray[np.float32]) -> NDArray[np.float32]:
    result: NDArray[np.float32] = np.maximum(values.max(axis=-1), -values.min(axis=-1))
    return result


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
    if native.available():
        samples = block.astype(np.float32, copy=False)
        return native.piece_peaks(samples, limit, _PHASES, _BOUND * (1 + 1e-6), 1 + _SLOPE, _BEND)
    channels, n = block.shape
    pieces = -(-(n - 2 * _SIDE) // _PIECE)
    padded = np.zeros((channels, (pieces + 1) * _PIECE), np.float32)
    padded[:, :n] = block
    steps = np.abs(padded).max(axis=0).reshape(-1, _PIECE).max(axis=1)
    peaks: NDArray[np.float64] = np.maximum(steps[:-1], steps[1:]).astype(np.float64) * _BOUND
    windows = _windows(padded, _PIECE + 2 * _SIDE, _PIECE)[:, :pieces]
    likely = np.flatnonzero(peaks > limit)
    if len(likely):
        chosen = windows[:, likely]
        bounds = _bounds(chosen, _extreme(chosen)).max(axis=0)
        peaks[likely] = np.minimum(peaks[likely], bounds)
        likely = likely[bounds > limit]
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
    width = _CHUNK + 2 * _SIDE
    samples = block.astype(np.float32, copy=False)
    if native.available():
        return native.highest_peak(samples, floor, _PHASES, _BOUND * (1 + 1e-6), 1 + _SLOPE, _BEND)
    if samples.shape[1] <= width:
        return _highest(samples, floor)
    windows = _windows(samples, width, _CHUNK)
    # The last one ends where the block does: what it has in common with the one before is looked at twice.
    last = samples[:, None, -width:]
    highest = np.append(_extreme(windows), _extreme(last), axis=1)
    could = highest.max(axis=0) * _BOUND > floor
    likely = windows[:, could[:-1]]
    if could[-1]:
        likely = np.append(likely, last, axis=1)
    bounds = _bounds(likely, highest[:, could]).max(axis=0)
    for index in np.argsort(-bounds):  # the likeliest first: what it shows rules out most of the rest
        if bounds[index] <= floor:
            break
        floor = _highest(likely[:, index], floor)
    return floor


def _highest(window: NDArray[np.float32], floor: float) -> float:
    peaks = piece_peaks(window, floor)
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
        if block.shape[1] > 2 * _SIDE:
            # What spans both blocks, and then the rest of this one: nothing large is copied.
            self._look(np.concatenate([self._tail, block[:, : 2 * _SIDE]], axis=1))
            self._look(block)
            self._tail = block[:, -2 * _SIDE :].astype(np.float32)
        else:
            joined = np.concatenate([self._tail, block], axis=1)
            self._look(joined)
            self._tail = joined[:, -2 * _SIDE :].astype(np.float32)

    def _look(self, block: NDArray[np.floating]) -> None:
        floor = self._known.value
        if block.shape[1] <= 2 * _SIDE or (not native.available() and cannot_exceed(block, floor)):
            return  # the compiled loop asks the same of each piece
        peak = highest_peak(block, floor)
        if peak > floor:
            self.highest = max(self.highest, peak)
            self._known.rise(peak)

    def settle(self, block: NDArray[np.floating]) -> None:
        """Take the samples before the first ones to be measured, without measuring them."""
        self._tail = np.concatenate([self._tail, block], axis=1)[:, -2 * _SIDE :].astype(np.float32)

    def finish(self) -> float:
        """Let the last samples through and give the true peak in dBTP; -inf for silence."""
        self.push(np.zeros((self._channels, 2 * _SIDE), np.float32))
        return 20 * math.log10(self.highest) if self.highest > 0 else -math.inf
