"""A sound played faster or slower at the same pitch, readable from any place, of any length.

It is stretched in pieces of some seconds, each with sound around it, and each piece goes over into the next where the
two are most alike: within a hundredth of a second of the join they are moved against each other by what their
correlation says, and the crossfade is levelled by how alike they are. The stretching itself is Rubber Band's, by
pedalboard. Places keep to within some 10 ms of where they belong, however long the sound is; stretched whole it would
drift (by 75 ms in 85 s at 0.968 of its pace, as measured).
"""

import tempfile
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Protocol

import numpy as np

from nafas.errors import InputError
from nafas.sound.stereo import Stereo

_AROUND = 0.5  # seconds before and after a piece in which its stretching begins and ends; a third of it where not fine
_OVER = 0.04  # seconds over which a piece goes over into the next
_SETTLES = 0.6  # seconds in which a piece that was moved is back in its place
_NEARER = 0.05  # how much less alike a place may be that is nearer
_SEEK = 0.5  # seconds after a piece's share in which its beginning is looked for, where there is time for it
_REACH = 0.01  # seconds by which a piece may be moved to join the one before


class Kept(Protocol):
    """Where finished pieces stay."""

    def get(self, number: int) -> Stereo | None: ...

    def put(self, number: int, piece: Stereo) -> None: ...


class InMemory:
    """The last few pieces."""

    def __init__(self, most: int = 4) -> None:
        self._most = most
        self._pieces: OrderedDict[int, Stereo] = OrderedDict()

    def get(self, number: int) -> Stereo | None:
        return self._pieces.get(number)

    def put(self, number: int, piece: Stereo) -> None:
        self._pieces[number] = piece
        while len(self._pieces) > self._most:
            self._pieces.popitem(last=False)


class OnDisk:
    """Every piece, in a file without a name that goes when the program does. Raises InputError where it is full."""

    def __init__(self) -> None:
        self._file = tempfile.TemporaryFile(prefix="nafas-bed-")  # noqa: SIM115  # as long as this lives
        self._places: dict[int, tuple[int, int]] = {}
        self._end = 0
        self._lock = threading.Lock()

    def get(self, number: int) -> Stereo | None:
        with self._lock:
            if number not in self._places:
                return None
            at, size = self._places[number]
            self._file.seek(at)
            return np.frombuffer(self._file.read(size), np.float32).reshape(2, -1)

    def put(self, number: int, piece: Stereo) -> None:
        with self._lock:
            data = np.ascontiguousarray(piece, np.float32).tobytes()
            try:
                self._file.seek(self._end)
                self._file.write(data)
                self._file.flush()
            except OSError as error:
                position = f"the folder for temporary files ({tempfile.gettempdir()})"
                raise InputError(
                    position, f"has no space for the stretched bed ({error.strerror})", "free some space"
                ) from None
            self._places[number] = (self._end, len(data))
            self._end += len(data)


