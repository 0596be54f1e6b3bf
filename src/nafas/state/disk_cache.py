"""What can be made again, kept on the disk by what it was made from.

Losing it costs time only: what is damaged or cannot be read is made again, what cannot be written is not kept.
"""

import contextlib
import hashlib
import os
import tempfile
import time
import zlib
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from threading import Lock
from typing import TypeVar

from nafas.files import file_digest, real_path
from nafas.state.folder import cache_folder

MOST = 256 * 2**20
"""Bytes of one kind that are kept on the disk."""
_ENDING = ".kept"
Made = TypeVar("Made")
_CHECK = 4  # bytes of the checksum (CRC-32) that ends each file
_swept: set[Path] = set()
_swept_lock = Lock()


def sweep(folder: Path, most: int = MOST) -> None:
    """Remove what was used longest ago until the rest is at most `most` bytes, and what a stopped program left."""
    files = []
    for path in folder.glob("*/*"):
        with contextlib.suppress(OSError):
            stat = path.stat()
            if path.suffix == _ENDING:
                files.append((stat.st_mtime, stat.st_size, path))
            elif time.time() - stat.st_mtime > 3600:
                path.unlink()
    kept = 0
    for _, size, path in sorted(files, reverse=True):
        kept += size
        if kept > most:
            with contextlib.suppress(OSError):
                path.unlink()


class DiskCache:
    """One kind of things, in a folder of its name. What each was made from is hashed to the name of its file.

    Args:
        name: of the kind.
        folder: that holds the folder of the kind; the platform's place for what can be made again where None.
    """

    def __init__(self, name: str, folder: Path | None = None) -> None:
        self.folder = (folder or cache_folder()) / name

    def _path(self, made_from: tuple[str, ...]) -> Path:
        key = hashlib.sha256("\0".join(made_from).encode("utf-8", "surrogatepass")).hexdigest()
        return self.folder / key[:2] / f"{key}{_ENDING}"

    def get(self, *made_from: str) -> bytes | None:
        """What was kept; None where there is nothing, or it is damaged."""
        path = self._path(made_from)
        try:
            data = path.read_bytes()
            os.utime(path)  # when it was used last
        except (OSError, ValueError):
            return None
        held, check = data[:-_CHECK], data[-_CHECK:]
        return held if len(data) > _CHECK and zlib.crc32(held).to_bytes(_CHECK) == check else None

    def put(self, data: bytes, *made_from: str) -> None:
        """Keep something, whole or not at all."""
        with _swept_lock:
            first = self.folder not in _swept
            _swept.add(self.folder)
        if first:
            sweep(self.folder)
        path = self._path(made_from)
        with contextlib.suppress(OSError):
            path.parent.mkdir(parents=True, exist_ok=True)
            with tempfile.NamedTemporaryFile(dir=path.parent, suffix=".part", delete=False) as file:
                try:
                    file.write(data + zlib.crc32(data).to_bytes(_CHECK))
                    file.close()
                    Path(file.name).replace(path)
                except OSError:
                    Path(file.name).unlink(missing_ok=True)


def kept_or_made(
    cache: DiskCache,
    made_by: Sequence[Path],
    made_from: Sequence[str],
    make: Callable[[], Made],
    pack: Callable[[Made], bytes],
    unpack: Callable[[bytes], Made],
) -> Made:
    """What is kept of something; where there is nothing it is made, and kept.

    Args:
        cache: of its kind.
        made_by: the source files that decide what comes of it: a change in one makes all again.
        made_from: all else that decides it.
        make: makes it; what it raises is raised.
        pack, unpack: to bytes and back.
    """
    try:
        which = (_source_digest(*made_by), *made_from)
    except OSError:  # the code is in no files
        return make()
    kept = cache.get(*which)
    if kept is not None:
        return unpack(kept)
    made = make()
    cache.put(pack(made), *which)
    return made


@cache
def _source_digest(*paths: Path) -> str:
    """SHA-256 of some source files together, in hexadecimal. Raises OSError."""
    digest = hashlib.sha256()
    for path in paths:
        digest.update(path.read_bytes())
    return digest.hexdigest()


def known_digest(path: Path, known: str = "") -> str:
    """SHA-256 of a file, taken once for its place, size and time of change; "" where there is none. Raises InputError.

    Args:
        path: of the file.
        known: its digest, where whoever wrote the file knows it.
    """
    try:
        stat = path.stat()
    except OSError:
        return file_digest(path)
    digests = DiskCache("digests")
    which = (str(real_path(path)), str(stat.st_size), str(stat.st_mtime_ns))
    kept = digests.get(*which)
    if kept is None or known:
        kept = (known or file_digest(path)).encode()
        digests.put(kept, *which)
    return kept.decode()
