"""The frames of an MP3 file: how many there are, whether all are there, and a header for files that lack one.

Headers after ISO/IEC 11172-3 and 13818-3; the Xing header (frame count in the first frame) as LAME writes and every
decoder reads it. libsndfile guesses the length of a file without one from its first frame, and reads no further than it
guessed: files of varying bit rate came out at a third of their length.
"""

import io
from dataclasses import dataclass
from pathlib import Path

from nafas.errors import InputError

_RATES = {3: (44_100, 48_000, 32_000), 2: (22_050, 24_000, 16_000), 0: (11_025, 12_000, 8_000)}
_BITS_1 = (0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320)
_BITS_2 = (0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160)
_MOST_NOISE = 65_536  # bytes without a frame after which what follows is no longer this recording
_WHOLE = "use a whole copy of the file"


@dataclass(frozen=True)
class Mp3Frames:
    """What an MP3 file holds.

    Attributes:
        begin, end: bytes of its frames; tags stand before and after.
        count: frames of sound, without the header frame.
        counted: how many its own header says there are; None without one.
        first: the four bytes every frame header is like.
    """

    begin: int
    end: int
    count: int
    counted: int | None
    first: bytes


def frame_of(head: bytes) -> tuple[int, int, int] | None:
    """Bytes, samples and side-information bytes of a Layer III frame by its header; None for what is none."""
    if len(head) < 4 or head[0] != 0xFF or head[1] & 0xE6 != 0xE2:
        return None
    version, bits, rate = head[1] >> 3 & 3, head[2] >> 4, head[2] >> 2 & 3
    if version == 1 or bits in (0, 15) or rate == 3:
        return None
    mono = head[3] >> 6 == 3
    if version == 3:
        return 144_000 * _BITS_1[bits] // _RATES[3][rate] + (head[2] >> 1 & 1), 1152, 17 if mono else 32
    return 72_000 * _BITS_2[bits] // _RATES[version][rate] + (head[2] >> 1 & 1), 576, 9 if mono else 17


def _after_tags(data: "memoryview[int]") -> int:
    """Where the sound begins: after any ID3v2 tags."""
    at = 0
    while bytes(data[at : at + 3]) == b"ID3" and len(data) >= at + 10:
        size = 0
        for octet in data[at + 6 : at + 10]:
            size = size << 7 | octet & 0x7F
        at += 10 + size + (10 if data[at + 5] & 0x10 else 0)
    return at


def _header_count(frame: bytes, side: int) -> int | None:
    """The number of frames that a Xing header says; 0 where it says none; None for a frame of sound."""
    if frame[4 + side : 8 + side] not in (b"Xing", b"Info"):
        return None
    flags = int.from_bytes(frame[8 + side : 12 + side], "big")
    return int.from_bytes(frame[12 + side : 16 + side], "big") if flags & 1 else 0


def mp3_frames(path: Path) -> Mp3Frames | None:
    """Walk through the frames of a file; None where it holds no MP3.

    Raises:
        InputError: frames are missing at its end, or a second recording follows the first.
    """
    import mmap

    with path.open("rb") as file:
        try:
            mapped = mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ)
        except ValueError:  # empty
            return None
        with mapped, memoryview(mapped) as data:
            return _walk(path, data)


def _walk(path: Path, data: "memoryview[int]") -> Mp3Frames | None:
    at = begin = _first_frame(data, _after_tags(data))
    if begin < 0:
        return None
    first, counted, count, end = bytes(data[begin : begin + 4]), None, 0, begin
    while at + 4 <= len(data):
        frame = frame_of(bytes(data[at : at + 4]))
        if frame is None or not _alike(first, bytes(data[at : at + 4])):
            if len(data) - at <= 4096 or bytes(data[at : at + 3]) in (b"TAG", b"APE", b"LYR", b"ID3"):
                break
            onward = _first_frame(data, at, _MOST_NOISE, first)
            if onward < 0:
                break
            at = onward
            continue
        size, _, side = frame
        if at + size > len(data):
            if len(data) - at > 128:  # less than that is an old tag, or nothing anyone hears
                raise InputError(str(path), "breaks off in the middle of a frame", _WHOLE)
            break
        said = _header_count(bytes(data[at : at + 16 + side]), side)
        if said is None:
            count += 1
        elif at == begin:
            counted = said or None
        else:
            problem = "holds two recordings joined, of which only the first would be heard"
            raise InputError(str(path), problem, "export them as one file")
        at = end = at + size
    if counted is not None and count < counted:
        share = count / counted
        raise InputError(str(path), f"breaks off: {share:.0%} of it are there", _WHOLE)
    return Mp3Frames(begin, end, count, counted, first)


def _alike(first: bytes, head: bytes) -> bool:
    """Whether two headers can be of one recording: version, layer and rate."""
    return first[1] & 0xFE == head[1] & 0xFE and first[2] & 0x0C == head[2] & 0x0C


def _first_frame(data: "memoryview[int]", at: int, most: int = _MOST_NOISE, like: bytes | None = None) -> int:
    """Where the next frame begins that another one follows; -1 within `most` bytes."""
    chunk = bytes(data[at : at + most + 4])
    find = chunk.find(b"\xff")
    while find >= 0:
        head = chunk[find : find + 4]
        frame = frame_of(head)
        if frame is not None and (like is None or _alike(like, head)):
            after = at + find + frame[0]
            if after + 4 > len(data) or frame_of(bytes(data[after : after + 4])) is not None:
                return at + find
        find = chunk.find(b"\xff", find + 1)
    return -1


class WithHeader(io.RawIOBase):
    """An MP3 file that has no header, as if it had one: a decoder then knows its length."""

    def __init__(self, path: Path, frames: Mp3Frames) -> None:
        self._file = path.open("rb")
        self._frames = frames
        self._head = _made_header(frames)
        self._size = len(self._head) + frames.end - frames.begin
        self._at = 0

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return self._at

    def seek(self, position: int, whence: int = io.SEEK_SET) -> int:
        base = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._size}[whence]
        self._at = max(0, base + position)
        return self._at

    def readinto(self, buffer: object) -> int:
        into = memoryview(buffer).cast("B")  # type: ignore[arg-type]
        size = max(0, min(len(into), self._size - self._at))
        done = 0
        if self._at < len(self._head):
            done = min(size, len(self._head) - self._at)
            into[:done] = self._head[self._at : self._at + done]
        if done < size:
            self._file.seek(self._frames.begin + self._at + done - len(self._head))
            part = self._file.read(size - done)
            into[done : done + len(part)] = part
            done += len(part)
        self._at += done
        return done

    def close(self) -> None:
        self._file.close()
        super().close()


def _made_header(frames: Mp3Frames) -> bytes:
    head = bytearray(frames.first)
    head[1] |= 1  # no checksum
    head[2] = head[2] & 0x0D | 0x90  # a bit rate with room for it; no padding
    frame = frame_of(bytes(head))
    assert frame is not None
    size, _, side = frame
    count, octets = frames.count.to_bytes(4, "big"), (frames.end - frames.begin).to_bytes(4, "big")
    made = bytes(head) + bytes(side) + b"Xing" + (3).to_bytes(4, "big") + count + octets
    return made.ljust(size, b"\0")
