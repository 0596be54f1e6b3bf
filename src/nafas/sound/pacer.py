"""A breath that is heard as the pacer: air, or air in and a hum out, as long as each phase of breath itself.

Made by rule (our own, by ear): air is noise that opens as it comes in and closes as it goes out, a hum a soft tone with
its overtones. Nothing of it is kept but two loops of noise; a slice depends on its place alone.
"""

from functools import lru_cache
from types import EllipsisType
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nafas.script.model.blocks import BreathSet
from nafas.script.model.phase import PhaseKind
from nafas.sound.bed.looped import add_around
from nafas.sound.bed.spectrum import noise
from nafas.sound.clip_track import PlacedClip
from nafas.sound.played import Played
from nafas.sound.stereo import Stereo
from nafas.timing.timeline import EventKind, Timeline
from nafas.voice.level import SPEECH_LEVEL

_LOOP = 7.3  # seconds of noise: longer than most breaths, and no whole number of them
_BANDS = ((180.0, 900.0), (500.0, 4200.0))  # Hz of closed and of open air
_RISE = {PhaseKind.INHALE: (0.45, 0.25), PhaseKind.EXHALE: (0.2, 0.55)}
"""Parts of a phase over which its sound comes, and goes again: in swells to its end, out sinks from early on."""
_HUM = 132.0  # Hz
_PARTIALS = (1.0, 0.45, 0.22, 0.1, 0.05)
_VIBRATO = (4.6, 0.004)  # Hz, and part of the pitch
_GRID = 64  # samples between which its level goes straight


class _Shape(NamedTuple):
    kind: PhaseKind
    hums: bool
    rate: int
    begin: int  # in the noise


class PacedSound:
    """The sound of one phase: it has an array's shape, (2, n), and reads what is sliced of its last axis; its RMS is at
    most about 1."""

    def __init__(self, shape: _Shape, length: int) -> None:
        self._made, self.shape = shape, (2, length)

    def __getitem__(self, part: "tuple[EllipsisType, slice]") -> NDArray[np.float32]:
        """[..., begin:end], step 1."""
        begin, end, _ = part[1].indices(self.shape[1])
        out, kind = np.zeros((2, max(0, end - begin)), np.float32), self._made.kind
        grid = np.arange(begin // _GRID, -(-end // _GRID) + 1) * _GRID
        way = np.clip(grid / max(1, self.shape[1] - 1), 0, 1)
        loud, places = _loud(kind, way), np.arange(begin, end)
        if self._made.hums:
            out += self._tone(places) * np.interp(places, grid, loud)
            return out
        closed, opened = _noises(self._made.rate)
        turn = np.pi / 2 * (way if kind is PhaseKind.INHALE else 1 - way)
        for loop, share in ((closed, np.cos(turn)), (opened, np.sin(turn))):
            gains = np.interp(places, grid, loud * share).astype(np.float32)
            add_around(out, loop, (begin + self._made.begin) % loop.shape[1], gains)
        return out

    def _tone(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        t = places / self._made.rate
        speed, depth = _VIBRATO
        phase = 2 * np.pi * _HUM * (t - depth * np.cos(2 * np.pi * speed * t) / (2 * np.pi * speed))
        before, now, twice = np.zeros(len(t)), np.sin(phase), 2 * np.cos(phase)
        wave = np.zeros(len(t))
        for level in _PARTIALS:  # sin((n + 1) x) = 2 cos x sin(n x) - sin((n - 1) x)
            wave += level * now
            before, now = now, twice * now - before
        wave /= np.sqrt(sum(level**2 for level in _PARTIALS) / 2)
        return wave


def _loud(kind: PhaseKind, way: NDArray[np.float64]) -> NDArray[np.float64]:
    """How loud a breath is on its way through its phase, 0 to 1; 0 at both ends."""
    rises, sinks = _RISE[kind]
    shares = np.stack([way / rises, (1 - way) / sinks])
    loud: NDArray[np.float64] = np.prod(np.sin(np.pi / 2 * np.clip(shares, 0, 1)) ** 2, axis=0)
    return loud


@lru_cache(maxsize=4)
def _noises(rate: int) -> tuple[Stereo, Stereo]:
    """Closed and open air, a loop of RMS 1 each."""
    random = np.random.default_rng(11)
    loops = [noise(random, _LOOP, rate, low, high, -0.4).sound() for low, high in _BANDS]
    closed, opened = (np.asarray(loop / np.sqrt(np.mean(loop**2)), np.float32) for loop in loops)
    return closed, opened


def plan_pacer(timeline: Timeline, rate: int) -> list[Played]:
    """The sound of every phase of breath, in and out, of the sets that have one; [] where the session has none."""
    chimes = timeline.session.chimes
    heard = {b.id for b in timeline.session.blocks if isinstance(b, BreathSet) and b.pacer}
    if chimes.pacer == "none":
        return []
    gain = float(10 ** ((SPEECH_LEVEL + chimes.pacer_level) / 20))
    played: list[Played] = []
    for moment in timeline.moments:
        kind = moment.phase_kind
        if moment.kind is not EventKind.PHASE or kind not in _RISE or moment.block not in heard:
            continue
        start = moment.sample(rate)
        end = (2 * (moment.tick + moment.span) * rate + moment.per_second) // (2 * moment.per_second)
        hums = chimes.pacer == "hum" and kind is PhaseKind.EXHALE
        shape = _Shape(kind, hums, rate, len(played) * 10_007)
        played.append(Played(moment, PlacedClip(start, PacedSound(shape, end - start), gain), 0, False, hums))
    return played
