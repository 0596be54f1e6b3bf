"""The mix: a cast and its session as sound, readable from any place, in blocks of any size.

Nothing here keeps state between reads: a block depends on its place alone. So Play starts anywhere at once, two cores
can share a render, and memory does not grow with length. Blocks are float32, shape (2, frames), full scale 1.0.
"""

from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import ClassVar, NamedTuple

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError
from nafas.script.model.session import Session
from nafas.sound.bed.plan import bed_sound, plan_beds
from nafas.sound.bed.track import BedTrack
from nafas.sound.chimes.plan import plan_chimes
from nafas.sound.chimes.synthesis import bell
from nafas.sound.clip_track import PlacedClip, Track
from nafas.sound.mix.voice_chain import sounded
from nafas.sound.mix.voice_level import voice_gains
from nafas.sound.pacer import plan_pacer
from nafas.sound.played import Played, plan_played
from nafas.timing.timeline import to_sample
from nafas.voice.casting import Cast, cast_session

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


@dataclass(frozen=True, eq=False)
class Mix:
    """Everything that sounds in a session, at one rate, in two channels.

    Attributes:
        length: in frames.
        recordings: what its blocks play, heard with the voice.
        pacer: sounds of breaths, heard with the chimes.
        troubles: what of it cannot sound as it is written, each with its remedy.
    """

    rate: int
    length: int
    voice: Track
    chimes: Track
    bed: BedTrack | None
    cast: Cast = field(repr=False)
    recordings: tuple[Played, ...] = ()
    pacer: tuple[Played, ...] = ()
    troubles: tuple[str, ...] = ()
    channels: ClassVar = 2

    @property
    def forkable(self) -> bool:
        """Whether forked processes may read it side by side."""
        return self.bed is None or not self.bed.keeps

    def stems(self, start: int, frames: int) -> Stems:
        """The three stems from frame `start` on; silence outside the session."""
        voice = np.zeros((2, frames), np.float32)
        chimes = np.zeros((2, frames), np.float32)
        self.voice.add_to(voice, start)
        self._recordings.add_to(voice, start)
        self.chimes.add_to(chimes, start)
        self._pacer.add_to(chimes, start)
        stems_ = Stems(voice, chimes, self._bed(start, frames))
        over = start + frames - self.length
        if over > 0:
            for stem in stems_:
                stem[:, max(0, frames - over) :] = 0
        return stems_

    def read(self, start: int, frames: int) -> Block:
        """The sum of the stems, before any master gain; as `stems(...).sum()`, with less copying."""
        out = self._bed(start, frames)
        self.voice.add_to(out, start)
        self._recordings.add_to(out, start)
        self.chimes.add_to(out, start)
        self._pacer.add_to(out, start)
        over = start + frames - self.length
        if over > 0:
            out[:, max(0, frames - over) :] = 0
        return out

    @cached_property
    def _recordings(self) -> Track:
        return Track([played.clip for played in self.recordings])

    @cached_property
    def _pacer(self) -> Track:
        return Track([played.clip for played in self.pacer])

    def _bed(self, start: int, frames: int) -> Block:
        return np.zeros((2, frames), np.float32) if self.bed is None else self.bed.read(start, frames)


def cast_with_sounds(session: Session, folder: Path, rate: int = 48_000) -> Cast:
    """`cast_session`, while the session's beds and its bell are made or measured on another thread: `build_mix` finds
    them done, and says what is at fault with them."""
    with ThreadPoolExecutor(1) as meanwhile:
        meanwhile.submit(_prepare_sounds, session, rate, folder)
        return cast_session(session, folder, rate)


def _prepare_sounds(session: Session, rate: int, folder: Path) -> None:
    changes = [block.bed.change for block in session.blocks if block.bed is not None]
    beds = {bed for bed in (session.bed, *changes) if bed is not None}
    for bed in beds:
        with suppress(InputError):
            bed_sound(bed, rate, folder)
    if session.chimes.own.bell is None:
        bell(rate)


def build_mix(cast: Cast, folder: Path | None = None, strict: bool = True) -> Mix:
    """Lay out the sound of a cast: voice as placed, chimes and bell by the timeline, the bed under it all.

    Args:
        cast: what is said.
        folder: where the session's relative paths start.
        strict: False goes on without what cannot be used, and says so in the mix's troubles.

    Raises:
        InputError: the file of a bed or a chime cannot be used, and `strict`.
    """
    timeline, rate = cast.timeline, cast.rate
    length = to_sample(timeline.length, rate)
    how = timeline.session.voice_sound
    gain = voice_gains(timeline, rate)
    voice = Track([PlacedClip(p.start, sounded(p.clip, how, rate), gain(p)) for p in cast.placements])
    troubles: list[str] = []
    lost = None if strict else troubles.append
    played, unplaced = plan_played(timeline, rate, length, folder or Path(), lost)
    spans = [(p.start, p.end) for p in cast.placements]
    spans += [(p.clip.start, p.clip.start + p.clip.samples.shape[-1]) for p in played if p.makes_room]
    bed = plan_beds(timeline, sorted(spans), rate, length, folder or Path(), lost)
    chimes, cut = plan_chimes(timeline, rate, length, folder or Path(), lost)
    pacer = tuple(plan_pacer(timeline, rate))
    return Mix(rate, length, voice, Track(chimes), bed, cast, tuple(played), pacer, (*troubles, *unplaced, *cut))
