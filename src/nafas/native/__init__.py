"""The compiled inner loops (`kernel.c`), where they were built; without them NumPy does the same, three times slower.

They are built with the package by the C compiler that is there, or that comes with the environment. Every function here
has its NumPy way next to its one caller: `available()` says which to take. `NAFAS_NUMPY=1` takes NumPy.
"""

import ctypes
import os
import sys
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

_F, _D, _I = ctypes.c_float, ctypes.c_double, ctypes.c_int64
_P = ctypes.c_void_p
_SIDE, _PIECE = 8, 64  # as in kernel.c, and in sound.meters.true_peak
_FUNCTIONS: dict[str, tuple[Any, tuple[Any, ...]]] = {
    "nafas_k_powers": (None, (_P, _P, _I, _I, _P, _P, _P)),
    "nafas_highest_peak": (_F, (_P, _I, _F, _P, _F, _F, _F)),
    "nafas_piece_peaks": (None, (_P, _I, _F, _P, _F, _F, _F, _P)),
    "nafas_glide": (None, (_P, _I, _I, _P, _I, _I)),
    "nafas_pack24": (None, (_P, _P, _I, _P)),
    "nafas_unpack24": (None, (_P, _I, _P, _P)),
    "nafas_ramp": (None, (_P, _P, _I, _D, _D)),
    "nafas_add_around": (None, (_P, _I, _P, _I, _I, _P)),
}


@cache
def _library() -> Any:
    if os.environ.get("NAFAS_NUMPY") == "1" or sys.byteorder != "little":
        return None
    for path in sorted(Path(__file__).parent.glob("_kernel*.so")):
        try:
            library = ctypes.CDLL(str(path))
            for name, (result, arguments) in _FUNCTIONS.items():
                function = getattr(library, name)
                function.restype, function.argtypes = result, arguments
        except (OSError, AttributeError):  # built for another machine, or by an older version
            continue
        return library
    return None


def available() -> bool:
    """Whether the compiled loops are here."""
    return _library() is not None


def _rows(block: NDArray[np.float32]) -> tuple[NDArray[np.float32], int, int | None]:
    """The block with samples side by side, and where its channels lie; None for a second one that is not there."""
    if block.dtype != np.float32 or block.strides[1] != 4:
        block = np.ascontiguousarray(block, np.float32)
    begin = block.ctypes.data
    return block, begin, begin + block.strides[0] if len(block) == 2 else None


def k_powers(
    block: NDArray[np.float32], hop: int, coefficients: NDArray[np.float64], state: NDArray[np.float64]
) -> NDArray[np.float64]:
    """K-weighted powers of runs of `hop` samples: means of left², right² and left * right, shape (runs, 3).

    Args:
        block: shape (1 or 2, runs * hop).
        hop: samples of a run.
        coefficients: shape (2, 5): b0 b1 b2 a1 a2 of each section.
        state: of the filter, shape (4, 2), zeros at first; changed in place.
    """
    block, left, right = _rows(block)
    hops = block.shape[1] // hop
    powers = np.empty((hops, 3))
    _library().nafas_k_powers(left, right, hops, hop, coefficients.ctypes.data, state.ctypes.data, powers.ctypes.data)
    return powers


def highest_peak(
    block: NDArray[np.float32], floor: float, taps: NDArray[np.float32], bound: float, slope: float, bend: float
) -> float:
    """As `sound.meters.true_peak.highest_peak`, by the filter `taps`, shape (4, 17), and the two bounds of it."""
    block = _rows(block)[0]
    for row in block:
        address, length = row.ctypes.data, len(row)
        floor = _library().nafas_highest_peak(address, length, floor, taps.ctypes.data, bound, slope, bend)
    return floor


def piece_peaks(
    block: NDArray[np.float32], limit: float, taps: NDArray[np.float32], bound: float, slope: float, bend: float
) -> NDArray[np.float64]:
    """As `sound.meters.true_peak.piece_peaks`, with what `highest_peak` takes."""
    block = _rows(block)[0]
    peaks = np.zeros(max(0, -(-(block.shape[1] - 2 * _SIDE) // _PIECE)))
    for row in block:
        address, length = row.ctypes.data, len(row)
        _library().nafas_piece_peaks(address, length, limit, taps.ctypes.data, bound, slope, bend, peaks.ctypes.data)
    return peaks


def glide(block: NDArray[np.float32], first: int, curve: NDArray[np.float64], size: int) -> None:
    """Multiply a block, shape (channels, n), rows contiguous, in place, by a gain that goes straight from the middle of
    one piece of `size` samples to the middle of the next.

    Args:
        first: the block's first sample, counted from the beginning of the first piece; 0 or more.
        curve: gains of the pieces, one after another; the first and the last one go on outside.
    """
    for row in block:
        address, length = row.ctypes.data, len(row)
        _library().nafas_glide(address, length, first, curve.ctypes.data, len(curve), size)


def pack24(block: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Samples of shape (1 or 2, n), full scale 1.0, as frames of three bytes a channel: rounded to nearest, clipped."""
    block, left, right = _rows(block)
    packed = np.empty(3 * block.size, np.uint8)
    if block.size:
        _library().nafas_pack24(left, right, block.shape[1], packed.ctypes.data)
    return packed


def unpack24(data: NDArray[np.uint8], out: NDArray[np.float32]) -> None:
    """Frames of three bytes a channel into `out`, shape (1 or 2, n), full scale 1.0, its rows contiguous."""
    begin = out.ctypes.data
    other = begin + out.strides[0] if len(out) == 2 else None
    _library().nafas_unpack24(data.ctypes.data, out.shape[1], begin, other)


def ramp(block: NDArray[np.float32], first: float, slope: float) -> None:
    """Multiply a block, shape (1 or 2, n), rows contiguous, by `first` dB that grow by `slope` dB a sample."""
    begin = block.ctypes.data
    other = begin + block.strides[0] if len(block) == 2 else None
    _library().nafas_ramp(begin, other, block.shape[1], first, slope)


def add_around(out: NDArray[np.float32], loop: NDArray[np.float32], at: int, gains: NDArray[np.float32] | None) -> None:
    """Add a loop, shape (channels, n), from its frame `at` on and around, to `out`, shape (channels, frames), times
    `gains`, shape (frames,), where they are given. Rows are contiguous."""
    by = None if gains is None else gains.ctypes.data
    to, source = out.ctypes.data, loop.ctypes.data
    for channel in range(len(out)):
        first, own = to + channel * out.strides[0], source + channel * loop.strides[0]
        _library().nafas_add_around(first, out.shape[1], own, loop.shape[1], at, by)
