"""Lines the engine has read, kept on the disk by engine, text, voice and pace."""

from pathlib import Path

import numpy as np

from nafas.state.disk_cache import DiskCache
from nafas.voice.engines.engine import Engine
from nafas.voice.level import Samples


class CachedEngine:
    """An engine that remembers. Two that keep the lines of one engine in one place are the same."""

    def __init__(self, engine: Engine, folder: Path | None = None) -> None:
        self.engine = engine
        self.lines = DiskCache("lines", folder)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, CachedEngine) and self._place == other._place

    def __hash__(self) -> int:
        return hash(self._place)

    @property
    def _place(self) -> tuple[str, Path]:
        return self.name, self.lines.folder

    @property
    def name(self) -> str:
        return self.engine.name

    @property
    def readings(self) -> int:
        return self.engine.readings

    def read(self, text: str, voice: str, pace: int, reading: int = 0) -> tuple[Samples, int]:
        """See `Engine.read`."""
        which = (self.engine.name, text, voice, str(pace), *([str(reading)] if reading else []))
        kept = self.lines.get(*which)
        if kept is not None:
            data = np.frombuffer(kept, "<i4")
            return (data[1:] / 32768).astype(np.float32), int(data[0])
        samples, rate = self.engine.read(text, voice, pace, reading)
        # int16 steps are what the engine makes, so nothing is lost; the rate rides in front.
        self.lines.put(np.concatenate([[rate], np.round(samples * 32768)]).astype("<i4").tobytes(), *which)
        return samples, rate
