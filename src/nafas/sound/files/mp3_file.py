"""MP3 by LAME, in pieces of half a minute on every core, joined without a seam (`mp3_splice`).

Each encoder begins two seconds before its piece, so that it writes there what an encoder that heard all of it would
have written.
"""

from collections import deque
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nafas.parallel.processes import cores
from nafas.sound.files.dither import Dither
from nafas.sound.files.mp3_splice import SAMPLES, Frame, frames_of, joined, seam

BIT_RATE = 192
"""Kilobits a second, constant: what players of every age handle."""
GAIN = 1 / 0.97
"""LAME turns everything down at this bit rate (to -0.26 dB, as measured): a master keeps its loudness."""
PIECE, _WARM, _AFTER = 1250, 96, 48
"""Frames of a piece; before and after it, where the neighbours overlap."""
_EDGE = 16  # frames at the beginning of an encoder, and at its end, that are not taken
_QUALITY = 2  # LAME's own scale; near the best, and twice as fast as that
_DELAY = 576  # samples that LAME puts in front


class Mp3File:
    """An MP3 being written.

    Args:
        path: is made, or replaced.
        rate: 32000, 44100 or 48000.
        channels: 1 or 2.
    """

    anywhere = False

    def __init__(self, path: Path, rate: int, channels: int) -> None:
        self._rate, self._channels = rate, channels
        self._dither = Dither(channels)
        self._file = path.open("wb")
        self._pool = ThreadPoolExecutor(cores())
        self._sound: list[NDArray[np.int16]] = []  # from sample `_begin` on
        self._begin = self._length = self._asked = 0
        self._encoders: deque[tuple[int, NDArray[np.int16], Future[list[Frame]]]] = deque()
        self._last: tuple[int, NDArray[np.int16], list[Frame]] | None = None
        self._written = self._bytes = 0  # frames, and their bytes
        self._empty = b""  # a frame of nothing

    def write(self, block: NDArray[Any]) -> None:
        """Append a block of shape (channels, n), float32, full scale 1.0."""
        self._sound.append(self._dither(block * np.float32(GAIN)).T)
        self._length += block.shape[1]
        while self._length >= ((self._asked + 1) * PIECE + _AFTER) * SAMPLES:
            self._encode(((self._asked + 1) * PIECE + _AFTER) * SAMPLES)

    def _encode(self, end: int) -> None:
        """Have the next piece encoded, with what is before it, as far as sample `end`."""
        first = max(0, self._asked * PIECE - _WARM)
        sound = np.concatenate([np.zeros((0, self._channels), np.int16), *self._sound])
        piece = sound[first * SAMPLES - self._begin : end - self._begin]
        self._asked += 1
        keep = max(0, self._asked * PIECE - _WARM) * SAMPLES
        self._sound, self._begin = [sound[keep - self._begin :]], keep
        self._encoders.append((first, piece, self._pool.submit(self._frames, piece)))
        while len(self._encoders) > cores() + 1:
            self._take()

    def _frames(self, sound: NDArray[np.int16]) -> list[Frame]:
        import lameenc

        encoder = lameenc.Encoder()
        encoder.silence()
        encoder.set_bit_rate(BIT_RATE)
        encoder.set_in_sample_rate(self._rate)
        encoder.set_channels(self._channels)
        encoder.set_quality(_QUALITY)
        return frames_of(bytes(encoder.encode(np.ascontiguousarray(sound, "<i2").tobytes())) + bytes(encoder.flush()))

    def _take(self) -> None:
        """Join the next piece to those before it, and write what is settled by that."""
        first, sound, future = self._encoders.popleft()
        frames = future.result()
        if self._last is not None:
            begin, earlier, before = self._last
            offset = first - begin
            # Both lists count from the later encoder's first frame.
            at = seam(before[offset:], frames, range(_WARM - _EDGE, min(_WARM + _AFTER, len(frames)) - _EDGE))
            if at is None:  # they do not agree anywhere: one encoder goes through both
                sound = np.concatenate([earlier[: offset * SAMPLES], sound])
                first, frames = begin, self._frames(sound)
            else:
                settled = [frame.data for frame in before[self._written - begin : offset]]
                self._put(settled + joined(before[offset:], frames, at))
        self._last = first, sound, frames

    def _put(self, frames: list[bytes]) -> None:
        if not self._written:
            head = bytearray(frames[0][:4])
            head[2] &= 0xFD  # no padding
            self._empty = bytes(head).ljust(144_000 * BIT_RATE // self._rate, b"\0")
            self._file.write(self._empty)  # in the place of the header, which says how many frames there are
        self._file.write(b"".join(frames))
        self._written += len(frames)
        self._bytes += sum(map(len, frames))

    def finish(self) -> None:
        """Encode what is left, and write how long it is."""
        self._encode(self._length)
        while self._encoders:
            self._take()
        assert self._last is not None
        first, _, frames = self._last
        self._put([frame.data for frame in frames[self._written - first :]])
        self._file.seek(0)
        self._file.write(self._header())

    def close(self) -> None:
        """Close it as it is."""
        self._pool.shutdown(cancel_futures=True)
        self._file.close()

    def _header(self) -> bytes:
        """A frame of no sound that says how many follow, and what is not part of the sound: LAME's, as decoders read
        it (its revision 1, from memory; without a checksum of the music, which none of them asks for)."""
        made = bytearray(self._empty)
        size, at = self._bytes + len(made), 4 + (17 if self._channels == 1 else 32)
        numbers = (15, self._written, size)  # that frames, bytes, places and quality are said; and the first two
        made[at : at + 16] = b"Info" + b"".join(number.to_bytes(4, "big") for number in numbers)
        made[at + 16 : at + 116] = bytes(place * 256 // 100 for place in range(100))
        padding = self._written * SAMPLES - _DELAY - self._length
        lame = b"LAME3.100" + bytes([1]) + bytes(10) + bytes([BIT_RATE]) + (_DELAY << 12 | padding).to_bytes(3, "big")
        made[at + 120 : at + 120 + len(lame)] = lame
        made[at + 148 : at + 152] = size.to_bytes(4, "big")
        made[at + 154 : at + 156] = _crc(bytes(made[: at + 154])).to_bytes(2, "big")
        return bytes(made)


def _crc(data: bytes) -> int:
    """CRC-16 with the polynomial 0x8005, bits reversed, as LAME ends its header with."""
    value = 0
    for octet in data:
        value ^= octet
        for _ in range(8):
            value = value >> 1 ^ (0xA001 if value & 1 else 0)
    return value
