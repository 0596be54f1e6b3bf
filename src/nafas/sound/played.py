"""The recordings of a session's blocks as sound: read from the disk as they are needed, at the level of the voice."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from types import EllipsisType

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError
from nafas.sound.bed.asset_file import checked_path
from nafas.sound.clip_track import PlacedClip
from nafas.sound.files.recording import Recording
from nafas.sound.stereo import Stereo
from nafas.timing.clock import clock
from nafas.timing.recorded import Recorded, recorded
from nafas.timing.timeline import Moment, Timeline
from nafas.voice.level import speech_gain

_EDGE = 0.005  # seconds faded at either end, against clicks
_CUT = 1  # seconds over which one fades that the session is too short for
_LEVELLED = 600.0  # seconds from which its level is taken
_LEVEL_RATE = 8_000


class RecordedSound:
    """What of a recording sounds, faded at both ends: it has an array's shape, (2, n), and reads what is sliced of its
    last axis. A slice depends on its place alone.

    Args:
        source: the recording at the rate of the mix.
        first, length: in samples.
        fade_in, fade_out: in samples.
    """

    def __init__(self, source: Recording, first: int, length: int, fade_in: int, fade_out: int) -> None:
        self._source, self._first, self.shape = source, first, (2, length)
        self._fade_in, self._fade_out = min(fade_in, length), min(fade_out, length)

    def __getitem__(self, part: "tuple[EllipsisType, slice]") -> NDArray[np.float32]:
        """[..., begin:end], step 1."""
        begin, end, _ = part[1].indices(self.shape[1])
        sound = self._source.read(self._first + begin, max(0, end - begin))
        np.nan_to_num(sound, copy=False, posinf=0.0, neginf=0.0)
        places, length = np.arange(begin, end), self.shape[1]
        for there, over in ((places, self._fade_in), (length - 1 - places, self._fade_out)):
            if over and len(there) and there.min() < over:
                sound *= (np.sin(np.pi / 2 * np.clip((there + 0.5) / over, 0, 1)) ** 2).astype(np.float32)
        return sound


@dataclass(frozen=True, eq=False)
class Played:
    """A recording, or the sound of a breath, in its place.

    Attributes:
        moment: of its beginning, or its beat.
        clip: its sound.
        before: samples from the beginning of its sound to that moment.
        makes_room: the bed goes down under it.
        even: it may be alike from one of its waves to the next, as a hummed tone is.
    """

    moment: Moment
    clip: PlacedClip
    before: int
    makes_room: bool
    even: bool = True


def plan_played(
    timeline: Timeline, rate: int, length: int, folder: Path, lost: Callable[[str], object] | None = None
) -> tuple[list[Played], tuple[str, ...]]:
    """Every recording of a timeline's blocks in its places, and what of them cannot sound as it is written.

    Args:
        length: of the session, in samples. What would sound past it, or before its beginning, is faded out or cut.
        folder: where relative paths start.
        lost: called for a recording that cannot be used; it is silent then.

    Raises:
        InputError: a recording cannot be used, and `lost` is None.
    """
    places, troubles = recorded(timeline)
    played: list[Played] = []
    notes = list(troubles)
    for each in places:
        try:
            played.append(_played(each, rate, length, folder, notes))
        except InputError as error:
            if lost is None:
                raise
            lost(f"A recording cannot be used and is silent: {error}")
    return [each for each in played if each.clip.samples.shape[-1]], tuple(dict.fromkeys(notes))


def _played(each: Recorded, rate: int, length: int, folder: Path, notes: list[str]) -> Played:
    choice = each.recording
    path = checked_path(choice.file, folder)
    source = Recording(path, rate)
    end = min(source.seconds, float(choice.end)) if choice.end is not None else source.seconds
    if end <= choice.begin:
        raise InputError(str(path), f"has no sound from {float(choice.begin):g} s on", "use an earlier part of it")
    first = round(choice.begin * rate)
    before = 0 if choice.beat is None else round(choice.beat * rate) - first
    start, samples, fade_out = each.moment.sample(rate) - before, round(end * rate) - first, choice.fade_out
    if start < 0:
        notes.append(f"{choice.name} would begin {-start / rate:.1f} s before the session: its beginning is cut off")
        first, samples, before, start = first - start, samples + start, before + start, 0
    if start + samples > length:
        notes.append(
            f"{choice.name} at {clock(each.moment.at)} sounds {(start + samples - length) / rate:.1f} s past the end, "
            "and is faded out: make the closing longer, or write where it ends"
        )
        samples, fade_out = max(0, length - start), max(fade_out, Fraction(_CUT))
    edge = round(_EDGE * rate)
    fades = max(edge, round(choice.fade_in * rate)), max(edge, round(fade_out * rate))
    sound = RecordedSound(source, first, max(0, samples), *fades)
    stat = path.stat()
    gain = _gain(path, stat.st_size, stat.st_mtime_ns, float(choice.begin), end) + choice.level
    return Played(each.moment, PlacedClip(start, sound, float(10 ** (gain / 20))), before, not choice.over)


@lru_cache(maxsize=64)
def _gain(path: Path, size: int, when: int, begin: float, end: float) -> float:
    """dB that bring what of a file sounds to the level of speech; 0 for silence."""
    source = Recording(path, _LEVEL_RATE)
    heard: Stereo = source.read(round(begin * _LEVEL_RATE), round(min(end - begin, _LEVELLED) * _LEVEL_RATE))
    if not np.isfinite(heard).all():
        raise InputError(str(path), "holds samples that are not numbers", "export it again")
    power_of_both = np.sqrt(np.mean(heard**2, axis=0))  # its RMS is that of both sides
    return speech_gain(power_of_both, _LEVEL_RATE)
