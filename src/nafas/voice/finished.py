"""Clips as they are heard, kept on the disk: cutting, levelling and finding beats takes ten times as long as reading
what came of it."""

import json
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np

from nafas import filters
from nafas.state.disk_cache import DiskCache, kept_or_made
from nafas.voice.clip import Clip

_HERE = Path(__file__).parent
_NAMES = (
    "beat/felt_beat.py", "beat/vowel.py", "chain.py", "clip.py", "engines/readings.py", "finished.py", "level.py",
    "pitch.py", "takebook/book.py",
)  # fmt: skip
_MADE_BY = (*(_HERE / name for name in _NAMES), Path(filters.__file__))
"""The code that decides how a finished clip sounds and where its beat is: a change in it makes every clip again."""


def finished(
    made_from: Sequence[str], make: Callable[[], tuple[Clip, ...]], folder: Path | None = None
) -> tuple[Clip, ...]:
    """The clips that `make` gives; those kept under `made_from` where there are any.

    Args:
        made_from: all that decides what comes of it but the code.
        make: makes them; what it raises is raised.
        folder: of the cache; the platform's place where None.
    """
    return kept_or_made(DiskCache("clips", folder), _MADE_BY, made_from, make, _written, _read)


def _written(clips: Sequence[Clip]) -> bytes:
    rows = [[clip.text, clip.name, clip.frames, clip.rate, clip.beat, clip.stand_in] for clip in clips]
    sounds = (clip.samples.astype("<f4", copy=False).tobytes() for clip in clips)
    return b"".join([json.dumps(rows).encode(), b"\n", *sounds])


def _read(data: bytes) -> tuple[Clip, ...]:
    head, _, sound = data.partition(b"\n")
    samples, begin, clips = np.frombuffer(sound, "<f4"), 0, []
    for text, name, frames, rate, beat, stand_in in json.loads(head):
        clips.append(Clip(text, name, samples[begin : begin + frames], rate, beat, stand_in))
        begin += frames
    return tuple(clips)
