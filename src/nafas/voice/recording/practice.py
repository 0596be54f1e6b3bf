"""The practice microphone: somebody reading a call sheet as people do, with the truth of it known.

A simulated device that ships, so that recording, cutting up and matching can be tried and tested without a studio: the
stand-in engine reads, and between the lines there are coughs, breaths, clicks, second tries, a skipped line now and
then, a level that drifts, hum and room noise.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from nafas.voice.clip import Samples
from nafas.voice.engines.engine import Engine
from nafas.voice.level import active_level, speech_bounds

RATE = 22_050
LEVEL = -26.0
"""dB RMS of speech, about."""


@dataclass(frozen=True)
class Spoken:
    """Something that sounds in a practice recording: which line (its place), or None for a cough; begin and end, s."""

    line: int | None
    start: float
    end: float


@dataclass(frozen=True)
class Manners:
    """How the reader behaves. Shares are per line, 0 to 1.

    Attributes:
        voice: of the engine.
        snr: dB of speech over the noise.
        hum: dB of mains hum under the speech.
        retake, skip, cough, breath, click: how often a line is read again, left out, or comes with a noise before it.
        later: how often one of the lines before is read again after a later one.
        wander: dB by which the level drifts.
        echo: seconds of reverberation (to 60 dB down); 0 for a dead room.
    """

    voice: str = "en-us"
    pace: int = 130
    snr: float = 30.0
    hum: float = 45.0
    retake: float = 0.1
    skip: float = 0.04
    cough: float = 0.06
    breath: float = 0.2
    click: float = 0.05
    later: float = 0.0
    wander: float = 4.0
    echo: float = 0.0


@dataclass(frozen=True, eq=False)
class PracticeRecording:
    """What the reader made: mono samples at `RATE`, and everything that was said in it, in order."""

    samples: Samples
    truth: tuple[Spoken, ...] = field(repr=False)


def practice_line(engine: Engine, text: str, manners: Manners, draw: np.random.Generator) -> Samples:
    """One reading of a line, trimmed close, at about `LEVEL`."""
    pace = round(manners.pace * draw.uniform(0.9, 1.12))
    samples, rate = engine.read(text, manners.voice, pace)
    if rate != RATE:
        import soxr

        samples = soxr.resample(samples, rate, RATE).astype(np.float32)
    begin, end = speech_bounds(samples, RATE, below_peak=30.0, margin=0.0)
    part = samples[begin:end]
    if not len(part):
        return np.zeros(RATE // 10, np.float32)
    gain = LEVEL - active_level(part, RATE) + draw.normal(0, 0.8)
    return (part * 10 ** (gain / 20)).astype(np.float32)


def practice_recording(
    engine: Engine, lines: Sequence[str], manners: Manners, seed: int, takes: int = 1
) -> PracticeRecording:
    """Read a call sheet from top to bottom, each line `takes` times in a row. The same seed, the same recording."""
    draw = np.random.default_rng(seed)
    parts: list[Samples] = [np.zeros(int(RATE * draw.uniform(1.0, 2.0)), np.float32)]
    truth: list[Spoken] = []
    at = len(parts[0])

    def put(sound: Samples, line: int | None, heard: bool = True) -> None:
        nonlocal at
        if heard:
            truth.append(Spoken(line, at / RATE, (at + len(sound)) / RATE))
        parts.append(sound)
        at += len(sound)

    def wait(low: float, high: float) -> None:
        put(np.zeros(int(RATE * draw.uniform(low, high)), np.float32), None, heard=False)

    for index, text in enumerate(lines):
        if draw.random() < manners.skip:
            continue
        for _ in range(takes + (draw.random() < manners.retake)):
            if draw.random() < manners.cough:
                put(cough(draw), None)
                wait(0.7, 1.2)
            if draw.random() < manners.click:
                put(click(draw), None, heard=False)
                wait(0.4, 0.8)
            if draw.random() < manners.breath:
                put(breath(draw), None, heard=False)
                wait(0.3, 0.5)
            put(practice_line(engine, text, manners, draw), index)
            wait(0.7, 1.5)
        if manners.later and index > 2 and draw.random() < manners.later:
            earlier = int(draw.integers(max(0, index - 6), index - 1))
            put(practice_line(engine, lines[earlier], manners, draw), earlier)
            wait(0.7, 1.5)
    dry = np.concatenate(parts)
    drift = np.interp(np.arange(len(dry)), np.linspace(0, len(dry), 6), draw.uniform(-1, 1, 6) * manners.wander / 2)
    wet = _reverberated(dry * 10 ** (drift / 20), manners.echo, draw)
    return PracticeRecording((wet + room(len(wet), manners, draw)).astype(np.float32), tuple(truth))


def room(frames: int, manners: Manners, draw: np.random.Generator) -> Samples:
    """Room noise, darker than white, and mains hum."""
    from scipy import signal

    white = draw.standard_normal(frames)
    noise = signal.lfilter([1.0], [1.0, -0.7], white)
    noise *= 10 ** ((LEVEL - manners.snr) / 20) / max(1e-9, float(np.sqrt(np.mean(noise**2))))
    t = np.arange(frames) / RATE
    hum = sum(np.sin(2 * np.pi * 50 * k * t + k) / k for k in (1, 2, 3, 5))
    return (noise + hum * 10 ** ((LEVEL - manners.hum) / 20)).astype(np.float32)


def _reverberated(dry: np.ndarray, seconds: float, draw: np.random.Generator) -> np.ndarray:
    if not seconds:
        return dry
    from scipy import signal

    n = int(seconds * RATE)
    tail = draw.standard_normal(n) * 10 ** (-3 * np.arange(n) / n) * 0.035
    tail[0] = 1.0
    return np.asarray(signal.fftconvolve(dry, tail)[: len(dry)])


def cough(draw: np.random.Generator) -> Samples:
    """A rough burst and its tail."""
    from scipy import signal

    n = int(RATE * draw.uniform(0.25, 0.45))
    t = np.arange(n) / RATE
    shape = np.exp(-t / 0.07) + 0.5 * np.exp(-(((t - 0.18) / 0.05) ** 2))
    band = signal.butter(2, [250, 2600], "bandpass", fs=RATE, output="sos")
    noise = signal.sosfilt(band, draw.standard_normal(n)) * shape
    return _levelled(noise, LEVEL + 2)


def breath(draw: np.random.Generator) -> Samples:
    """A quiet breath in."""
    from scipy import signal

    n = int(RATE * draw.uniform(0.3, 0.6))
    band = signal.butter(1, [700, 4000], "bandpass", fs=RATE, output="sos")
    noise = signal.sosfilt(band, draw.standard_normal(n)) * np.sin(np.linspace(0, np.pi, n)) ** 2
    return _levelled(noise, LEVEL - 26)


def click(draw: np.random.Generator) -> Samples:
    """A mouth click."""
    n = int(RATE * 0.008)
    return (draw.standard_normal(n) * np.hanning(n) * 10 ** ((LEVEL + 6) / 20)).astype(np.float32)


def _levelled(noise: np.ndarray, level: float) -> Samples:
    levelled: Samples = (noise * 10 ** (level / 20) / np.sqrt(np.mean(noise**2))).astype(np.float32)
    return levelled
