"""Audio files written whole or not at all.

A file grows under a temporary name next to its final one and is renamed when it is complete and on disk; several of one
render are renamed together. Whatever happens half-way, no partial file stands under a final name.
"""

import contextlib
import io
import os
import queue
import shutil
import threading
import wave
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from types import TracebackType
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nafas import native
from nafas.errors import InputError
from nafas.files import part_path, sync_folder, writable
from nafas.sound.files.dither import Dither
from nafas.sound.files.formats import Encoding, encoding_of
from nafas.sound.files.mp3_file import Mp3File
from nafas.sound.files.ogg import settle_serial
from nafas.sound.files.tags import ID3_CONTAINERS, write_tags

FULL_SCALE = 2**23

_WAV_LIMIT = 2**32 - 2**20  # past this a RIFF header's 32-bit sizes overflow; RF64 is the same with wider ones
_CODEC_PADDING = 4608  # frames by which a codec's own count may differ
_LARGEST_WRITE = 65_536  # libsndfile's Ogg encoder overflows the stack on one huge write; keep all writes small


def to_24_bit(block: NDArray[np.float32]) -> NDArray[np.int32]:
    """Float samples as whole 24-bit steps, rounded to nearest and clipped."""
    steps = np.rint(block * np.float32(FULL_SCALE))
    whole: NDArray[np.int32] = np.clip(steps, -FULL_SCALE, FULL_SCALE - 1, out=steps).astype(np.int32)
    return whole


class _WaveFile:
    """Plain WAV, packed here: twice as fast as libsndfile, whose small buffers cost a system call every 8 kB. What has
    no dither can be written at any place, by several threads or processes at once."""

    def __init__(self, path: Path, rate: int, channels: int, frames: int, encoding: Encoding) -> None:
        self._dither = Dither(channels) if encoding.bits == "16" else None
        self.anywhere = self._dither is None
        width = 2 if self._dither else 3
        head = io.BytesIO()
        header = wave.open(head, "wb")  # noqa: SIM115 - nothing is to be closed
        header.setparams((channels, width, rate, frames, "NONE", ""))
        header.writeframesraw(b"")
        self._begin, self._frame, self._next = len(head.getvalue()), width * channels, 0
        self._file = path.open("wb", buffering=0)
        self._put(head.getvalue(), 0)

    def write(self, block: NDArray[Any]) -> None:
        """Append a block."""
        self.write_at(self._next, block)
        self._next += block.shape[1]

    def write_at(self, frame: int, block: NDArray[Any]) -> None:
        """Write a block from a frame on."""
        if self._dither is not None:
            packed = np.ascontiguousarray(self._dither(block).T.astype("<i2")).reshape(-1)
        else:
            packed = _packed(block)
        self._put(packed.data, self._begin + frame * self._frame)

    def _put(self, data: "bytes | memoryview", at: int) -> None:
        view = memoryview(data).cast("B")
        done = 0
        while done < len(view):
            done += os.pwrite(self._file.fileno(), view[done:], at + done)
        if hasattr(os, "posix_fadvise"):
            # The disk begins at once: else all of it waits for `complete`. What is being written stays in memory.
            os.posix_fadvise(self._file.fileno(), at, len(view), os.POSIX_FADV_DONTNEED)

    def close(self) -> None:
        self._file.close()


def _packed(block: NDArray[Any]) -> NDArray[np.uint8]:
    """Samples, or 24-bit steps as int32, of shape (channels, n), as three bytes each, frame by frame."""
    if block.dtype == np.float32 and native.available():
        return native.pack24(block)
    steps = block if block.dtype == np.int32 else to_24_bit(block)
    channels, frames = steps.shape
    packed = np.empty((frames, channels, 3), np.uint8)
    octets = np.ascontiguousarray(steps, dtype="<i4").view(np.uint8).reshape(channels, frames, 4)
    for channel in range(channels):
        for octet in range(3):
            packed[:, channel, octet] = octets[channel, :, octet]
    return packed.reshape(-1)


