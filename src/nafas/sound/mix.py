"""The mix: a cast and its session as sound, readable from any place, in blocks of any size.

Nothing here keeps state between reads: a block depends on its place alone. So Play starts anywhere at once, two cores
can share a render, and memory does not grow with length. Blocks are float32, shape (2, frames), full scale 1.0.
"""

from bisect import bisect_left
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from nafas.script.blocks import Strokes
from nafas.script.session import GeneratedBed, NightSea
from nafas.sound.chimes import bell, chime, stroke, tick
from nafas.sound.ducking import LevelLine, plan_ducking
from nafas.sound.night_sea import night_sea
from nafas.timing.timeline import EventKind, Timeline, to_sample
from nafas.voice.casting import Cast
from nafas.voice.level import SPEECH_LEVEL

if TYPE_CHECKING:
    from nafas.script.session import Bed

Block = NDArray[np.float32]

STEMS = ("voice", "chimes", "bed")


class Stems(NamedTuple):
    """The three parts of one block, each of shape (2, frames)."""

    voice: Block
    chimes: Block
    bed: Block

    def sum(self) -> Block:
        """The mix, before any master gain."""
        out: Block = self.voice + self.chimes
        out += self.bed
        return out


class Sound(NamedTuple):
    """One sound in its place: `samples` of shape (n,) for both sides or (2, n); `gain` linear."""

    start: int
    samples: NDArray[np.float32]
    gain: float = 1.0


class Track:
    """Sounds sorted by start, summed where they overlap."""

    def __init__(self, sounds: list[Sound]) -> None:
        self.sounds = sorted(sounds, key=lambda sound: sound.start)
        self._starts = [sound.start for sound in self.sounds]
        self._longest = max((sound.samples.shape[-1] for sound in self.sounds), default=0)

    def add_to(self, out: Block, start: int) -> None:
        """Add what sounds from sample `start` on to `out`, shape (2, frames)."""
        frames = out.shape[1]
        first = bisect_left(self._starts, start - self._longest)
        last = bisect_left(self._starts, start + frames)
        for sound in self.sounds[first:last]:
            begin = max(start, sound.start)
            end = min(start + frames, sound.start + sound.samples.shape[-1])
            if begin < end:
                piece = sound.samples[..., begin - sound.start : end - sound.start]
                out[:, begin - start : end - start] += piece if sound.gain == 1.0 else piece * np.float32(sound.gain)


class BedSound(Protocol):
    """An endless bed at `BED_LEVEL`, readable from any place by several threads at once."""

    def read(self, start: int, frames: int) -> Block: ...


@dataclass(frozen=True, eq=False)
class BedTrack:
    """The bed with its level line and its fades, both counted in samples of the session."""

    bed: BedSound
    level: LevelLine
    fade_in: int
    fade_out: int
    length: int

    def read(self, start: int, frames: int) -> Block:
        out = self.bed.read(start, frames)
        self.level.apply(out, start)
        self._fade(out, start)
        return out

    def _fade(self, out: Block, start: int) -> None:
        frames = out.shape[1]
        n = min(frames, self.fade_in - start)
        if n > 0:
            way = np.arange(start, start + n, dtype=np.float32) / self.fade_in
            out[:, :n] *= np.sin(np.pi / 2 * way) ** 2
        begin = max(start, self.length - self.fade_out)
        if begin < start + frames:
            left = (self.length - np.arange(begin, start + frames, dtype=np.float64)) / max(1, self.fade_out)
            out[:, begin - start :] *= (np.sin(np.pi / 2 * np.clip(left, 0, 1)) ** 2).astype(np.float32)


