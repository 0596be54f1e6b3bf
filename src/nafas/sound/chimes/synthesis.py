"""Synthesised chimes: in each family one timbre for each phase kind, told apart with eyes closed; ticks, strokes, bell.

Tones: rising for in, falling for out, a soft wooden knock for a hold (the lower one for an empty hold). Bowls, wood and
water drops keep the same order: high and rising for in, low and falling for out, the holds between and below. Attacks
are eased over 8 ms or more so that none startles. Every sound is stereo float32, shape (2, n), and levelled so that its
loudest 100 ms has an RMS of 0 dB full scale; the mix sets the level it is heard at.
"""

from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray

from nafas.script.model.phase import PhaseKind, Side
from nafas.script.model.session import BELL_RINGS

Stereo = NDArray[np.float32]

PANNED = 10 ** (-9 / 20)
"""What the far side keeps of a chime that belongs to one side: heard from there, and still whole on one loudspeaker."""


@cache
def chime(kind: PhaseKind, rate: int, side: Side | None = None, family: str = "tones") -> Stereo:
    """The chime of a phase kind in a family, towards one side where the breath goes through one."""
    return panned(_of_family(kind, rate, family), side)


def panned(sound: Stereo, side: Side | None) -> Stereo:
    """A sound towards one side; as it is where there is none."""
    if side in (Side.LEFT, Side.RIGHT):
        # The same power as in the middle, so that neither side is louder.
        near = np.sqrt(2 - PANNED**2)
        sides = (near, PANNED) if side is Side.LEFT else (PANNED, near)
        sound = sound * np.array(sides, np.float32)[:, None]
        sound.flags.writeable = False
    return sound


@cache
def tick(rate: int) -> Stereo:
    """A soft tick in the place of a count word."""
    return _wood(rate, 880.0)


@cache
def stroke(kind: PhaseKind, rate: int) -> Stereo:
    """A stroke of rapid breathing: a short puff of air, darker out than in. The same every time."""
    low, high = (900.0, 5200.0) if kind is PhaseKind.INHALE else (250.0, 2400.0)
    n = int(0.16 * rate)
    spectrum = np.fft.rfft(np.random.default_rng(7).standard_normal(n))
    frequency = np.fft.rfftfreq(n, 1 / rate)
    band = np.exp(-((np.log(np.maximum(frequency, 1) / np.sqrt(low * high)) / np.log(high / low)) ** 2) * 4)
    wave = np.fft.irfft(spectrum * band, n) * np.exp(-np.arange(n) / rate / 0.035)
    return levelled(np.array([wave, wave]), rate, attack=0.01)


@cache
def _of_family(kind: PhaseKind, rate: int, family: str) -> Stereo:
    return FAMILIES[family](kind, rate)


_BOWLS = dict(zip(PhaseKind, (523.3, 392.0, 293.7, 196.0)))
# Two knocks of wood: rising, alike, falling, alike and low.
_KNOCKS = dict(zip(PhaseKind, ((440.0, 660.0), (523.3, 523.3), (440.0, 293.7), (220.0, 220.0))))
# A drop of water glides up, or down, between two pitches; a hold has two.
_DROPS = dict(zip(PhaseKind, ((700.0, 1500.0, 1), (880.0, 1100.0, 2), (950.0, 420.0, 1), (420.0, 520.0, 2))))


def _bowl(kind: PhaseKind, rate: int) -> Stereo:
    """A small struck bowl: its partials, by ear, each with a slow beat."""
    pitch, decay = _BOWLS[kind], 1.1 if kind.is_hold else 2.2
    t = np.arange(int(2.4 * rate)) / rate
    partials = ((1.0, 1.0, decay, 0.8), (2.71, 0.4, 0.6 * decay, 0.8), (5.15, 0.12, 0.3 * decay, 0.8))
    return levelled(_struck(t, pitch, partials), rate, attack=0.015)


def _struck(t: NDArray[np.float64], pitch: float, partials: tuple[tuple[float, ...], ...]) -> NDArray[np.float64]:
    """Partials of a struck bowl: (ratio, level, decay in s, beat in Hz) each.

    What beats against the middle lies a little to one side, in the same phase on both: one loudspeaker loses nothing.
    """
    sides = np.zeros((2, len(t)))
    for ratio, level, decay, beat in partials:
        fading = level * np.exp(-t / decay)
        sides += fading * np.sin(2 * np.pi * (pitch * ratio - beat / 2) * t)
        second = fading * np.sin(2 * np.pi * (pitch * ratio + beat / 2) * t)
        sides += np.array([[0.2], [0.5]]) * second
    return sides


