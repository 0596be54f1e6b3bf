"""Audio files written whole or not at all.

A file grows under a temporary name beside its final one and is renamed when it is complete and on disk. Whatever
happens half-way, no partial file stands under the final name.
"""

import contextlib
import os
import queue
import shutil
import threading
import wave
from pathlib import Path
from types import TracebackType
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError

FORMATS = {".wav": "WAV", ".flac": "FLAC"}
FULL_SCALE = 2**23

_WAV_LIMIT = 2**32 - 2**20  # past this a RIFF header's 32-bit sizes overflow; RF64 is the same with wider ones
_LARGEST_WRITE = 65_536  # libsndfile's Ogg encoder overflows the stack on one huge write; keep all writes small


def to_24_bit(block: NDArray[np.float32]) -> NDArray[np.int32]:
    """Float samples as whole 24-bit steps, rounded to nearest and clipped."""
    steps = np.rint(block * np.float32(FULL_SCALE))
    whole: NDArray[np.int32] = np.clip(steps, -FULL_SCALE, FULL_SCALE - 1, out=steps).astype(np.int32)
    return whole


class _WaveFile:
    """Plain WAV by the standard library, which takes packed 24-bit frames as they are: twice as fast as libsndfile,
    whose small buffers cost a system call every 8 kB."""

    def __init__(self, path: Path, rate: int, channels: int, frames: int, kind: str) -> None:
        self._file = wave.open(str(path), "wb")  # noqa: SIM115 - closed by close()
        self._file.setparams((channels, 3, rate, frames, "NONE", ""))

    def write(self, steps: NDArray[np.int32]) -> None:
        channels, frames = steps.shape
        packed = np.empty((frames, channels, 3), np.uint8)
        octets = np.ascontiguousarray(steps, dtype="<i4").view(np.uint8).reshape(channels, frames, 4)
        for channel in range(channels):
            for octet in range(3):
                packed[:, channel, octet] = octets[channel, :, octet]
        self._file.writeframesraw(packed.reshape(-1).data)

    def close(self) -> None:
        self._file.close()


class _LibraryFile:
    """FLAC and RF64 by libsndfile, which takes the top 24 of 32 bits."""

    def __init__(self, path: Path, rate: int, channels: int, frames: int, kind: str) -> None:
        import soundfile

        self._file = soundfile.SoundFile(path, "w", rate, channels, "PCM_24", format=kind)

    def write(self, steps: NDArray[np.int32]) -> None:
        data = np.ascontiguousarray(np.left_shift(steps, 8).T)
        for at in range(0, len(data), _LARGEST_WRITE):
            self._file.write(data[at : at + _LARGEST_WRITE])

    def close(self) -> None:
        self._file.close()


def format_of(path: Path) -> str:
    """libsndfile's name of the format a file name asks for. Raises InputError for any other ending."""
    found = FORMATS.get(path.suffix.lower())
    if found is None:
        raise InputError(
            str(path),
            f"{path.suffix or 'no ending'} is no known audio format",
            "end the name in .wav or .flac",
        )
    return found


class AudioFile:
    """One 24-bit file being written, on a thread of its own. Use as a context: leaving it by an error removes it.

    Raises:
        InputError: the place cannot be written, or too little space is left there.
    """

    def __init__(self, path: Path, rate: int, channels: int, frames: int) -> None:
        import soundfile

        self.path = path.resolve() if path.is_symlink() else path
        self._part = self.path.with_name(f".{self.path.name}.{os.getpid()}.part")
        self._frames = frames
        self._error: BaseException | None = None
        kind = format_of(path)
        size = frames * channels * 3
        if kind == "WAV" and size > _WAV_LIMIT:
            kind = "RF64"
        self._check_place(size if kind != "FLAC" else size // 4)
        self._file: _WaveFile | _LibraryFile
        try:
            opener = _WaveFile if kind == "WAV" else _LibraryFile
            self._file = opener(self._part, rate, channels, frames, kind)
        except (OSError, soundfile.LibsndfileError) as error:
            self._discard()
            raise InputError(str(path), f"cannot be written ({error})", "choose another place") from None
        self._queue: queue.Queue[NDArray[np.int32] | None] = queue.Queue(maxsize=6)
        self._thread = threading.Thread(target=self._run, name=f"write {path.name}", daemon=True)
        self._thread.start()

    def _check_place(self, size: int) -> None:
        folder = self.path.parent
        if self.path.is_dir():
            raise InputError(str(self.path), "is a folder", "write a file name")
        if not folder.is_dir():
            raise InputError(str(folder), "no such folder", "make it or choose another")
        if self.path.exists() and not os.access(self.path, os.W_OK):
            raise InputError(str(self.path), "is write-protected", "choose another name or allow writing")
        if not os.access(folder, os.W_OK):
            raise InputError(str(folder), "is write-protected", "choose another folder")
        free = shutil.disk_usage(folder).free
        if free < size + 2**20:
            raise InputError(
                str(folder),
                f"has {free / 1e6:.0f} MB free, {size / 1e6:.0f} MB are needed",
                "free some space",
            )

    def write(self, steps: NDArray[np.int32]) -> None:
        """Append a block of 24-bit steps, shape (channels, n). Raises InputError once writing has failed."""
        if self._error is not None:
            raise self._failure()
        self._queue.put(steps)

    def _run(self) -> None:
        while (steps := self._queue.get()) is not None:
            if self._error is not None:
                continue
            try:
                self._file.write(steps)
            except BaseException as error:
                self._error = error

    def _failure(self) -> InputError:
        told = str(self._error) or "the disk took less than was given"
        return InputError(
            str(self.path), f"could not be written whole ({told})", "free some space or choose another place"
        )

    def finish(self) -> None:
        """Wait for the last block, check the file and give it its name. Raises InputError; nothing is left then."""
        import soundfile

        self._queue.put(None)
        self._thread.join()
        try:
            if self._error is None:
                self._file.close()
                with self._part.open("rb+") as file:
                    os.fsync(file.fileno())
                if soundfile.info(self._part).frames != self._frames:
                    raise OSError("the disk took less than was given")
                self._part.replace(self.path)
        except (OSError, RuntimeError, wave.Error) as error:
            self._error = error
        if self._error is not None:
            self._discard()
            raise self._failure() from None

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


def sweep_leftovers(folder: Path) -> None:
    """Remove parts that a killed render left in a folder: those whose process is gone."""
    for part in folder.glob(".*.part"):
        pid = part.name.removesuffix(".part").rpartition(".")[2]
        if pid.isdecimal() and not Path(f"/proc/{pid}").exists():
            with contextlib.suppress(OSError):
                part.unlink()
