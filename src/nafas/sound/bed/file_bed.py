"""A recording as bed: streamed from the disk, at any rate, repeated through a seam of equal power.

Nothing of it is kept in memory but a few blocks; a read depends on its place alone. Where the file's rate is another,
each block is resampled with some of the sound around it, begun at a place that both rates share, so that blocks join
exactly.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError
from nafas.script.model.beds import FileBed
from nafas.sound.beat.beat_grid import PlayingBeatGrid, beat_of
from nafas.sound.bed.loop_points import LoopPoints, find_loop_points
from nafas.sound.bed.looped import BED_LEVEL
from nafas.sound.bed.stretched import OnDisk, Stretched
from nafas.sound.files.recording import Recording
from nafas.sound.meters.loudness import LoudnessMeter, sliding
from nafas.sound.stereo import Stereo

_MEASURED = 3600.0  # seconds of a bed from which its level is taken
_STRETCH = 3.0  # seconds that are held under the voice together
_LOOKS = 2  # a second
_COARSE = 50 // _LOOKS
_FAR_UNDER = 10.0  # LU under the recording's loudness
_QUIETEST = -70.0
_SHORTEST = 0.5
_COMPARED = 10.0  # seconds of a seam whose two sides are compared
_CHOOSE = "choose another bed"


class RecordedBed:
    """A file's endless bed at a rate, shape (2, frames) from any place.

    Args:
        path: the file.
        choice: what of it is used.
        rate: samples a second.

    Raises:
        InputError: missing, not audio, silent, too short for its crossfade, not numbers.
    """

    def __init__(self, path: Path, choice: FileBed, rate: int) -> None:
        self.path, self.rate = path, rate
        self.recording = recording = Recording(path, rate)
        seconds = recording.seconds
        begin, end = choice.begin, min(seconds, choice.end or seconds)
        if end - begin < _SHORTEST:
            raise InputError(str(path), f"is only {max(0.0, end - begin):.2f} s long as used", "use more of it")
        stat = path.stat()
        self._state = (path, stat.st_size, stat.st_mtime_ns)
        self.loudness, self._offset, self._over = _level(self._state, begin, end, rate)
        self._measured_from = begin
        self._gain = np.float32(10 ** ((BED_LEVEL - self.loudness) / 20))
        if choice.find_seam:
            begin, end = _body(self._over, begin, end, choice.crossfade)
        self.seam = self._close(choice, begin, end)
        self.pace = choice.pace
        self.keeps = choice.pace != 1
        self._played = (
            recording.read if choice.pace == 1 else Stretched(recording.read, rate, choice.pace, kept=OnDisk()).read
        )
        self._begin = round(self.seam.begin / self.pace * rate)
        self._across = round(self.seam.crossfade / self.pace * rate)
        length = (self.seam.end - self.seam.begin - self.seam.crossfade) / self.pace
        self.period = round(length * rate)
        """Frames after which it repeats."""
        self._alike = _similarity(recording, self.seam)
        self.beat: PlayingBeatGrid | None = None
        if choice.pulse is not None:
            self.beat = beat_of(choice.pulse, self.pace, self.seam.begin)

    def _close(self, choice: FileBed, begin: float, end: float) -> LoopPoints:
        """Its loop: with a pulse a whole number of bars long, of beats where there is no room for bars."""
        crossfade = min(choice.crossfade, (end - begin) / 3)
        every = None
        if choice.pulse is not None:
            beat, room = choice.pulse.seconds, end - begin - crossfade
            every = beat * choice.pulse.bar if room >= beat * choice.pulse.bar else beat
            if room < beat:
                raise InputError(str(self.path), "is shorter as used than one of its beats", "use more of it")
        if choice.find_seam:
            return _seam(self._state, begin, end, crossfade, every, self.rate)
        if every is not None:
            end = begin + crossfade + every * int((end - begin - crossfade) / every + 1e-6)
        return LoopPoints(begin, end, crossfade, 0.0, 0.0)

    def heard(self, beats: NDArray[np.float64], begin: float, end: float) -> NDArray[np.float64]:
        """When beats (seconds of the recording, rising) are heard from `begin` to `end`, in seconds of the bed."""
        own = (beats - self.seam.begin) / self.pace
        lasts = self.period / self.rate
        own = own[(own >= 0) & (own < lasts)]
        turns = np.arange(max(0, int(begin // lasts)), int(end // lasts) + 1)
        values: NDArray[np.float64] = (turns[:, None] * lasts + own[None]).ravel()
        return values[(values >= begin) & (values < end)]

    def over_average(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        """By how many dB the bed is over its own average around samples of it, 0 or more: the loudest 3 s (short-term
        loudness, EBU Tech 3341) that begin or end within half a second of there."""
        seconds = self.seam.begin + (places % self.period) / self.rate * self.pace - self._measured_from
        at = np.clip((seconds * _LOOKS).astype(np.int64), 0, max(0, len(self._over.highest) - 1))
        return np.maximum(0.0, self._over.highest[at]) if len(self._over.highest) else np.zeros(len(places))

    def read(self, start: int, frames: int) -> Stereo:
        """Frames of the endless bed at `BED_LEVEL`."""
        out = np.empty((2, frames), np.float32)
        done = 0
        while done < frames:
            # The first time round it begins as recorded; from then on its end has gone over into it.
            turn, at = divmod(start + done, self.period)
            n = min(frames - done, self.period - at)
            part = self._played(self._begin + at, n) - self._offset[:, None]
            across = min(n, self._across - at)
            if turn and across > 0:
                way = np.pi / 2 * (np.arange(at, at + across, dtype=np.float32) + 0.5) / self._across
                tail = self._played(self._begin + self.period + at, across) - self._offset[:, None]
                over = part[:, :across] * np.sin(way) + tail * np.cos(way)
                # Equal power for what has nothing in common; what is alike, such as a beat on a beat, would add up.
                part[:, :across] = over / np.sqrt(1 + self._alike * np.sin(2 * way))
            out[:, done : done + n] = part
            done += n
        if not math.isfinite(float(out.sum())):
            position = f"{self.path}, in what is heard from {start / self.rate:.1f} s on"
            raise InputError(position, "holds samples that are not numbers", "export it again")
        out *= self._gain
        return out


def _similarity(recording: Recording, loop_points: LoopPoints) -> np.float32:
    """Correlation of the two sides of a seam, 0 to 1, over at most its first ten seconds."""
    frames = round(min(loop_points.crossfade, _COMPARED) * recording.rate)
    starts = (loop_points.begin, loop_points.end - loop_points.crossfade)
    head, tail = (recording.read(round(start * recording.rate), frames) for start in starts)
    head, tail = (side - side.mean(axis=1, keepdims=True) for side in (head, tail))  # an offset is not similarity
    power = float(np.sqrt(np.square(head, dtype=np.float64).sum() * np.square(tail, dtype=np.float64).sum()))
    return np.float32(max(0.0, float((head * tail).sum(dtype=np.float64)) / power) if power > 0 else 0.0)


_State = tuple[Path, int, int]
"""A file with its size and the time of its last change: as long as they are the same, so is what was measured of it."""


@lru_cache(maxsize=8)
def _level(state: _State, begin: float, end: float, rate: int) -> tuple[float, NDArray[np.float32], "_Over"]:
    """LUFS of a part of a file; its offset, shape (2,); and how far its stretches are from that loudness. Raises
    InputError for what is no sound."""
    path = state[0]
    recording, meter, total, seen = Recording(path, rate), LoudnessMeter(rate), np.zeros(2), 0
    first, last = round(begin * rate), round(min(end, begin + _MEASURED) * rate)
    for at in range(first, last, 1 << 17):
        block = recording.read(at, min(1 << 17, last - at))
        if not np.isfinite(block).all():
            position = f"{path} at about {at / rate:.1f} s"
            raise InputError(position, "holds samples that are not numbers", "export it again")
        meter.push(block)
        total += block.sum(axis=1)
        seen += block.shape[1]
    loudness = meter.integrated()
    if loudness < _QUIETEST:
        raise InputError(str(path), "is silent", _CHOOSE)
    return loudness, (total / max(1, seen)).astype(np.float32), _over(sliding(meter.fine, _STRETCH) - loudness)


@dataclass(frozen=True, eq=False)
class _Over:
    """Short-term loudness over a recording's own, in dB, `_LOOKS` times a second.

    Attributes:
        each: of the 3 s that begin there, shape (looks,); () where there is less.
        highest: of those that end within half a second of there, begin there, or lie between, shape (looks + 3 s,).
    """

    each: NDArray[np.float64]
    highest: NDArray[np.float64]


def _over(short: NDArray[np.float64]) -> _Over:
    if not len(short):
        return _Over(short, short)
    each = short[: len(short) // _COARSE * _COARSE].reshape(-1, _COARSE).max(axis=1) if len(short) >= _COARSE else short
    long = round(_STRETCH * _LOOKS)
    wide = np.pad(each, (long + 1, long + 1), mode="edge")
    return _Over(each, np.lib.stride_tricks.sliding_window_view(wide, long + 3).max(axis=1))


def _body(over: _Over, begin: float, end: float, crossfade: float) -> tuple[float, float]:
    """The part of a recording that is worth repeating: without the quiet before its first and after its last stretch
    that counts for its loudness, an intro or a fade-out. (ITU-R BS.1770's own relative gate is 10 LU as well.)"""
    counts = np.flatnonzero(over.each > -_FAR_UNDER)
    if not len(counts):
        return begin, end
    first = begin + counts[0] / _LOOKS
    last = min(end, begin + counts[-1] / _LOOKS + _STRETCH)
    if begin + len(over.each) / _LOOKS + _STRETCH < end - 1:
        last = end  # what lies behind was not measured
    return (first, last) if last - first >= max(_SHORTEST, 3 * crossfade) else (begin, end)


@lru_cache(maxsize=8)
def _seam(state: _State, begin: float, end: float, crossfade: float, every: float | None, rate: int) -> LoopPoints:
    return find_loop_points(Recording(state[0], rate).read, rate, begin, end, crossfade, every)


@lru_cache(maxsize=4)
def _kept(path: Path, size: int, when: int, choice: FileBed, rate: int) -> RecordedBed:
    return RecordedBed(path, choice, rate)


def recorded_bed(path: Path, choice: FileBed, rate: int) -> RecordedBed:
    """As `RecordedBed`; measured and searched once as long as the file is the same."""
    try:
        stat = path.stat()
    except OSError as error:
        raise InputError(str(path), f"cannot be read ({error.strerror})", _CHOOSE) from None
    return _kept(path, stat.st_size, stat.st_mtime_ns, choice, rate)
