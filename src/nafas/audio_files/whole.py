"""Whether a file of sound is all there: the lengths that its container says against what is on the disk.

libsndfile takes a file that was cut off for a shorter one and says nothing. WAV and AIFF say the bytes of their sound
in a chunk (Microsoft/IBM RIFF 1991, EBU Tech 3306 for RF64, AIFF 1989); the last page of an Ogg stream is marked
(RFC 3533).
"""

from pathlib import Path
from typing import BinaryIO

from nafas.errors import InputError

_WHOLE = "use a whole copy of the file"
_UNKNOWN = (0, 0xFFFFFFFF)
"""Sizes that a program writes which cannot go back to the beginning: the sound goes on to the end."""


def check_whole(path: Path) -> None:
    """See that nothing of a WAV, AIFF or Ogg file is missing; other kinds pass.

    Raises:
        InputError: it was cut off, or holds several recordings one after another.
    """
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] in (b"RIFF", b"RF64", b"BW64") and head[8:12] == b"WAVE":
            _chunks(path, file, "little", b"data")
        elif head[:4] == b"FORM" and head[8:12] in (b"AIFF", b"AIFC"):
            _chunks(path, file, "big", b"SSND")
        elif head[:4] == b"OggS":
            _pages(path, file)


def _chunks(path: Path, file: BinaryIO, order: str, sound: bytes) -> None:
    size = path.stat().st_size
    at, wide = 12, 0
    while at + 8 <= size:
        file.seek(at)
        head = file.read(8)
        length = int.from_bytes(head[4:], order)  # type: ignore[arg-type]
        if head[:4] == b"ds64":
            wide = int.from_bytes(file.read(16)[8:], "little")
        if head[:4] == sound:
            if length == 0xFFFFFFFF and wide:
                length = wide
            elif length in _UNKNOWN:
                return
            if at + 8 + length > size:
                share = max(0, size - at - 8) / length
                raise InputError(str(path), f"breaks off: {share:.0%} of its sound are there", _WHOLE)
            return
        at += 8 + length + (length & 1)


def _pages(path: Path, file: BinaryIO) -> None:
    size = path.stat().st_size
    at, ended, sounding = 0, False, False
    while at < size:
        file.seek(at)
        head = file.read(27)
        if head[:4] != b"OggS" or len(head) < 27:
            raise InputError(str(path), "breaks off, or holds something else behind its sound", _WHOLE)
        lengths = file.read(head[26])
        begins, granule = bool(head[5] & 2), int.from_bytes(head[6:14], "little", signed=True)
        if begins and sounding:
            raise InputError(
                str(path), "holds several recordings joined, of which only the first would be heard",
                "export them as one file",
            )  # fmt: skip
        sounding = sounding or granule > 0
        ended = bool(head[5] & 4)
        at += 27 + len(lengths) + sum(lengths)
        if at > size or len(lengths) < head[26]:
            raise InputError(str(path), "breaks off in the middle of a page", _WHOLE)
    if not ended:
        raise InputError(str(path), "breaks off: its last page is missing", _WHOLE)
