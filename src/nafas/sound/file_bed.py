"""A recording as bed: streamed from the disk, at any rate, repeated through a seam of equal power.

Nothing of it is kept in memory but a few blocks; a read depends on its place alone. Where the file's rate is another,
each block is resampled with some of the sound around it, begun at a place that both rates share, so that blocks join
exactly.
"""

import threading
from functools import lru_cache
from math import gcd
from pathlib import Path

import numpy as np

from nafas.errors import InputError
from nafas.script.session import FileBed
from nafas.sound.looped import BED_LEVEL
from nafas.sound.loudness import LoudnessMeter
from nafas.sound.seam import Seam, find_seam
from nafas.sound.spectrum import Stereo

_AROUND = 512  # frames of a file around a block that its resampling looks at
_MEASURED = 1200.0  # seconds of a bed from which its level is taken
_QUIETEST = -70.0
_SHORTEST = 0.5
_RATES = (4_000, 768_000)
# Left and right of what a channel carries, in the usual order of files: L, R, C, LFE, Ls, Rs (ITU-R BS.775).
_FOLD = np.array([[1, 0, 0.7071, 0, 0.7071, 0], [0, 1, 0.7071, 0, 0, 0.7071]], np.float32)
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
        import soundfile

        self.path, self.rate = path, rate
        try:
            info = soundfile.info(str(path))
        except (OSError, soundfile.LibsndfileError):
            reason = "is not audio that can be read" if path.is_file() else "cannot be read (No such file)"
            raise InputError(str(path), reason, "choose WAV, FLAC, AIFF, MP3, Ogg or Opus") from None
        self.file_rate, self.file_frames, self.channels = info.samplerate, info.frames, info.channels
        if not _RATES[0] <= self.file_rate <= _RATES[1]:
            raise InputError(str(path), f"has a rate of {self.file_rate} Hz", _CHOOSE)
        if not 1 <= self.channels <= 6:
            raise InputError(str(path), f"has {self.channels} channels", "mix it down to two")
        self._local = threading.local()
        seconds = self.file_frames / self.file_rate
        begin, end = choice.begin, min(seconds, choice.end or seconds)
        if end - begin < _SHORTEST:
            raise InputError(str(path), f"is only {max(0.0, end - begin):.2f} s long as used", "use more of it")
        self._shift = rate // gcd(rate, self.file_rate)
        self._file_shift = self.file_rate // gcd(rate, self.file_rate)
        self._offset = np.zeros(2, np.float32)
        self.loudness = self._measure(begin, end)
        self._gain = np.float32(10 ** ((BED_LEVEL - self.loudness) / 20))
        crossfade = min(choice.crossfade, (end - begin) / 3)
        self.seam = (
            find_seam(self._plain, rate, begin, end, crossfade)
            if choice.find_seam
            else Seam(begin, end, crossfade, 0.0, 0.0)
        )
        self._begin = round(self.seam.begin * rate)
        self._across = round(self.seam.crossfade * rate)
        self.period = round(self.seam.end * rate) - self._begin - self._across
        """Frames after which it repeats."""

    def _measure(self, begin: float, end: float) -> float:
        """LUFS of what is used; also its offset, and whether it is sound at all."""
        meter, total, seen = LoudnessMeter(self.rate), np.zeros(2), 0
        first, last = round(begin * self.rate), round(min(end, begin + _MEASURED) * self.rate)
        for at in range(first, last, 1 << 17):
            block = self._plain(at, min(1 << 17, last - at))
            if not np.isfinite(block).all():
                place = f"{self.path} at about {at / self.rate:.1f} s"
                raise InputError(place, "holds samples that are not numbers", "export it again")
            meter.push(block)
            total += block.sum(axis=1)
            seen += block.shape[1]
        loudness = meter.integrated()
        if loudness < _QUIETEST:
            raise InputError(str(self.path), "is silent", _CHOOSE)
        self._offset = (total / max(1, seen)).astype(np.float32)
        return loudness

    def read(self, start: int, frames: int) -> Stereo:
        """Frames of the endless bed at `BED_LEVEL`."""
        out = np.empty((2, frames), np.float32)
        done = 0
        while done < frames:
            # The first time round it begins as recorded; from then on its end has gone over into it.
            turn, at = divmod(start + done, self.period)
            n = min(frames - done, self.period - at)
            part = self._plain(self._begin + at, n) - self._offset[:, None]
            across = min(n, self._across - at)
            if turn and across > 0:
                way = np.pi / 2 * (np.arange(at, at + across, dtype=np.float32) + 0.5) / self._across
                tail = self._plain(self._begin + self.period + at, across) - self._offset[:, None]
                part[:, :across] = part[:, :across] * np.sin(way) + tail * np.cos(way)
            out[:, done : done + n] = part
            done += n
        out *= self._gain
        return out

    def _plain(self, start: int, frames: int) -> Stereo:
        """Frames of the file itself at the bed's rate; silence outside it."""
        if self.rate == self.file_rate:
            return self._file(start, frames)
        import soxr

        lead = -(-_AROUND // self._file_shift)
        step = start // self._shift - lead  # a place that both rates share, before the block
        skip = start - step * self._shift
        wanted = -(-(skip + frames) * self._file_shift // self._shift) + _AROUND
        around = self._file(step * self._file_shift, wanted)
        even = soxr.resample(around.T, self.file_rate, self.rate, quality="HQ").T
        return np.ascontiguousarray(even[:, skip : skip + frames], np.float32)

    def _file(self, start: int, frames: int) -> Stereo:
        """Frames of the file at its own rate, folded to two channels; silence outside it."""
        import soundfile

        out = np.zeros((2, frames), np.float32)
        begin, end = max(0, start), min(self.file_frames, start + frames)
        if begin >= end:
            return out
        try:
            file = getattr(self._local, "file", None)
            if file is None:
                file = self._local.file = soundfile.SoundFile(str(self.path))
            file.seek(begin)
            found = file.read(end - begin, dtype="float32", always_2d=True)
        except (OSError, soundfile.LibsndfileError) as error:
            place = f"{self.path} at {begin / self.file_rate:.1f} s"
            raise InputError(place, f"cannot be read ({error})", "use a whole copy of the bed") from None
        if len(found) < end - begin:
            place = f"{self.path} at {(begin + len(found)) / self.file_rate:.1f} s"
            raise InputError(place, "breaks off", "use a whole copy of the bed")
        both = np.repeat(found, 2, axis=1) if self.channels == 1 else found
        if self.channels > 2:
            both = found @ _FOLD[:, : self.channels].T
        out[:, begin - start : end - start] = both.T
        return out


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
