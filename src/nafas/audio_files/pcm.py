"""Samples of a plain WAV file taken straight from its data: five times as fast as a library that converts 8 kB at once.

The library still reads the header; a test holds both to the same samples.
"""

import os
import weakref
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

_WIDTHS = {"PCM_16": 2, "PCM_24": 3}


class PcmData:
    """Where the samples of a file lie, readable from several threads at once.

    Args:
        path: a RIFF or RF64 WAV file that is all there.
        subtype: "PCM_16" or "PCM_24".
        channels: of its frames.
    """

    def __init__(self, path: Path, at: int, subtype: str, channels: int) -> None:
        self._file = path.open("rb", buffering=0)
        weakref.finalize(self, self._file.close)
        self._at, self._width, self._channels = at, _WIDTHS[subtype], channels

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Frames `start` to `start + frames`, shape (n, channels), fewer where the file ends; full scale 1.0."""
        size = self._width * self._channels
        data = np.empty(frames * size, np.uint8)
        done = 0
        while done < len(data):
            got = os.preadv(self._file.fileno(), [data[done:].data], self._at + start * size + done)
            if not got:
                break
            done += got
        data = data[: done // size * size]
        if self._width == 2:
            found = data.view("<i2").astype(np.float32)
            found *= np.float32(2**-15)
        else:
            wide = np.zeros((len(data) // 3, 4), np.uint8)
            wide[:, 1:] = data.reshape(-1, 3)
            found = wide.view("<i4").reshape(-1).astype(np.float32)
            found *= np.float32(2**-31)
        return found.reshape(-1, self._channels)

    def close(self) -> None:
        self._file.close()


def pcm_data(path: Path, subtype: str, channels: int) -> PcmData | None:
    """The data of a plain WAV file; None for any other."""
    if subtype not in _WIDTHS:
        return None
    with path.open("rb") as file:
        at = _data(file)
    return None if at is None else PcmData(path, at, subtype, channels)


def _data(file: BinaryIO) -> int | None:
    head = file.read(12)
    if head[:4] not in (b"RIFF", b"RF64") or head[8:12] != b"WAVE":
        return None
    at = 12
    while len(head := file.read(8)) == 8:
        if head[:4] == b"data":
            return at + 8
        at += 8 + (length := int.from_bytes(head[4:], "little")) + (length & 1)
        file.seek(at)
    return None
