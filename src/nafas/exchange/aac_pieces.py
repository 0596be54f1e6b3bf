"""AAC by FFmpeg, in pieces of a minute on every core, joined without a seam.

What is coded of 1,024 samples stands by itself (ISO/IEC 14496-3: AAC-LC knows no reservoir that points back). Only the
overlap of the transform goes from one to the next: it cancels where both encoders used the same windows before the
seam.
"""

from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from nafas.audio_files import AudioReader
from nafas.parallel.ahead import ahead

SAMPLES = 1024
PIECE, _WARM, _AFTER = 2800, 144, 48
"""Runs of `SAMPLES` in a piece; before and after it, where the neighbours overlap."""
_EDGE = 8  # packets at an encoder's end that are not taken


def coded(master: Path, layout: str, bit_rate: int, progress: Callable[[float], None]) -> Iterator[Any]:
    """The packets of a master, as PyAV wants them, in order.

    Args:
        master: WAV or FLAC, at a rate that AAC has.
        layout: "stereo" or "mono".
        bit_rate: bits a second.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: the master cannot be read.
        Cancelled: when `progress` does.
    """
    reader = AudioReader(master)
    size = PIECE * SAMPLES
    starts = range(0, max(1, reader.frames), size)

    def encode(begin: int, end: int) -> list[Any]:
        return _encoded(reader, begin, end, layout, bit_rate)

    def first_of(start: int) -> int:
        return max(0, start - _WARM * SAMPLES)

    def piece(start: int) -> list[Any]:
        return encode(first_of(start), min(start + size + _AFTER * SAMPLES, reader.frames))

    before: list[Any] = []
    begin = taken = 0  # where `before` begins; how many of it are given already
    for start, after in zip(starts, ahead(piece, starts)):
        if start:
            offset = (first_of(start) - begin) // SAMPLES
            at = _seam(before[offset:], after)
            if at is None:  # they do not agree anywhere: one encoder goes through both
                after = encode(begin, min(start + size + _AFTER * SAMPLES, reader.frames))
            else:
                yield from before[taken : offset + at]
                begin, taken = first_of(start), at
        before = after
        progress(min(1.0, (start + size) / max(1, reader.frames)))
    yield from before[taken:]


def _encoded(reader: AudioReader, begin: int, end: int, layout: str, bit_rate: int) -> list[Any]:
    """The packets of a stretch of sound, by an encoder of its own."""
    import av

    encoder: Any = av.CodecContext.create("aac", "w")
    encoder.sample_rate, encoder.layout, encoder.format, encoder.bit_rate = reader.rate, layout, "fltp", bit_rate
    packets: list[Any] = []
    for frame in sound_frames(reader, layout, 64 * SAMPLES, begin, end):
        packets += encoder.encode(frame)
    packets += encoder.encode(None)
    return packets


def sound_frames(reader: AudioReader, layout: str, step: int, begin: int = 0, end: int | None = None) -> Iterator[Any]:
    """A recording, or a stretch of it, in blocks of so many frames, as PyAV wants them."""
    import av

    end = reader.frames if end is None else end
    for at in range(begin, end, step):
        block = np.ascontiguousarray(reader.read(at, min(step, end - at)).T, np.float32)
        frame = av.AudioFrame.from_ndarray(block, format="fltp", layout=layout)
        frame.sample_rate, frame.pts, frame.time_base = reader.rate, at, Fraction(1, reader.rate)
        yield frame


def _seam(before: Sequence[Any], after: Sequence[Any]) -> int | None:
    """The first packet that is taken of `after`; both count the same packets. Best after one that both wrote alike."""
    places = range(_WARM - _AFTER, min(len(before), len(after)) - _EDGE)
    for at in places:
        if bytes(before[at - 1]) == bytes(after[at - 1]):
            return at
    for at in places:
        windows = _windows(bytes(before[at - 1]))
        if windows is not None and windows == _windows(bytes(after[at - 1])):
            return at
    return None


def _windows(packet: bytes) -> int | None:
    """Sequence and shape of the windows of all channels; None where they differ between channels."""
    bits = int.from_bytes(packet[:4], "big")
    kind, common = bits >> 29, bits >> 24 & 1
    if kind == 0:  # one channel: its gain stands before
        return bits >> 13 & 7
    return bits >> 20 & 7 if kind == 1 and common else None
