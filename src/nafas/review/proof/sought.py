"""What must be heard in a master, and when: from the timeline, the cast and the chimes, never from the mix."""

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from nafas.sound.clip_track import PlacedClip, Sliced
from nafas.sound.mix.voice_chain import sounded
from nafas.sound.mix.voice_level import voice_gains
from nafas.sound.played import Played
from nafas.timing.timeline import EventKind, Moment
from nafas.voice.casting import Cast

_CHIMES = (EventKind.CHIME, EventKind.TICK, EventKind.BELL)
_AUDIBLE = 1e-4
"""Of full scale: a chime turned down below this is not to be heard."""


@dataclass(frozen=True, eq=False)
class Sought:
    """One sound that must be heard.

    Attributes:
        moment: what it is, and its exact time.
        samples: shape (n,) or (2, n), as it goes into the mix but for `gain`, linear.
        start: the sample of the file at which it should begin.
        beat: samples from there to the beat (of a cue), else 0.
        due: exact place of the beat, in samples.
        even: it may be alike from one of its waves to the next.
    """

    moment: Moment
    samples: NDArray[np.float32] | Sliced
    gain: float
    start: int
    beat: int
    due: Fraction
    even: bool = False

    @property
    def is_voice(self) -> bool:
        return bool(self.moment.text)

    @property
    def is_struck(self) -> bool:
        """Whether it is loudest at its beginning, as chimes are."""
        return self.moment.kind in _CHIMES

    @property
    def end(self) -> int:
        return self.start + self.samples.shape[-1]


def sought(cast: Cast, chimes: Iterable[PlacedClip], played: Iterable[Played] = ()) -> list[Sought]:
    """Everything that must be heard, in order of its start.

    Args:
        cast: what is said.
        chimes: chimes, ticks, strokes and bells, one for each such moment of the timeline, at the cast's rate.
        played: recordings of blocks, and sounds of breaths.
    """
    rate = cast.rate
    how = cast.timeline.session.voice_sound

    gain = voice_gains(cast.timeline, rate)

    def due(moment: Moment) -> Fraction:
        return Fraction(moment.tick * rate, moment.per_second)

    sounds = [
        Sought(p.moment, sounded(p.clip, how, rate), gain(p), p.start, p.target - p.start, due(p.moment))
        for p in cast.placements
    ]
    # Each chime is asked for by the moment at its sample: its place comes from the timeline, not from where it was put.
    rings = [m for m in cast.timeline.moments if m.kind in _CHIMES and (m.kind is EventKind.BELL or m.phase_kind)]
    for moment, ring in zip(rings, chimes):
        if ring.gain * float(np.abs(ring.samples[..., :]).max(initial=0.0)) > _AUDIBLE:
            sounds.append(Sought(moment, ring.samples, ring.gain, moment.sample(rate), 0, due(moment)))
    for each in played:
        clip, moment = each.clip, each.moment
        start = moment.sample(rate) - each.before
        sounds.append(Sought(moment, clip.samples, clip.gain, start, each.before, due(moment), each.even))
    return sorted(sounds, key=lambda each: each.start)
