"""What a proof says: where every sound that was sought lies, what is at fault, how loud the file is."""

import math
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.review.proof.levels import Tolerance
from nafas.sound.meters.measure import Measured
from nafas.timing.timeline import EventKind, Moment

_LIMITED = 4.0  # standard deviations of a chime's own place that it may lie next to it


class FaultKind(StrEnum):
    """What can be wrong with a finished file."""

    LENGTH = "length"
    CHANNELS = "channels"
    SHIFT = "shift"
    FOREIGN = "another sound"
    MISSING = "missing"
    OFF_PLACE = "off its place"
    EXTRA = "too much"
    GAP = "gap"
    SWAPPED = "swapped"
    GAIN = "gain"
    LOUDNESS = "loudness"
    PEAK = "peak"
    CLIPPED = "clipped"


_OTHER_FILE = "name the session that this recording is of, as it was when it was rendered"
_CUT = "encode the whole master again, and let no program cut, join or move it"
_LEVELS = "encode the master again without any processing; where the format itself loses it, at a higher bit rate"
_AGAIN = "render it again, and compare it with the session"
REMEDIES = {
    FaultKind.FOREIGN: _OTHER_FILE,
    FaultKind.LENGTH: _CUT,
    FaultKind.SHIFT: _CUT,
    FaultKind.CHANNELS: "render it with the channels that the session asks for",
    FaultKind.SWAPPED: "take the master as it is: left, right, neither turned round",
    FaultKind.GAIN: _LEVELS,
    FaultKind.LOUDNESS: _LEVELS,
    FaultKind.PEAK: _LEVELS,
    FaultKind.CLIPPED: _LEVELS,
}
"""What to do about a fault; of any other kind `_AGAIN`."""


@dataclass(frozen=True)
class Fault:
    """Something wrong, said in whole words; `at` and `end` in seconds where it has a place."""

    kind: FaultKind
    text: str
    at: float | None = None
    end: float | None = None

    def __str__(self) -> str:
        return self.text


_NAMES = {
    EventKind.BELL: "end bell", EventKind.TICK: "tick", EventKind.RECORDING: "recording", EventKind.PHASE: "breath",
}  # fmt: skip


@dataclass(frozen=True)
class CueMatch:
    """Where one sound landed.

    Attributes:
        moment: what was sought; `address` where in the script, for people.
        found: the sample its beat (or start) was found on, or None.
        error: samples, found minus exact due time; None where it was not found.
        spread: standard deviation of `found`, in samples, as the mixture allows.
        ratio: its loudness over that of all (1.0: as loud as the others).
    """

    moment: Moment
    address: str
    found: int | None
    error: float | None
    spread: float = 0.0
    ratio: float = 0.0

    @property
    def is_voice(self) -> bool:
        return bool(self.moment.text)

    @property
    def name(self) -> str:
        """What it is, in a word or two."""
        if self.is_voice:
            return self.moment.text
        return _NAMES.get(self.moment.kind, "chime")


@dataclass(frozen=True, eq=False)
class Proof:
    """A file, judged.

    Attributes:
        path: the file; `sha256` of its bytes, in hexadecimal.
        rate, frames, channels: as decoded.
        tolerance: of its format.
        matches: every cue, chime and bell, in order of time.
        faults: what is wrong, the gravest first; () where it holds.
        measured: of the decoded file; `target` in LUFS and `ceiling` in dBTP as the session asks for.
        session_sum: SHA-256 of the session's text.
        title: the session's.
    """

    path: Path
    sha256: str
    rate: int
    frames: int
    channels: int
    tolerance: Tolerance
    matches: tuple[CueMatch, ...]
    faults: tuple[Fault, ...]
    measured: Measured = field(repr=False)
    target: float
    ceiling: float
    session_sum: str = ""
    title: str = ""

    @property
    def cues(self) -> tuple[CueMatch, ...]:
        """What is spoken."""
        return tuple(match for match in self.matches if match.is_voice)

    @property
    def chimes(self) -> tuple[CueMatch, ...]:
        """Chimes, ticks, strokes, bells, recordings and sounds of breaths."""
        return tuple(match for match in self.matches if not match.is_voice)

    @cached_property
    def errors(self) -> NDArray[np.float64]:
        """Absolute errors of the cues found, in samples."""
        return np.array([abs(match.error) for match in self.cues if match.error is not None])

    @property
    def worst(self) -> float | None:
        """Largest absolute error of a cue in samples, or None when nothing was found."""
        return float(self.errors.max()) if len(self.errors) else None

    @property
    def mean(self) -> float | None:
        """Mean absolute error of the cues in samples, or None when nothing was found."""
        return float(self.errors.mean()) if len(self.errors) else None

    @property
    def missing(self) -> tuple[CueMatch, ...]:
        """What was not found near its time."""
        return tuple(match for match in self.matches if match.found is None)

    @property
    def remedy(self) -> str:
        """What to do about the gravest fault; "" where it holds."""
        return REMEDIES.get(self.faults[0].kind, _AGAIN) if self.faults else ""

    @property
    def holds(self) -> bool:
        """Nothing is at fault: every sound in its place, all of it there, at its level."""
        return not self.faults

    def allowed(self, match: CueMatch) -> float:
        """Samples that a sound may lie off its exact time: half a sample, the codec's own, and for a chime, whose
        few partials say less of its place, what the mixture leaves open."""
        chime = 0.0 if match.is_voice else math.ceil(_LIMITED * match.spread)
        return 0.5 + self.tolerance.place + chime
