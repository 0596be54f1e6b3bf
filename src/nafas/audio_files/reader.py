"""One reader for every file of sound.

Read at any place, in any order, from several threads, it gives the samples that reading from the start gives. That is
not so of the libraries by themselves. After a seek forward in Ogg Vorbis libsndfile 1.2.2 gives sound shifted by up to
90 ms: seeking to the start before every seek cures it. In Opus and MP3 a decoder needs some frames from before the
place: they are decoded and dropped. And soundfile seeks after every single read, which in MP3 of varying bit rate ends
in wrong samples even when a file is read from end to end: here it never seeks by itself. All of it is held by a
property test over the formats.
"""

import atexit
import os
import threading
from functools import lru_cache
from pathlib import Path
from typing import Any
from weakref import WeakSet

import numpy as np
from numpy.typing import NDArray

from nafas.audio_files.mp3_frames import Mp3Frames, WithHeader, mp3_frames
from nafas.audio_files.pcm import pcm_data
from nafas.audio_files.whole import check_whole
from nafas.errors import InputError
from nafas.files import check_regular

KINDS = "choose WAV, FLAC, AIFF, MP3, Ogg or Opus"
_SETTLING = {"OPUS": 48_000, "MPEG_LAYER_III": 36 * 1152}
"""Frames decoded before a place that was sought, so that the decoder has forgotten where it came from. In MP3 a frame
may begin up to 511 bytes earlier (ISO/IEC 11172-3, main_data_begin): 22 of the smallest frames."""
_BLOCK = 1 << 18
_LOUDEST = 1e4

_opened: "WeakSet[Any]" = WeakSet()


@atexit.register
def _close_files() -> None:
    """Close what is still open before the library that would close it is gone."""
    for file in list(_opened):
        file.close()


def sane(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """Samples as they can be measured: what is no number is silence, what is 80 dB over full scale and more is cut."""
    values: NDArray[np.float32] = np.clip(
        np.nan_to_num(samples, posinf=_LOUDEST, neginf=-_LOUDEST), -_LOUDEST, _LOUDEST
    )
    return values


class AudioReader:
    """A file of sound.

    Attributes:
        rate, frames, channels: as the file has them; `frames` is what is really there.
        state: path, size and time of the last change: as long as they are the same, so is the sound.

    Raises:
        InputError: missing, no regular file, not audio, or not all there.
    """

    def __init__(self, path: Path) -> None:
        stat = check_regular(path)
        self.path = path
        self.state = (path, stat.st_size, stat.st_mtime_ns)
        self._local = threading.local()
        self._mp3 = _looked_at(*self.state)
        file = self._file()
        self.rate, self.channels, self._settling = file.samplerate, file.channels, _SETTLING.get(file.subtype, 0)
        self.frames = file.frames
        self._pcm = pcm_data(path, file.subtype, self.channels)

    @property
    def seconds(self) -> float:
        return float(self.frames / self.rate)

    def _file(self) -> Any:
        """This thread's own way into the file; it stands at frame `_local.at`. One that a forked process has inherited
        stands where another reads: it is left alone."""
        file = getattr(self._local, "file", None) if getattr(self._local, "process", None) == os.getpid() else None
        if file is None:
            headless = self._mp3 is not None and self._mp3.counted is None
            try:
                source = WithHeader(self.path, self._mp3) if headless and self._mp3 else str(self.path)
                file = self._local.file = _sound_file()(source)
            except (OSError, RuntimeError, TypeError):
                raise InputError(str(self.path), "is not audio that can be read", KINDS) from None
            self._local.at, self._local.process = 0, os.getpid()
            _opened.add(file)
        return file

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Frames `start` to `start + frames`, fewer at the end; shape (n, channels), float32.

        Raises:
            InputError: the file breaks off or is broken there.
        """
        start = max(0, start)
        frames = max(0, min(frames, self.frames - start))
        values = np.zeros((0, self.channels), np.float32)
        if not frames:
            return values
        if self._pcm is not None:
            return self._straight(start, frames)
        try:
            file = self._file()
            if self._local.at != start:
                before = max(0, start - self._settling)
                file.seek(0)
                file.seek(before)
                if before < start:
                    file.read(start - before, dtype="float32", always_2d=True)
            self._local.at = start + frames
            parts = []
            while frames > 0:  # in blocks: a header may promise more than any memory holds
                part = file.read(min(_BLOCK, frames), dtype="float32", always_2d=True)
                if not len(part):
                    break
                parts.append(part)
                frames -= len(part)
            values = parts[0] if len(parts) == 1 else np.concatenate([values, *parts])
        except (OSError, RuntimeError) as error:
            self._local.file = None
            raise InputError(f"{self.path} at {start / self.rate:.1f} s", f"cannot be read ({error})", _WHOLE) from None
        if frames:
            self._local.file = None
            raise InputError(f"{self.path} at {(start + len(values)) / self.rate:.1f} s", "breaks off", _WHOLE)
        return values

    def _straight(self, start: int, frames: int) -> NDArray[np.float32]:
        assert self._pcm is not None
        try:
            samples = self._pcm.read(start, frames)
        except (OSError, ValueError) as error:
            raise InputError(f"{self.path} at {start / self.rate:.1f} s", f"cannot be read ({error})", _WHOLE) from None
        if len(samples) < frames:
            raise InputError(f"{self.path} at {(start + len(samples)) / self.rate:.1f} s", "breaks off", _WHOLE)
        return samples


_WHOLE = "use a whole copy of the file"


@lru_cache(maxsize=1)
def _sound_file() -> type[Any]:
    """soundfile's file, without the seek that it makes after every read."""
    import soundfile

    class Steady(soundfile.SoundFile):  # type: ignore[misc]
        def seekable(self) -> bool:
            return False

    return Steady


@lru_cache(maxsize=256)
def _looked_at(path: Path, size: int, when: int) -> Mp3Frames | None:
    """Look through a file once, as long as it stays the same: is all of it there? What it holds, if it is an MP3."""
    try:
        check_whole(path)
        with path.open("rb") as file:
            head = file.read(4)
        if head[:3] == b"ID3" or (len(head) == 4 and head[0] == 0xFF and head[1] & 0xE0 == 0xE0):
            return mp3_frames(path)
    except OSError as error:
        raise InputError(
            str(path), f"cannot be read ({error.strerror})", "check the name and its permissions"
        ) from None
    return None