@dataclass(frozen=True, eq=False)
class Mix:
    """Everything that sounds in a session, at one rate. `length` is in frames."""

    rate: int
    length: int
    voice: Track
    chimes: Track
    bed: BedTrack | None
    cast: Cast = field(repr=False)

    def stems(self, start: int, frames: int) -> Stems:
        """The three stems from frame `start` on; silence outside the session."""
        voice = np.zeros((2, frames), np.float32)
        chimes = np.zeros((2, frames), np.float32)
        self.voice.add_to(voice, start)
        self.chimes.add_to(chimes, start)
        found = Stems(voice, chimes, self._bed(start, frames))
        over = start + frames - self.length
        if over > 0:
            for stem in found:
                stem[:, max(0, frames - over) :] = 0
        return found

    def read(self, start: int, frames: int) -> Block:
        """The sum of the stems, before any master gain; as `stems(...).sum()`, with less copying."""
        out = self._bed(start, frames)
        self.voice.add_to(out, start)
        self.chimes.add_to(out, start)
        over = start + frames - self.length
        if over > 0:
            out[:, max(0, frames - over) :] = 0
        return out

    def _bed(self, start: int, frames: int) -> Block:
        return np.zeros((2, frames), np.float32) if self.bed is None else self.bed.read(start, frames)


def bed_sound(choice: "Bed", rate: int, folder: Path) -> BedSound:
    """The bed a session chooses, at a rate; `folder` is where its file's path starts. Raises InputError."""
    choice = choice.model_copy(update={"under_voice": 0.0, "lift": 0.0})  # its sound is the same at every level
    if isinstance(choice, NightSea):
        return night_sea(choice, rate)
    if isinstance(choice, GeneratedBed):
        from nafas.sound.generated import generated_bed

        return generated_bed(choice, rate)
    from nafas.sound.file_bed import recorded_bed

    return recorded_bed((folder / choice.file.path).resolve(), choice, rate)


def build_mix(cast: Cast, folder: Path | None = None, with_bed: bool = True) -> Mix:
    """Lay out the sound of a cast: voice as placed, chimes and bell by the timeline, the bed under it all.

    Args:
        cast: what is said.
        folder: where the session's relative paths start.
        with_bed: False leaves the bed out, whatever the session says.

    Raises:
        InputError: the bed's file cannot be used.
    """
    timeline, rate = cast.timeline, cast.rate
    session = timeline.session
    length = to_sample(timeline.length, rate)
    voice = Track([Sound(p.start, p.clip.samples) for p in cast.placements])
    bed = None
    if session.bed is not None and with_bed:
        spans = [(p.start, p.end) for p in cast.placements]
        down = -session.bed.under_voice
        bed = BedTrack(
            bed=bed_sound(session.bed, rate, folder or Path()),
            level=plan_ducking(spans, rate, down, down + session.bed.lift),
            fade_in=max(to_sample(session.opening, rate), rate // 20),
            fade_out=max(to_sample(session.closing, rate), rate // 20),
            length=length,
        )
    return Mix(rate, length, voice, Track(_chimes(timeline, rate)), bed, cast)


def _chimes(timeline: Timeline, rate: int) -> list[Sound]:
    levels = timeline.session.chimes
    gains = {name: 10 ** ((SPEECH_LEVEL + getattr(levels, name)) / 20) for name in ("phase", "tick", "bell")}
    strokes = {block.id for block in timeline.session.blocks if isinstance(block, Strokes)}
    found = []
    for moment in timeline.moments:
        if moment.kind is EventKind.CHIME and moment.phase_kind is not None:
            found.append(
                Sound(moment.sample(rate), chime(moment.phase_kind, rate, moment.side, levels.family), gains["phase"])
            )
        elif moment.kind is EventKind.TICK and moment.phase_kind is not None:
            if moment.block in strokes:  # here the listener follows the sound itself
                found.append(Sound(moment.sample(rate), stroke(moment.phase_kind, rate), gains["phase"]))
            else:
                found.append(Sound(moment.sample(rate), tick(rate), gains["tick"]))
        elif moment.kind is EventKind.BELL:
            found.append(Sound(moment.sample(rate), bell(rate), gains["bell"]))
    return found
