"""Generated beds: sea, rain, a low drone, a wash of bowls, a slow pad; endless, seeded, and the same every time.

Each is a few layers, each layer one loop without a seam: noise and tones made in the frequency domain, events placed
around the loop with their tails over its end. Layers of noise and events wander (`looped`), so that no band comes back
within a session; tones that sound throughout go round.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nafas.bounded_cache import bounded_cache
from nafas.script.model.beds import GeneratedBed
from nafas.sound.bed.kept import kept_loops
from nafas.sound.bed.looped import BED_LEVEL, LOOPS, LoopedBed, size_of_bed
from nafas.sound.bed.spectrum import at_frames, loop_power, noise, tones
from nafas.sound.bed.swells import swell, swelled
from nafas.sound.stereo import Stereo

_LOW_RATE = 12_000  # at which slow tones are summed: nothing of them lies over 5 kHz


@bounded_cache(LOOPS, size_of_bed)
def generated_bed(choice: GeneratedBed, rate: int) -> LoopedBed:
    """The bed at a sample rate, at `BED_LEVEL` LUFS while it is at its usual strength."""
    loops = kept_loops(choice, rate, lambda: _loops(choice, rate))
    return LoopedBed(loops, _WANDERING[choice.kind], choice.seed)


def _loops(choice: GeneratedBed, rate: int) -> tuple[Stereo, ...]:
    random = np.random.default_rng(choice.seed)
    layers = _MAKERS[choice.kind](choice, random, rate)
    power = sum(loop_power(loop, rate) for loop in layers)
    gain = np.float32(10 ** ((BED_LEVEL + 0.691) / 20) / np.sqrt(power))
    for loop in layers:
        loop *= gain
        loop.flags.writeable = False
    return tuple(layers)


def _high(choice: GeneratedBed, middle: float) -> float:
    """An upper edge in Hz, from an octave under its middle to one over it, by brightness."""
    return float(middle * 2 ** (2 * choice.brightness - 1))


def _waves(choice: GeneratedBed, usual: int) -> int:
    """How many swells fit a loop, from half as many to twice as many, by motion."""
    return max(1, round(usual * 4 ** (choice.motion - 0.5)))


def _sea(choice: GeneratedBed, random: np.random.Generator, rate: int) -> list[Stereo]:
    deep, waves = 0.35 + 0.6 * choice.depth, _waves(choice, 3)
    wash = noise(random, 23.0, rate, 60, _high(choice, 800), -1.0).sound()
    surge = noise(random, 19.0, rate, 120, _high(choice, 1800), -0.8).sound()
    foam = noise(random, 17.0, rate, 900, _high(choice, 5500), -0.5).sound()
    return [
        swelled(wash, 1.0, swell(random, waves, 0.6 * deep)),
        swelled(surge, 0.8, swell(random, waves, deep)),
        swelled(foam, 0.1 + 0.14 * choice.brightness, swell(random, max(1, waves - 1), deep)),
    ]


def _rain(choice: GeneratedBed, random: np.random.Generator, rate: int) -> list[Stereo]:
    body = noise(random, 23.0, rate, 400, _high(choice, 4500), -0.35).sound()
    swelled(body, 1.0, swell(random, _waves(choice, 2), 0.5 * choice.depth))
    low = noise(random, 19.0, rate, 90, 500, -0.8).sound()
    swelled(low, 0.35, swell(random, _waves(choice, 2), 0.6 * choice.depth))
    seconds = 17.0
    drops = np.zeros((2, int(seconds * rate)), np.float32)
    for _ in range(round(seconds * (20 + 60 * choice.motion))):
        pitch, lasts = random.uniform(1500, _high(choice, 6000)), random.uniform(0.002, 0.008)
        t = np.arange(int(6 * lasts * rate)) / rate
        drop = random.exponential(0.4) * np.sin(2 * np.pi * pitch * t) * np.exp(-t / lasts) * np.minimum(t / 0.0008, 1)
        _place(drops, drop, int(random.integers(drops.shape[1])), random.uniform(0.15, 0.85))
    return [body, low, 4.0 * drops]


def _drone(choice: GeneratedBed, random: np.random.Generator, rate: int) -> list[Stereo]:
    beat = _waves(choice, 1)
    bright = 0.15 + 0.85 * choice.brightness
    first = [(73.4, 1.0, beat), (110.0, 0.7, beat), (146.8, 0.4, beat), (220.0, 0.35 * bright, beat)]
    second = [(293.7, 0.3 * bright, beat), (440.0, 0.16 * bright, beat + 1), (587.3, 0.07 * bright, beat + 1)]
    below, above = tones(11.0, rate, first).sound(), tones(13.0, rate, second).sound()
    air = noise(random, 17.0, rate, 150, _high(choice, 900), -1.2).sound()
    return [
        swelled(below, 1.0, swell(random, 1, 0.4 * choice.depth)),
        swelled(above, 0.35 * bright, swell(random, 2, 0.7 * choice.depth)),
        swelled(air, 0.12, swell(random, _waves(choice, 2), choice.depth)),
    ]


def _bowls(choice: GeneratedBed, random: np.random.Generator, rate: int) -> list[Stereo]:
    layers = []
    # Partials of a struck bowl, by ear: ratio, level, decay in s.
    partials = ((1.0, 1.0, 9.0), (2.71, 0.5, 5.0), (5.15, 0.25, 2.6), (8.43, 0.1, 1.2))
    for seconds, pitches in ((43.0, (131.0, 196.5)), (37.0, (174.7, 262.0)), (31.0, (220.0,))):
        loop = np.zeros((2, int(seconds * _LOW_RATE)), np.float32)
        strikes = max(2, round(seconds * (0.05 + 0.14 * choice.motion)))
        for number in range(strikes):
            pitch = pitches[number % len(pitches)]
            t = np.arange(int(min(26.0, seconds - 1) * _LOW_RATE)) / _LOW_RATE
            wave = np.zeros_like(t)
            for ratio, level, decay in partials:
                loud = level * (1.0 if ratio < 2 else 0.4 + 1.2 * choice.brightness)
                for side in (-0.35, 0.35):
                    wave += loud * np.exp(-t / decay) * np.sin(2 * np.pi * (pitch * ratio + side) * t)
            wave *= np.minimum(t / 0.15, 1) ** 2 * (0.5 + 0.5 * random.random() * choice.depth)
            at = int((number + random.uniform(0.1, 0.9)) / strikes * loop.shape[1])
            _place(loop, wave, at, random.uniform(0.3, 0.7))
        layers.append(at_frames(loop, int(loop.shape[1] / _LOW_RATE * rate)))
    return layers


def _pad(choice: GeneratedBed, random: np.random.Generator, rate: int) -> list[Stereo]:
    """Four open chords that go over into each other, in two layers of different length."""
    layers = []
    chords = (
        (110.0, 164.8, 220.0, 246.9),
        (98.0, 146.8, 196.0, 246.9),
        (87.3, 130.8, 196.0, 220.0),
        (110.0, 164.8, 196.0, 261.6),
    )
    lasts = 16.0 * 2 ** (0.5 - choice.motion)
    for octave, level, stretch in ((1.0, 1.0, 1.0), (2.0, 0.25 + 0.35 * choice.brightness, 1.21)):
        each = lasts * stretch
        loop = np.zeros((2, int(4 * each * _LOW_RATE)), np.float32)
        t = np.arange(int(1.6 * each * _LOW_RATE)) / _LOW_RATE
        way = t / t[-1]
        shape = np.sin(np.pi * way) ** 2 * (1 - 0.5 * choice.depth * np.cos(4 * np.pi * way) ** 2)
        for number, chord in enumerate(chords):
            for pitch in chord:
                wave = np.zeros_like(t)
                for harmonic in range(1, 4 + round(4 * choice.brightness)):
                    detune = 1 + 0.0011 * random.standard_normal()
                    turn = 2 * np.pi * octave * pitch * harmonic * detune * t + random.uniform(0, 6.28)
                    wave += np.sin(turn) / harmonic**1.8
                _place(loop, level * wave * shape, int(number * each * _LOW_RATE), random.uniform(0.3, 0.7))
        layers.append(at_frames(loop, int(loop.shape[1] / _LOW_RATE * rate)))
    return layers


def _place(loop: Stereo, wave: NDArray[np.float64], at: int, side: float) -> None:
    """Add a sound to a loop, its end running on into the beginning; `side` from 0 (left) to 1, at equal power."""
    frames = loop.shape[1]
    gains = np.cos(np.pi / 2 * side), np.sin(np.pi / 2 * side)
    for channel, gain in enumerate(gains):
        done = 0
        while done < len(wave):
            begin = (at + done) % frames
            n = min(frames - begin, len(wave) - done)
            loop[channel, begin : begin + n] += (gain * wave[done : done + n]).astype(np.float32)
            done += n


_MAKERS: dict[str, Callable[[GeneratedBed, np.random.Generator, int], list[Stereo]]] = {
    "sea": _sea, "rain": _rain, "drone": _drone, "bowls": _bowls, "pad": _pad,
}  # fmt: skip
_WANDERING = {
    "sea": (True, True, True), "rain": (True, True, True), "drone": (False, False, True), "bowls": (True, True, True),
    "pad": (False, False),
}  # fmt: skip