_TAGS = {"track": "tracknumber"}
"""What libsndfile calls a tag where it calls it otherwise."""


class _LibraryFile:
    """Everything else by libsndfile, which takes the top 24 of 32 bits."""

    anywhere = False

    def __init__(self, path: Path, rate: int, channels: int, encoding: Encoding, tags: dict[str, str]) -> None:
        import soundfile

        options: dict[str, Any] = dict(encoding.options)
        self._file = soundfile.SoundFile(
            path, "w", rate, channels, encoding.subtype, format=encoding.container, **options
        )
        self._path, self._ogg = path, encoding.container == "OGG"
        self._bits = encoding.bits
        self._dither = Dither(channels) if encoding.bits == "16" else None
        if encoding.container not in ID3_CONTAINERS:
            for key, text in tags.items():
                if text:
                    setattr(self._file, _TAGS.get(key, key), text)

    def write(self, block: NDArray[Any]) -> None:
        data: NDArray[Any] = block
        if self._dither is not None:
            data = self._dither(block)
        elif self._bits == "24":
            data = np.left_shift(block if block.dtype == np.int32 else to_24_bit(block), 8)
        data = np.ascontiguousarray(data.T)
        for at in range(0, len(data), _LARGEST_WRITE):
            self._file.write(data[at : at + _LARGEST_WRITE])

    def close(self) -> None:
        self._file.close()
        if self._ogg:
            settle_serial(self._path)
        if self._bits == "float":
            # libsndfile notes when it wrote the peak; the same session must always give the same bytes.
            with self._path.open("r+b") as file:
                path = file.read(256).find(b"PEAK")
                if path >= 0:
                    file.seek(path + 12)
                    file.write(bytes(4))