def _knocks(kind: PhaseKind, rate: int) -> Stereo:
    """Two muffled knocks, a sixth of a second apart."""
    first, then = _KNOCKS[kind]
    gap, one, two = int(0.16 * rate), _wood(rate, first), _wood(rate, then)
    both = np.zeros((2, gap + two.shape[1]))
    both[:, : one.shape[1]] += 0.8 * one
    both[:, gap:] += two
    return levelled(both, rate, attack=0.008)


def _drop(kind: PhaseKind, rate: int) -> Stereo:
    """A drop of water: a short tone whose pitch runs away, with a little of its echo."""
    begin, end, times = _DROPS[kind]
    t = np.arange(int(0.14 * rate)) / rate
    phase = 2 * np.pi * np.cumsum(begin * (end / begin) ** (t / t[-1])) / rate
    one = np.sin(phase) * np.minimum(t / 0.012, 1) * np.exp(-t / 0.05)
    wave = np.zeros((2, int(0.9 * rate)))
    for number in range(times):
        for echo, level in ((0.0, 1.0), (0.11, 0.22), (0.23, 0.08)):
            at = int((0.19 * number + echo) * rate)
            wave[:, at : at + len(one)] += level * one
    return levelled(wave, rate, attack=0.01)


@cache
def _chime(kind: PhaseKind, rate: int) -> Stereo:
    if kind is PhaseKind.INHALE:
        return _gliding(rate, 440.0, 660.0)
    if kind is PhaseKind.EXHALE:
        return _gliding(rate, 587.3, 391.9)
    return _wood(rate, 520.0 if kind is PhaseKind.HOLD_FULL else 330.0)


FAMILIES: dict[str, Callable[[PhaseKind, int], Stereo]] = {
    "tones": _chime, "bowls": _bowl, "wood": _knocks, "drops": _drop,
}  # fmt: skip
"""What makes a chime of each of `CHIME_FAMILIES`; a test holds the two tables together."""


@cache
def bell(rate: int) -> Stereo:
    """The end bell: a struck bowl that rings for nine seconds."""
    t = np.arange(int(BELL_RINGS * rate)) / rate
    # Partials of a struck bowl, by ear: (ratio, level, decay in s, beat in Hz).
    partials = [(1.0, 1.0, 3.2, 0.7), (2.71, 0.5, 2.0, 1.1), (5.15, 0.22, 1.1, 1.7), (8.43, 0.08, 0.6, 0.0)]
    # At nine seconds it is still loud enough to be missed: it dies away, and is not cut off.
    return levelled(_struck(t, 262.0, tuple(partials)), rate, attack=0.02, release=4.5)


def _gliding(rate: int, begin: float, end: float) -> Stereo:
    """A soft tone that glides from one pitch to another in 0.45 s and dies away."""
    t = np.arange(int(1.6 * rate)) / rate
    way = 0.5 - 0.5 * np.cos(np.pi * np.minimum(t / 0.45, 1))
    phase = 2 * np.pi * np.cumsum(begin * (end / begin) ** way) / rate
    shape = np.minimum(t / 0.06, 1) * np.exp(-np.maximum(t - 0.35, 0) / 0.28)
    left = np.sin(phase) + 0.25 * np.sin(2 * phase + 0.3) + 0.06 * np.sin(3 * phase)
    right = np.sin(phase + 0.25) + 0.25 * np.sin(2 * phase + 0.8) + 0.06 * np.sin(3 * phase)
    return levelled(np.array([left, right]) * shape, rate, attack=0.03)


def _wood(rate: int, pitch: float) -> Stereo:
    """A muffled knock on wood."""
    t = np.arange(int(0.5 * rate)) / rate
    parts = ((1.0, 1.0, 0.055), (2.57, 0.35, 0.025), (4.2, 0.12, 0.012))
    wave = sum(level * np.exp(-t / decay) * np.sin(2 * np.pi * pitch * ratio * t) for ratio, level, decay in parts)
    return levelled(np.array([wave, wave]), rate, attack=0.008)


def levelled(wave: NDArray[np.float64], rate: int, attack: float, release: float = 0.05) -> Stereo:
    """A sound of shape (2, n), its loudest 100 ms at 0 dB, its beginning eased over `attack` seconds and its end over
    `release`, at most a half of it."""
    n = int(attack * rate)
    wave = wave.copy()
    wave[:, :n] *= np.sin(np.linspace(0, np.pi / 2, n)) ** 2
    tail = min(int(release * rate), wave.shape[1] // 2)
    wave[:, -tail:] *= np.cos(np.linspace(0, np.pi / 2, tail)) ** 2
    hop = min(rate // 10, wave.shape[1])
    whole = wave[:, : wave.shape[1] // hop * hop]
    power = (whole.reshape(2, -1, hop) ** 2).mean(axis=(0, 2)).max()
    sound: Stereo = (wave / np.sqrt(power)).astype(np.float32)
    sound.flags.writeable = False
    return sound
