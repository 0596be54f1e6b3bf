"""The chimes of a session in their places: made here or the producer's own, ticks, strokes, and the end bell."""

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

import numpy as np

from nafas.errors import InputError
from nafas.script.model.assets import Asset
from nafas.script.model.blocks import Strokes
from nafas.script.model.phase import PhaseKind, Side
from nafas.script.model.session import ChimeLevels
from nafas.sound.bed.asset_file import checked_path
from nafas.sound.chimes.synthesis import Stereo, bell, chime, levelled, panned, stroke, tick
from nafas.sound.clip_track import PlacedClip
from nafas.sound.files.recording import Recording
from nafas.timing.clock import clock
from nafas.timing.timeline import EventKind, Timeline
from nafas.voice.level import SPEECH_LEVEL

LONGEST = 60.0
"""Seconds of a sample of one's own; a chime is a short sound, and all of it is kept in memory."""
_ATTACK = 0.004  # seconds: a sample cut in the middle of its sound would click
_FADES = 3.0  # seconds over which a bell fades that the session is too short for
_QUIETEST = 1e-5


class Chimes:
    """The chimes a session chooses.

    Args:
        choice: family, samples, levels.
        rate: samples a second.
        folder: where paths start.
        lost: called once for each sample that cannot be used, whose family's sound takes its place; None: an error.
    """

    def __init__(
        self, choice: ChimeLevels, rate: int, folder: Path, lost: Callable[[str], object] | None = None
    ) -> None:
        self._choice, self._rate, self._folder, self._lost = choice, rate, folder, lost
        self._told: set[str] = set()

    def phase(self, kind: PhaseKind, side: Side | None = None) -> Stereo:
        """The chime of a phase kind, towards a side. Raises InputError for a sample that cannot be used."""
        own = self._sample(getattr(self._choice.own, kind.name.lower()))
        return chime(kind, self._rate, side, self._choice.family) if own is None else panned(own, side)

    @property
    def tick(self) -> Stereo:
        own = self._sample(self._choice.own.tick)
        return tick(self._rate) if own is None else own

    @property
    def bell(self) -> Stereo:
        own = self._sample(self._choice.own.bell)
        return bell(self._rate) if own is None else own

    def _sample(self, asset: Asset | None) -> Stereo | None:
        if asset is None:
            return None
        try:
            return self._read(asset)
        except InputError as error:
            if self._lost is None:
                raise
            if asset.path not in self._told:
                self._told.add(asset.path)
                self._lost(f"A chime of your own cannot be used, so the family's sound is used: {error}")
            return None

    def _read(self, asset: Asset) -> Stereo:
        path = checked_path(asset, self._folder)
        try:
            stat = path.stat()
        except OSError as error:
            raise InputError(str(path), f"cannot be read ({error.strerror})", "choose another chime") from None
        return _sample(path, stat.st_size, stat.st_mtime_ns, self._rate)


@lru_cache(maxsize=16)
def _sample(path: Path, size: int, when: int, rate: int) -> Stereo:
    """A sample from its first sound on, levelled as the chimes made here are."""
    import soxr

    recording = Recording(path, rate)
    if recording.seconds > LONGEST:
        long = f"is {recording.seconds:.0f} s long; a chime lasts at most {LONGEST:.0f} s"
        raise InputError(str(path), long, "cut it shorter")
    samples = Recording(path, recording.file_rate).read(0, recording.file_frames)
    if not np.isfinite(samples).all():
        raise InputError(str(path), "holds samples that are not numbers", "export it again")
    if samples.shape[1]:
        # Taken off before the rate is changed: an offset that begins would ring.
        samples = samples - np.median(samples, axis=1, keepdims=True)
        samples = np.asarray(soxr.resample(samples.T, recording.file_rate, rate).T, np.float32)
    loud = np.flatnonzero(
        np.abs(samples).max(axis=0, initial=0.0) > max(_QUIETEST, 0.003 * np.abs(samples).max(initial=0))
    )
    if len(loud) < rate // 100:
        raise InputError(str(path), "is silent", "choose another chime")
    return levelled(samples[:, max(0, loud[0] - rate // 500) :].astype(np.float64), rate, _ATTACK)


def plan_chimes(
    timeline: Timeline, rate: int, length: int, folder: Path, lost: Callable[[str], object] | None = None
) -> tuple[list[PlacedClip], tuple[str, ...]]:
    """Every chime, tick, stroke and bell of a timeline, and what of them cannot sound whole.

    Args:
        length: of the session, in samples. A bell that rings on beyond it fades out before it.
        folder: where relative paths start.
        lost: as `Chimes`.

    Raises:
        InputError: a sample cannot be used, and `lost` is None.
    """
    levels = timeline.session.chimes
    chimes = Chimes(levels, rate, folder, lost)
    gains = {name: 10 ** ((SPEECH_LEVEL + getattr(levels, name)) / 20) for name in ("phase", "tick", "bell")}
    strokes = {block.id for block in timeline.session.blocks if isinstance(block, Strokes)}
    result, troubles = [], []
    for moment in timeline.moments:
        index, kind = moment.sample(rate), moment.phase_kind
        if moment.kind is EventKind.CHIME and kind is not None:
            result.append(PlacedClip(index, chimes.phase(kind, moment.side), gains["phase"]))
        elif moment.kind is EventKind.TICK and kind is not None:
            if moment.block in strokes:  # here the listener follows the sound itself
                result.append(PlacedClip(index, stroke(kind, rate), gains["phase"]))
            else:
                result.append(PlacedClip(index, chimes.tick, gains["tick"]))
        elif moment.kind is EventKind.BELL:
            sound, room = chimes.bell, length - index
            if sound.shape[1] > room:
                troubles.append(_too_long(sound.shape[1] / rate, room / rate, float(moment.at)))
                sound = _faded(sound, room, rate)
            result.append(PlacedClip(index, sound, gains["bell"]))
    return result, tuple(troubles)


def _too_long(seconds: float, room: float, at: float) -> str:
    return (
        f"The end bell at {clock(at)} rings for {seconds:.1f} s and the session ends {room:.1f} s after it: it is "
        f"faded out early. Make the closing {seconds - room:.1f} s longer to keep its tail."
    )


def _faded(sound: Stereo, room: int, rate: int) -> Stereo:
    over = min(room, round(_FADES * rate))
    cut: Stereo = sound[:, :room].copy()
    if over:
        cut[:, room - over :] *= np.cos(np.pi / 2 * np.arange(over) / over).astype(np.float32) ** 2
    return cut
