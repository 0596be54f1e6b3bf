"""Clips kept: in memory while they are few, beyond that in a nameless temporary file, read where it is asked for.

Hours of talk are gigabytes of samples, of which a mix needs a second at a time. However much is kept, it takes no more
memory than `IN_MEMORY`.
"""

import os
import tempfile
import threading
import weakref
from types import EllipsisType
from typing import IO

import numpy as np
from numpy.typing import NDArray

from nafas.state.folder import cache_folder

IN_MEMORY = 48 * 2**20
"""Bytes of samples that are held in memory; what comes after goes to the file."""
Samples = NDArray[np.float32]


class Spooled:
    """Samples in the spool's file. It has an array's shape, and reads what is sliced of its last axis."""

    def __init__(self, file: IO[bytes], at: int, shape: tuple[int, ...]) -> None:
        self._file, self._at, self.shape = file, at, shape

    def __len__(self) -> int:
        return self.shape[0]

    def __getitem__(self, part: "tuple[EllipsisType, slice]") -> Samples:
        """[..., begin:end], step 1."""
        begin, end, _ = part[1].indices(self.shape[-1])
        rows = 1 if len(self.shape) == 1 else self.shape[0]
        length = max(0, end - begin)
        out = np.empty((rows, length), np.float32)
        for row in range(rows):
            _read(self._file, self._at + 4 * (row * self.shape[-1] + begin), out[row])
        return out[0] if len(self.shape) == 1 else out

    def whole(self) -> Samples:
        """All of it, as an array."""
        return self[..., 0 : self.shape[-1]]


class Spool:
    """A store of samples. Use the one of this module.

    A forked process reads what was there, and puts what it adds into a file of its own: it must not lie where the
    first process, or its other half, puts theirs.
    """

    def __init__(self, in_memory: int = IN_MEMORY) -> None:
        self._room = in_memory
        self._lock = threading.RLock()
        self._begin_file()

    def _begin_file(self) -> None:
        self._process = os.getpid()
        self._file: IO[bytes] | None = None
        self._end = 0
        self._free: list[tuple[int, int]] = []

    def hold(self, samples: Samples) -> "Samples | Spooled":
        """The samples themselves while there is room in memory, else where they lie in the file.

        A full disk keeps them in memory: sound is never lost for the sake of a bound.
        """
        data = np.ascontiguousarray(samples, np.float32)
        size = data.nbytes
        with self._lock:
            if size <= self._room:
                self._room -= size
                # A view of its own, so that its end is known: the room is given back with it.
                held = data.view()
                weakref.finalize(held, self._give_back, size).atexit = False
                return held
            try:
                if os.getpid() != self._process:
                    self._begin_file()
                file = self._file = self._file or _nameless()
                at = self._place(size)
                _write(file, at, data)
            except OSError:
                return data
            spooled = Spooled(file, at, data.shape)
            weakref.finalize(spooled, self._let_go, file, at, size).atexit = False
            return spooled

    def _give_back(self, size: int) -> None:
        with self._lock:
            self._room += size

    def _let_go(self, file: IO[bytes], at: int, size: int) -> None:
        with self._lock:
            if file is self._file:
                self._free.append((at, size))

    def _place(self, size: int) -> int:
        for number, (at, free) in enumerate(self._free):
            if free >= size:
                self._free[number] = (at + size, free - size)
                return at
        at, self._end = self._end, self._end + size
        return at


def _write(file: IO[bytes], at: int, data: Samples) -> None:
    view, done = data.reshape(-1).view(np.uint8).data, 0
    while done < len(view):
        done += os.pwrite(file.fileno(), view[done:], at + done)


def _read(file: IO[bytes], at: int, out: Samples) -> None:
    """Fill `out` with what lies at a place of the file."""
    view, done = out.view(np.uint8).data, 0
    while done < len(view):
        got = os.preadv(file.fileno(), [view[done:]], at + done)
        if got <= 0:
            raise OSError("the temporary file of clips is shorter than what was written")
        done += got


def _nameless() -> IO[bytes]:
    """A temporary file without a name: next to the cache, since /tmp may itself be in memory."""
    folder = cache_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        return tempfile.TemporaryFile(dir=folder)
    except OSError:
        return tempfile.TemporaryFile()


spool = Spool()