class Stretched:
    """A sound at another pace: its place p is place p times `pace` of the sound itself.

    Args:
        read: gives frames `start` to `start + frames` of the sound, shape (2, frames), silence outside it.
        rate: samples a second.
        pace: 0.5 to 1.5; over 1 is faster.
        seconds: length of a piece.
        fine: the better of two ways to stretch, four times slower.
        kept: where pieces stay.
        begin: where the first piece begins; a reader that begins there waits for one piece alone.
        ahead: the next piece is made on a thread of its own while this one is read.
        source: the frame of the sound that belongs to a place, where the pace changes on the way; each piece then has
            the pace of its middle. None: place times `pace`.
    """

    def __init__(
        self,
        read: Callable[[int, int], Stereo],
        rate: int,
        pace: float,
        seconds: float = 8.0,
        fine: bool = True,
        kept: Kept | None = None,
        begin: int = 0,
        ahead: bool = False,
        source: Callable[[int], float] | None = None,
    ) -> None:
        self._source = source or (lambda place: place * pace)
        self._read, self._rate, self.pace, self._fine, self._begin = read, rate, pace, fine, begin
        self._size = round(seconds * rate)
        self._over, self._reach = round(_OVER * rate), round(_REACH * rate)
        self._settled = min(round(_SETTLES * rate), self._size)
        self._around = round((_AROUND if fine else _AROUND / 3) * rate)
        self._seek = round(_SEEK * rate) if fine else 0
        self._joints: dict[int, int] = {}
        self._kept = kept or InMemory()
        self._ahead, self._asked = ahead, 0
        self._locks = [threading.Lock() for _ in range(4)]

    def read(self, start: int, frames: int) -> Stereo:
        """Frames `start` to `start + frames`, shape (2, frames)."""
        out = np.empty((2, frames), np.float32)
        done = 0
        while done < frames:
            number = (start + done - self._begin) // self._size
            number -= start + done < self._joint(number)
            at = start + done - self._joint(number)
            n = min(frames - done, self._joint(number + 1) - start - done)
            piece = self._piece(number)
            out[:, done : done + n] = piece[:, self._reach + at : self._reach + at + n]
            if number and at < self._settled:
                head = self._head(self._piece(number - 1)[:, -2 * self._reach - self._over :], piece)
                out[:, done : done + n][:, : self._settled - at] = head[:, at : at + n]
            done += n
            if self._ahead and number >= self._asked:
                self._asked = number + 1
                threading.Thread(target=self._piece, args=(number + 1,), daemon=True).start()
        return out

    def _joint(self, number: int) -> int:
        """Where a piece begins: where the sound is softest within a while after its share, so that no stroke is cut."""
        start = self._begin + number * self._size
        if not self._seek or not number:
            return start
        joint = self._joints.get(number)
        if joint is None:
            first, last = round(self._source(start)), round(self._source(start + self._seek + 2 * self._over))
            sound = self._read(first, last - first).mean(axis=0)
            step = max(1, self._over // 4)
            power = np.add.reduceat(sound.astype(np.float64) ** 2, np.arange(0, len(sound), step))
            # A stretch of two crossfades, its loudest quarter counting: a stroke at its end would be cut as well.
            loudest = np.lib.stride_tricks.sliding_window_view(power, 8).max(axis=1)
            pace = (last - first) / (self._seek + 2 * self._over)
            softest = round((int(loudest.argmin()) + 2) * step / pace)
            joint = self._joints[number] = start + min(self._seek, softest)
        return joint

    def _head(self, tail: Stereo, piece: Stereo) -> Stereo:
        """The first frames of a piece, gone over into from what the one before would have gone on with.

        The piece comes in where it is most like that, and slowly goes back to its own place.
        """
        over, reach = self._over, self._reach
        tail = tail[:, reach : reach + over]
        wanted, wide = tail.mean(axis=0), piece[:, : over + 2 * reach].mean(axis=0)
        power = np.sqrt((wanted**2).sum() * np.convolve(wide**2, np.ones(over, np.float32), "valid")) + 1e-9
        alike = np.correlate(wide, wanted, "valid") / power
        by = int((alike - _NEARER * np.abs(np.arange(-reach, reach + 1)) / reach).argmax()) - reach
        places = np.arange(self._settled)
        back = np.clip((places - over) / (self._settled - over), 0, 1)
        at = reach + places + by * np.cos(np.pi / 2 * back) ** 2
        whole = at.astype(int)
        part = (at - whole).astype(np.float32)
        head: Stereo = piece[:, whole] * (1 - part) + piece[:, whole + 1] * part
        way = np.pi / 2 * (np.arange(over, dtype=np.float32) + 0.5) / over
        rise, fall = np.sin(way) ** 2, np.cos(way) ** 2
        level = np.sqrt(rise**2 + fall**2 + 2 * rise * fall * max(0.0, float(alike[by + reach])))
        head[:, :over] = (head[:, :over] * rise + tail * fall) / level
        return head

    def _piece(self, number: int) -> Stereo:
        """A piece as stretched, with the reach before it, and the crossfade and the reach after it."""
        with self._locks[number % len(self._locks)]:  # two readers do not make one piece twice
            piece = self._kept.get(number)
            if piece is None:
                piece = self._made(self._joint(number), self._joint(number + 1))
                self._kept.put(number, piece)
            return piece

    def _made(self, start: int, end: int) -> Stereo:
        import pedalboard

        begin = start - self._reach - self._around
        wanted = end - start + self._over + 2 * (self._reach + self._around)
        first, last = round(self._source(begin)), round(self._source(begin + wanted))
        sound = self._read(first, last - first)
        made = np.zeros_like(sound)
        if sound.any():
            # The quicker way keeps pitches exactly where strokes may be a little softer.
            strokes = "crisp" if self._fine else "smooth"
            made = pedalboard.time_stretch(
                sound,
                self._rate,
                stretch_factor=(last - first) / wanted,
                high_quality=self._fine,
                transient_mode=strokes,
            )
        if made.shape[1] < wanted:
            made = np.pad(made, ((0, 0), (0, wanted - made.shape[1])))
        piece: Stereo = made[:, self._around : wanted - self._around]
        return piece
