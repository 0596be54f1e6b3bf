"""A recording on the disk, streamed at any rate and folded to two channels; a read depends on its place alone.

Where the file's rate is another, each block is resampled with some of the sound around it, begun at a place that both
rates share, so that blocks join exactly.
"""

from fractions import Fraction
from math import gcd
from pathlib import Path

import numpy as np

from nafas.audio_files import AudioReader
from nafas.errors import InputError
from nafas.sound.stereo import Stereo

_AROUND = 512  # frames of a file around a block that its resampling looks at
_RATES = (4_000, 768_000)
# Left and right of what a channel carries, in the usual order of files: L, R, C, LFE, Ls, Rs (ITU-R BS.775).
_FOLD = np.array([[1, 0, 0.7071, 0, 0.7071, 0], [0, 1, 0.7071, 0, 0, 0.7071]], np.float32)


class Recording:
    """A file of sound, read by several threads at once.

    Args:
        path: WAV, FLAC, AIFF, MP3, Ogg or Opus, up to six channels.
        rate: samples a second that are wanted.

    Attributes:
        file_rate, file_frames, channels: as the file has them.

    Raises:
        InputError: missing, not audio, or of a kind that cannot be used.
    """

    def __init__(self, path: Path, rate: int) -> None:
        self.path, self.rate = path, rate
        self._reader = reader = AudioReader(path)
        self.file_rate, self.file_frames, self.channels = reader.rate, reader.frames, reader.channels
        if not _RATES[0] <= self.file_rate <= _RATES[1]:
            raise InputError(str(path), f"has a rate of {self.file_rate} Hz", "choose another file")
        if not 1 <= self.channels <= 6:
            raise InputError(str(path), f"has {self.channels} channels", "mix it down to two")
        self._shift = rate // gcd(rate, self.file_rate)
        self._file_shift = self.file_rate // gcd(rate, self.file_rate)

    @property
    def seconds(self) -> float:
        """Its length."""
        return float(self.file_frames / self.file_rate)

    def read(self, start: int, frames: int) -> Stereo:
        """Frames `start` to `start + frames` at the wanted rate, shape (2, frames); silence outside it."""
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
        out = np.zeros((2, frames), np.float32)
        begin, end = max(0, start), min(self.file_frames, start + frames)
        if begin >= end:
            return out
        samples = self._reader.read(begin, end - begin)
        channels = samples.shape[1]  # of the file, whatever this is measured as
        both = np.repeat(samples, 2, axis=1) if channels == 1 else samples
        if channels > 2:
            both = samples @ _FOLD[:, :channels].T
        out[:, begin - start : end - start] = both.T
        return out


def recording_length(path: Path) -> Fraction:
    """Exact seconds of an audio file: its frames over its rate.

    Raises:
        InputError: it is missing, not audio, or empty.
    """
    reader = AudioReader(path)
    if reader.frames <= 0 or reader.rate <= 0:
        raise InputError(str(path), "holds no sound", "choose another recording")
    return Fraction(reader.frames, reader.rate)