class AudioFile:
    """One file being written, encoded on a thread of its own. Use as a context: leaving it by an error removes it.

    Args:
        path: its final name.
        rate, channels, frames: what will be written.
        encoding: how; by the name alone where None.
        tags: title, artist, album, comment, track; kept by every format but RF64.

    Raises:
        InputError: the place cannot be written, or too little space is left there.
    """

    def __init__(
        self,
        path: Path,
        rate: int,
        channels: int,
        frames: int,
        encoding: Encoding | None = None,
        tags: dict[str, str] | None = None,
    ) -> None:
        import soundfile

        encoding = encoding or encoding_of(path, rate=rate)
        self.path = writable(path)
        self._part = part_path(self.path)
        self._tags = tags or {}
        self._frames = frames
        self._error: BaseException | None = None
        self._exact = encoding.bits is not None
        size = encoding.size(frames, channels, rate)
        if encoding.container == "WAV" and size > _WAV_LIMIT:
            encoding = replace(encoding, container="RF64")
        self._encoding = encoding
        self._check_room(size)
        self._file: _WaveFile | _LibraryFile | Mp3File
        try:
            if encoding.container == "WAV" and encoding.bits != "float":
                self._file = _WaveFile(self._part, rate, channels, frames, encoding)
            elif encoding.container == "MP3":
                self._file = Mp3File(self._part, rate, channels)
            else:
                self._file = _LibraryFile(self._part, rate, channels, encoding, tags or {})
        except (OSError, soundfile.LibsndfileError) as error:
            self._discard()
            raise InputError(str(path), f"cannot be written ({error})", "choose another place") from None
        self._queue: queue.Queue[NDArray[Any] | None] = queue.Queue(maxsize=6)
        self._thread = threading.Thread(target=self._run, name=f"write {path.name}", daemon=True)
        self._thread.start()

    def _check_room(self, size: int) -> None:
        folder = self.path.parent
        free = shutil.disk_usage(folder).free
        if free < size + 2**20:
            raise InputError(
                str(folder),
                f"has {free / 1e6:.0f} MB free, {size / 1e6:.0f} MB are needed",
                "free some space",
            )

    def write(self, block: NDArray[Any]) -> None:
        """Append a block, shape (channels, n): float32, full scale 1.0, or for a 24-bit file its steps as int32.

        Raises InputError once writing has failed.
        """
        if self._error is not None:
            raise self._failure()
        self._queue.put(block)

    @property
    def anywhere(self) -> bool:
        """Whether `write_at` may be used."""
        return self._file.anywhere

    def write_at(self, frame: int, block: NDArray[Any]) -> None:
        """Write a block from a frame on, at once; from several threads or processes, where `anywhere`. Every frame
        must be written.

        Raises:
            InputError: it could not be written.
        """
        assert isinstance(self._file, _WaveFile)
        try:
            self._file.write_at(frame, block)
        except OSError as error:
            self._error = error
            raise self._failure() from None

    def _run(self) -> None:
        while (block := self._queue.get()) is not None:
            if self._error is not None:
                continue
            try:
                self._file.write(block)
            except BaseException as error:
                self._error = error

    def _failure(self) -> InputError:
        message = str(self._error) or "the disk took less than was given"
        return InputError(
            str(self.path), f"could not be written completely ({message})", "free some space or choose another place"
        )

    def complete(self) -> None:
        """Wait for the last block, check the file and bring it to the disk, under its hidden name still.

        Raises:
            InputError: it could not be written whole; nothing of it is left.
        """
        import soundfile

        self._queue.put(None)
        self._thread.join()
        try:
            if self._error is None:
                if isinstance(self._file, Mp3File):
                    self._file.finish()
                self._file.close()
                write_tags(self._part, self._encoding, self._tags)
                with self._part.open("rb+") as file:
                    os.fsync(file.fileno())
                short = self._frames - soundfile.info(self._part).frames
                if short if self._exact else abs(short) > _CODEC_PADDING:
                    raise OSError("the disk took less than was given")
        except (OSError, RuntimeError, wave.Error) as error:
            self._error = error
        if self._error is not None:
            self._discard()
            raise self._failure() from None

    def finish(self) -> None:
        """`complete`, and give it its name. Raises InputError; nothing is left then."""
        publish([self])

    def abandon(self) -> None:
        """Stop and remove what was written."""
        while self._thread.is_alive():
            with contextlib.suppress(queue.Full, queue.Empty):
                self._queue.get_nowait()
            with contextlib.suppress(queue.Full):
                self._queue.put(None, timeout=0.05)
                self._thread.join()
        self._discard()

    def _discard(self) -> None:
        with contextlib.suppress(Exception):
            self._file.close()
        with contextlib.suppress(OSError):
            self._part.unlink(missing_ok=True)

    def __enter__(self) -> "AudioFile":
        return self

    def __exit__(self, kind: type[BaseException] | None, error: Any, trace: TracebackType | None) -> None:
        if kind is not None:
            self.abandon()


def publish(files: Sequence[AudioFile]) -> None:
    """Complete files and give them their names: all of them, or none. What stood there before is put back where one of
    them cannot be named.

    Raises:
        InputError: one could not be written whole, or not under its name.
    """
    for file in files:
        file.complete()
    before: dict[Path, Path | None] = {}
    try:
        for file in files:
            writable(file.path)
            before[file.path] = _kept_aside(file.path)
            file._part.replace(file.path)
    except BaseException as error:
        for path, old in before.items():
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True) if old is None else old.replace(path)
        for file in files:
            file._discard()
        if isinstance(error, OSError):
            output = str(files[len(before) - 1].path)
            raise InputError(output, f"cannot be named ({error.strerror})", "choose another place") from None
        raise
    for old in before.values():
        if old is not None:
            with contextlib.suppress(OSError):
                old.unlink()
    for folder in {path.parent for path in before}:
        sync_folder(folder)


def _kept_aside(path: Path) -> Path | None:
    """A second name of a file that is to be replaced (its only one where the file system has no links); None where
    there is no such file."""
    old = part_path(path)
    if not path.exists():
        return None
    try:
        os.link(path, old)
    except OSError:
        path.rename(old)
    return old
