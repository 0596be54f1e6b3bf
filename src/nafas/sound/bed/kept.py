"""Loops of generated beds, kept on the disk: making them takes half a second and more, reading them a twentieth."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from nafas import filters
from nafas.script.model.beds import GeneratedBed, NightSea
from nafas.sound.stereo import Stereo
from nafas.state.disk_cache import DiskCache, kept_or_made
from nafas.voice import level

_HERE = Path(__file__).parent
_MADE_BY = (
    *(_HERE / name for name in ("generated.py", "kept.py", "looped.py", "night_sea.py", "spectrum.py", "swells.py")),
    Path(level.__file__),
    Path(filters.__file__),
)
"""The code that decides how a loop sounds: a change in it makes every loop again."""


def kept_loops(
    choice: NightSea | GeneratedBed, rate: int, make: Callable[[], tuple[Stereo, ...]], folder: Path | None = None
) -> tuple[Stereo, ...]:
    """The loops that `make` gives for a bed at a rate, read-only; those kept on the disk where there are any.

    Args:
        choice, rate: all that decides what comes of it but the code and NumPy.
        make: makes them, each of shape (2, n).
        folder: of the cache; the platform's place where None.
    """
    made_from = (np.__version__, choice.model_dump_json(), str(rate))
    return kept_or_made(DiskCache("beds", folder), _MADE_BY, made_from, make, _written, _read)


def _written(loops: tuple[Stereo, ...]) -> bytes:
    sizes = np.array([len(loops), *(loop.shape[1] for loop in loops)], "<i8")
    return b"".join([sizes.tobytes(), *(loop.astype("<f4", copy=False).tobytes() for loop in loops)])


def _read(data: bytes) -> tuple[Stereo, ...]:
    (count,) = np.frombuffer(data, "<i8", 1)
    at, loops = 8 * (1 + int(count)), []
    for frames in np.frombuffer(data, "<i8", int(count), 8).tolist():
        loops.append(np.frombuffer(data, "<f4", 2 * frames, at).reshape(2, frames))
        at += 8 * frames
    return tuple(loops)
