"""A cover: a picture, JPEG or PNG, put into audio and video files, by mutagen."""

import base64
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.files import read_whole

MOST_BYTES = 10_000_000
"""Of a cover: what stands in every file that is handed over."""
HOLDING = (".mp3", ".wav", ".flac", ".ogg", ".opus", ".m4a", ".mp4")
"""Endings of files that can hold one."""
_FRONT = 3  # ID3v2.4, APIC: the front cover
_PNG, _JPEG = b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff"


@dataclass(frozen=True)
class Cover:
    """A picture: its bytes, its media type, and its width and height in px."""

    data: bytes
    media_type: str
    width: int
    height: int


def read_cover(path: Path) -> Cover:
    """Read a cover.

    Raises:
        InputError: it cannot be read, is not JPEG or PNG, or is larger than `MOST_BYTES`.
    """
    data = read_whole(path, MOST_BYTES)
    try:
        if data.startswith(_PNG) and data[12:16] == b"IHDR":
            width, height = struct.unpack(">II", data[16:24])
            return _sound(Cover(data, "image/png", width, height))
        if data.startswith(_JPEG):
            return _sound(Cover(data, "image/jpeg", *_jpeg_size(data)))
    except (struct.error, IndexError, ValueError):
        raise InputError(str(path), "is a damaged picture", "save it again as JPEG or PNG") from None
    raise InputError(str(path), "is not JPEG or PNG", "save the cover as JPEG or PNG")


def _sound(cover: Cover) -> Cover:
    if not (0 < cover.width < 65_536 and 0 < cover.height < 65_536):
        raise ValueError("no size")
    return cover


def _jpeg_size(data: bytes) -> tuple[int, int]:
    """Width and height, from the first frame header (ITU-T T.81, B.2.2)."""
    at = 2
    while True:
        if data[at] != 0xFF:
            raise ValueError("no marker")
        marker = data[at + 1]
        if marker == 0xFF:  # a fill byte
            at += 1
        elif 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
            height, width = struct.unpack(">HH", data[at + 5 : at + 9])
            return width, height
        else:
            at += 2 + struct.unpack(">H", data[at + 2 : at + 4])[0]


def put_cover(path: Path, cover: Cover) -> bool:
    """Put a cover into a file; False where its format holds none.

    The file must not be one that others read yet. Raises OSError where it cannot be written.
    """
    from mutagen import MutagenError

    ending = path.suffix.lower()
    if ending not in HOLDING:
        return False
    try:
        if ending in (".mp3", ".wav"):
            _into_id3(path, cover)
        elif ending in (".m4a", ".mp4"):
            _into_mp4(path, cover)
        else:
            _into_comments(path, cover)
    except MutagenError as error:
        raise OSError(str(error)) from error
    return True


def _into_id3(path: Path, cover: Cover) -> None:
    from mutagen.id3 import APIC, ID3, ID3NoHeaderError
    from mutagen.wave import WAVE

    frame = APIC(encoding=3, mime=cover.media_type, type=_FRONT, desc="", data=cover.data)
    if path.suffix.lower() == ".wav":
        file: Any = WAVE(path)
        if file.tags is None:
            file.add_tags()
        file.tags.add(frame)
        file.save(v2_version=4)
        return
    try:
        tags = ID3(path)
    except ID3NoHeaderError:
        tags = ID3()
    tags.add(frame)
    tags.save(path, v1=0, v2_version=4)


def _into_mp4(path: Path, cover: Cover) -> None:
    from mutagen.mp4 import MP4, MP4Cover

    file = MP4(path)
    if file.tags is None:
        file.add_tags()
    kind = MP4Cover.FORMAT_PNG if cover.media_type == "image/png" else MP4Cover.FORMAT_JPEG
    file.tags["covr"] = [MP4Cover(cover.data, kind)]
    file.save()


def _into_comments(path: Path, cover: Cover) -> None:
    """FLAC in a block of its own; Ogg Vorbis and Opus as a comment that holds that block (xiph.org, VorbisComment)."""
    import mutagen
    from mutagen.flac import Picture

    picture = Picture()
    picture.type, picture.mime, picture.data = _FRONT, cover.media_type, cover.data
    picture.width, picture.height, picture.depth = cover.width, cover.height, 24
    file = mutagen.File(path)
    if path.suffix.lower() == ".flac":
        file.add_picture(picture)
    else:
        if file.tags is None:
            file.add_tags()
        file.tags["metadata_block_picture"] = [base64.b64encode(picture.write()).decode()]
    file.save()
