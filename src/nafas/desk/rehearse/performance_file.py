"""The file a performance is recorded into: readable at any moment, whatever becomes of the program."""

import os
import struct
import time
from pathlib import Path

import numpy as np

from nafas.errors import InputError
from nafas.files import reason
from nafas.state.folder import made
from nafas.voice.clip import Samples

FOLDER = "performances"
_HEADER = struct.Struct("<4sI4s4sIHHIIHH4sI")
_FLOAT = 3
_UPDATE = 1.0
"""Seconds after which the file's header says how much there is."""


class PerformanceFile:
    """A WAV file of float32 samples, one channel, under the first free name of a folder.

    Args:
        folder: that of the session; the file stands in `FOLDER` in it.
        rate: samples a second.

    Raises:
        InputError: it cannot be made.
    """

    def __init__(self, folder: Path, rate: int) -> None:
        self.rate, self.frames = rate, 0
        where = made(folder / FOLDER)
        number = 1
        while True:
            self.path = where / f"performance-{number}.wav"
            try:
                self._file = self.path.open("xb")
                break
            except FileExistsError:
                number += 1
            except OSError as error:
                raise InputError(
                    str(self.path), f"cannot be written ({reason(error)})", "allow writing there"
                ) from None
        self._told = time.monotonic()
        self._write(self._head())

    def add(self, samples: Samples) -> None:
        """Append samples. Raises InputError; what was written before stands."""
        self._write(np.ascontiguousarray(samples, "<f4").tobytes())
        self.frames += len(samples)
        if time.monotonic() - self._told > _UPDATE:
            self._update()

    def end(self) -> None:
        """End it, on the disk. Raises InputError; what was written before stands."""
        try:
            self._update()
            os.fsync(self._file.fileno())
        except OSError as error:
            raise self._refused(error) from None
        finally:
            self._file.close()

    def _head(self) -> bytes:
        size = 4 * self.frames
        return _HEADER.pack(
            b"RIFF", 36 + size, b"WAVE", b"fmt ", 16, _FLOAT, 1, self.rate, 4 * self.rate, 4, 32, b"data", size
        )

    def _update(self) -> None:
        self._told = time.monotonic()
        self._file.seek(0)
        self._write(self._head())
        self._file.seek(0, os.SEEK_END)
        self._file.flush()

    def _write(self, data: bytes) -> None:
        try:
            self._file.write(data)
        except OSError as error:
            raise self._refused(error) from None

    def _refused(self, error: OSError) -> InputError:
        kept = f"free some space; {self.frames / self.rate:.0f} s of it are kept"
        return InputError(str(self.path), f"cannot be written ({reason(error)})", kept)
