"""Lines the engine has read, kept on disk by engine, text, voice and pace.

Losing the cache costs time only: a file that cannot be read is read again by the engine, one that cannot be written
is not kept.
"""

import contextlib
import hashlib
import os
import tempfile
import time
from pathlib import Path
from threading import Lock

import numpy as np

from nafas.state.folder import cache_folder
from nafas.voice.engines.engine import Engine
from nafas.voice.level import Samples

MOST = 256 * 2**20
"""Bytes of lines that are kept on the disk: some two hours of them."""
_swept: set[Path] = set()
_swept_lock = Lock()


def sweep(folder: Path, most: int = MOST) -> None:
    """Remove the lines used longest ago until what is left is at most `most` bytes, and what a stopped program left."""
    files = []
    for path in folder.glob("*/*"):
        with contextlib.suppress(OSError):
            stat = path.stat()
            if path.suffix == ".npy":
                files.append((stat.st_mtime, stat.st_size, path))
            elif time.time() - stat.st_mtime > 3600:
                path.unlink()
    kept = 0
    for _, size, path in sorted(files, reverse=True):
        kept += size
        if kept > most:
            with contextlib.suppress(OSError):
                path.unlink()


class CachedEngine:
    """An engine that remembers. Two that keep the lines of one engine in one place are the same."""

    def __init__(self, engine: Engine, folder: Path | None = None) -> None:
        self.engine = engine
        self.folder = (folder or cache_folder()) / "lines"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, CachedEngine) and (self.name, self.folder) == (other.name, other.folder)

    def __hash__(self) -> int:
        return hash((self.name, self.folder))

    @property
    def name(self) -> str:
        return self.engine.name

    @property
    def readings(self) -> int:
        return self.engine.readings

    def read(self, text: str, voice: str, pace: int, reading: int = 0) -> tuple[Samples, int]:
        """See `Engine.read`."""
        which = (self.engine.name, text, voice, str(pace), *([str(reading)] if reading else []))
        key = hashlib.sha256("\0".join(which).encode()).hexdigest()
        path = self.folder / key[:2] / f"{key}.npy"
        with contextlib.suppress(OSError, ValueError, EOFError):
            data = np.load(path, allow_pickle=False)
            if data.dtype == np.int32 and data.ndim == 1 and len(data) and data[0] > 0:
                os.utime(path)  # when it was used last
                return (data[1:] / 32768).astype(np.float32), int(data[0])
        samples, rate = self.engine.read(text, voice, pace, reading)
        # int16 steps are what the engine makes, so nothing is lost; the rate rides in front.
        self._sweep_once()
        self._keep(path, np.concatenate([[rate], np.round(samples * 32768)]).astype(np.int32))
        return samples, rate

    def _sweep_once(self) -> None:
        with _swept_lock:
            if self.folder in _swept:
                return
            _swept.add(self.folder)
        sweep(self.folder)

    @staticmethod
    def _keep(path: Path, data: np.ndarray) -> None:
        with contextlib.suppress(OSError):
            path.parent.mkdir(parents=True, exist_ok=True)
            with tempfile.NamedTemporaryFile(dir=path.parent, suffix=".part", delete=False) as file:
                try:
                    np.save(file, data)
                    file.close()
                    Path(file.name).replace(path)
                except OSError:
                    Path(file.name).unlink(missing_ok=True)
