"""Beds: what sounds under the voice, and how it makes room for it."""

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from nafas.script.model.assets import Asset
from nafas.script.model.phase import Model

SLOWEST, FASTEST = 0.92, 1.08
"""How far a bed's pace may be changed, its pitch kept: past an eighth of this more it is heard (common practice, no
source)."""


class _Bed(Model):
    """How loud a bed is.

    Attributes:
        under_voice: LU under the voice while it speaks.
        lift: dB it comes up when the voice is away.
        swell: dB between a full breath and an empty one; 0: it does not follow the breath.
    """

    under_voice: Annotated[float, Field(ge=0, le=40)] = 14.0
    lift: Annotated[float, Field(ge=0, le=20)] = 5.0
    swell: Annotated[float, Field(ge=0, le=12)] = 0.0


_Share = Annotated[float, Field(ge=0, le=1)]
Seed = Annotated[int, Field(ge=0, le=2**31 - 1, strict=True)]


class NightSea(_Bed):
    """The generated bed: sea at night over a low drone."""

    kind: Literal["night-sea"] = "night-sea"
    seed: Seed = 1


class GeneratedBed(_Bed):
    """A bed made by rule: the same seed and controls, the same sound.

    Attributes:
        kind: sea, rain, a low drone, a wash of struck bowls, a slow pad of chords.
        depth: how far it rises and falls.
        brightness: how much of it lies high.
        motion: how quickly it changes.
    """

    kind: Literal["sea", "rain", "drone", "bowls", "pad"]
    seed: Seed = 1
    depth: _Share = 0.5
    brightness: _Share = 0.5
    motion: _Share = 0.5


class BeatGrid(Model):
    """The beat of a recording, as measured or set by hand.

    Attributes:
        bpm: beats a minute, as recorded.
        first: where one of its beats is, in seconds of the recording.
        bar: beats in a bar.
    """

    bpm: Annotated[float, Field(ge=20, le=300)]
    first: Annotated[float, Field(ge=0, le=86400)] = 0.0
    bar: Annotated[int, Field(ge=1, le=16, strict=True)] = 4

    @property
    def seconds(self) -> float:
        """From beat to beat, as recorded."""
        return 60 / self.bpm


class FileBed(_Bed):
    """A recording as bed, repeated where it is shorter than the session.

    Attributes:
        file: the recording.
        begin, end: what of it is used, in seconds of the recording; None: to its end.
        crossfade: seconds over which its end goes over into its beginning.
        find_seam: the end is moved to where it goes over best.
        pulse: its beat; None: it has none, or is not to agree with the count.
        pace: how much faster it plays than it was recorded, at the same pitch.
        on_counts: with a pulse, it begins so that a beat falls on the first count.
        follows: it slows down and quickens as the counts do, as far as a pace may be changed.
    """

    kind: Literal["file"] = "file"
    file: Asset
    begin: Annotated[float, Field(ge=0, le=86400)] = 0.0
    end: Annotated[float, Field(gt=0, le=86400)] | None = None
    crossfade: Annotated[float, Field(ge=0.05, le=30)] = 4.0
    find_seam: bool = True
    pulse: BeatGrid | None = None
    pace: Annotated[float, Field(ge=SLOWEST, le=FASTEST)] = 1.0
    on_counts: bool = True
    follows: bool = False

    @model_validator(mode="after")
    def _ends_after_it_begins(self) -> "FileBed":
        if self.end is not None and self.end <= self.begin:
            raise ValueError("a bed ends after it begins; write a later end")
        return self


def _usual_kind(bed: object) -> object:
    """A bed that does not say its kind is the sea at night: it was the only one once."""
    return {"kind": "night-sea", **bed} if isinstance(bed, dict) and "kind" not in bed else bed


Bed = Annotated[NightSea | GeneratedBed | FileBed, Field(discriminator="kind"), BeforeValidator(_usual_kind)]


class Ducking(Model):
    """When a bed makes room for the voice, in seconds; by how much is said of each bed.

    Attributes:
        lead: before a word it starts down.
        hold: gaps between words shorter than this keep it down, so that it does not pump.
        release: after the last word it is up again.
        crossfade: over which one bed goes over into another, or comes and goes with a block.
    """

    lead: Annotated[float, Field(ge=0.05, le=5)] = 0.8
    hold: Annotated[float, Field(ge=0, le=30)] = 4.0
    release: Annotated[float, Field(ge=0.1, le=20)] = 2.5
    crossfade: Annotated[float, Field(ge=0.1, le=60)] = 6.0


BED_NAMES = {
    "night-sea": "sea at night", "sea": "sea by day", "rain": "rain", "drone": "low drone", "bowls": "wash of bowls",
    "pad": "slow chords", "file": "a recording",
}  # fmt: skip
"""What to call each kind of bed."""


class BlockBed(Model):
    """What a block does with the bed.

    Attributes:
        on: whether it sounds in this block.
        level: dB by which it is louder in this block.
        change: another bed, from this block on.
    """

    on: bool = True
    level: Annotated[float, Field(ge=-40, le=12)] = 0.0
    change: Bed | None = None

    @property
    def words(self) -> str:
        """The same in a few words, "" where it does nothing: "no bed", "bed -3 dB, rain from here on"."""
        result = [] if self.on else ["no bed"]
        if self.on and self.level:
            result.append(f"bed {self.level:+g} dB".replace("-", "\N{MINUS SIGN}"))
        if self.change is not None:
            result.append(f"{BED_NAMES[self.change.kind]} from here on")
        return ", ".join(result)
