"""Room for what an encoder adds to a master's peaks.

A codec keeps a sound's spectrum, not its shape: a peak that the limiter held at the ceiling may come back a decibel or
two higher, and be clipped where it is played (EBU R 128 asks for room before data reduction for that reason; from
memory). Where the decoded file is over, the master is eased by as much for some milliseconds, and encoded again.
"""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.audio_files import AudioReader
from nafas.parallel.ahead import ahead
from nafas.sound.files.encode import AudioFile, publish
from nafas.sound.files.formats import encoding_of
from nafas.sound.master.limiter import REACH, MasterStream, glide
from nafas.sound.master.mono_downmix import MonoDownmix
from nafas.sound.meters.measure import BLOCK
from nafas.sound.meters.true_peak import CONTEXT, PIECE, piece_peaks
from nafas.sound.mix.mix import Mix
from nafas.voice.level import gain_curve


def raised_peaks(path: Path, ceiling: float, pieces: int) -> NDArray[np.float32]:
    """By how many dB a decoded file's true peak lies over `ceiling` (dBTP), in each of so many runs of `PIECE` samples.

    Raises:
        InputError: the file cannot be read.
    """
    reader, limit = AudioReader(path), 10 ** (ceiling / 20)
    values = np.zeros(pieces, np.float32)
    for start in range(0, pieces * PIECE, BLOCK):
        end = min(start + BLOCK, pieces * PIECE)
        block = np.zeros((reader.channels, end - start + 2 * CONTEXT), np.float32)
        begin = max(0, start - CONTEXT)
        part = reader.read(begin, end + CONTEXT - begin).T
        at = begin - (start - CONTEXT)
        block[:, at : at + part.shape[1]] = part
        over = 20 * np.log10(np.maximum(piece_peaks(block, limit) / limit, 1.0))
        values[start // PIECE : end // PIECE] = over
    return values


class _Eased:
    """A master that is softer for some milliseconds here and there."""

    def __init__(self, master: MasterStream, lower: NDArray[np.float32]) -> None:
        self._master, self.length, self.channels = master, master.length, master.channels
        self._curve = gain_curve(10 ** (-lower / 20), REACH).astype(np.float32)

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """As `MasterStream.read`."""
        out = self._master.read(start, frames)
        first, last = max(0, start // PIECE - 1), (start + frames) // PIECE + 2
        curve = self._curve[first:last]
        if curve.min(initial=1.0) < 1:
            glide(out, start - first * PIECE, curve.astype(np.float64))
        return out


def pieces_of(mix: Mix) -> int:
    """Runs of `PIECE` samples of a mix, the last one filled up."""
    return -(-mix.length // PIECE)


def write_eased(
    mix: Mix, gain: float, path: Path, lower: NDArray[np.float32], progress: Callable[[float], None]
) -> None:
    """Write a file of a master again, eased; until it is whole the one that is there stays.

    Args:
        mix, gain: of the master, dB.
        path: the file.
        lower: dB for each run of `PIECE` samples, 0 or more; the gain moves over `REACH` of them.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: it cannot be written.
        Cancelled: when `progress` does.
    """
    session = mix.cast.timeline.session
    heard = MonoDownmix(mix) if session.master.mono else mix
    master = _Eased(MasterStream(heard, gain, session.master.ceiling), lower)
    encoding = encoding_of(path, rate=mix.rate)
    starts = range(0, mix.length, BLOCK)
    with AudioFile(path, mix.rate, master.channels, mix.length, encoding, session.file_tags) as out:
        for number, block in enumerate(ahead(lambda at: master.read(at, min(BLOCK, mix.length - at)), starts), 1):
            out.write(block)
            progress(number / len(starts))
        publish([out])
