"""How a take sounds next to the others of its book: level, distance and pace; plosives and breaths in it. All by
measurement: a line recorded next week is to fit the one recorded today.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nafas.filters import butterworth
from nafas.voice.clip import Samples
from nafas.voice.level import active_level, frame_levels

_LEVEL, _TILT, _PACE = 3.0, 6.0, 0.3  # dB, dB, part: past which a take is told apart from its fellows (our own),
_SPREADS = 2.5  # if it is also so many times their spread: words differ in brightness among themselves
_FEWEST = 4  # takes that say what is usual
_POP = 9.0  # dB by which what is under 100 Hz stands over the voice's own low end in a burst
_GAP = 6  # frames of 10 ms, twice of which part no breath
_ROOM, _OVER_ROOM = 0.1, 8.0  # of a take's frames lie at or under its room; dB by which a breath stands out of it
_HISS = 3500.0  # Hz over which an "s" lies, and little of a breath
_BREATH = (0.2, 14.0, 42.0)  # seconds it lasts at least, dB it lies under the voice, between


@dataclass(frozen=True)
class TakeSound:
    """What a take sounds like.

    Attributes:
        level: dB RMS while it is spoken, as it came from the microphone.
        tilt: dB of 2 to 6 kHz over 150 to 800 Hz: less where one is further away or next to the microphone.
        plosives, breaths: seconds from its first sample at which one is heard.
    """

    level: float
    tilt: float
    plosives: tuple[float, ...]
    breaths: tuple[float, ...]


def take_sound(samples: Samples, rate: int) -> TakeSound:
    """Measure a take as it was recorded: mono, shape (n,), at 8000 samples a second or more."""
    if len(samples) < rate // 20:
        return TakeSound(-120.0, 0.0, (), ())
    spectra = np.abs(np.fft.rfft(_frames(samples, rate) * np.hanning(_size(rate)), axis=1)) ** 2
    frequency = np.fft.rfftfreq(_size(rate), 1 / rate)
    levels = frame_levels(samples, rate)
    loud = spectra[_loud(spectra)]

    def band(low: float, high: float) -> float:
        return float(loud[:, (frequency >= low) & (frequency < high)].sum()) + 1e-15

    tilt = 10 * float(np.log10(band(2000, min(6000, rate / 2)) / band(150, 800)))
    low, body = butterworth(samples, rate, 2, below=100), butterworth(samples, rate, 2, 120, 1000)
    pops = frame_levels(low.astype(np.float32), rate) - max(frame_levels(body.astype(np.float32), rate).max() - 6, -60)
    plosives = _runs(pops > _POP - 6, 0.01)
    shortest, above, below = _BREATH
    under = levels.max() - levels
    room = float(np.quantile(levels, _ROOM))
    airy = (under > above) & (under < below) & (levels > room + _OVER_ROOM) & ~_near(under < above, 4)
    airy = ~_near(~_near(airy, _GAP), _GAP)  # a breath that flickers is one
    breaths = [(begin, end) for begin, end in _runs(airy, shortest) if _is_air(samples, rate, begin, end)]
    return TakeSound(active_level(samples, rate), tilt, tuple(b for b, _ in plosives), tuple(b for b, _ in breaths))


def remarks(sound: TakeSound, usual: Sequence[TakeSound], pace: float | None = None) -> list[str]:
    """What sets a take apart, with what to do; [] where it fits.

    Args:
        sound: the take's.
        usual: those of the book's takes.
        pace: its length over that of the other takes of its line, or None where there are none.
    """
    lines = []
    if sound.plosives:
        lines.append(f"a plosive pops at {sound.plosives[0]:.2f} s: speak past the microphone, not into it")
    if len(usual) >= _FEWEST:
        level, far = _apart(sound.level, [each.level for each in usual], _LEVEL)
        tilt, dull = _apart(sound.tilt, [each.tilt for each in usual], _TILT)
        if dull and tilt < 0:
            lines.append(f"duller than the others by {-tilt:.0f} dB: as near, and as straight on, as before")
        elif dull:
            lines.append(f"brighter than the others by {tilt:.0f} dB: a little further, as before")
        if far:
            lines.append(
                f"{abs(level):.0f} dB {'softer' if level < 0 else 'louder'} than the others: keep your distance"
            )
    if pace is not None and abs(np.log(pace)) > np.log(1 + _PACE):
        lines.append(f"{'slower' if pace > 1 else 'faster'} than your others of this line, {pace:.2f} times as long")
    return lines


def _apart(value: float, usual: Sequence[float], least: float) -> tuple[float, bool]:
    """How far a value is from the middle of the usual ones, and whether that is more than they differ themselves."""
    away = value - float(np.median(usual))
    return away, abs(away) > max(least, _SPREADS * float(np.std(usual)))


def _size(rate: int) -> int:
    return max(64, round(0.03 * rate))


def _frames(samples: Samples, rate: int) -> np.ndarray:
    return np.lib.stride_tricks.sliding_window_view(samples, _size(rate))[:: max(1, rate // 100)]


def _loud(spectra: np.ndarray) -> np.ndarray:
    power = spectra.sum(axis=1)
    return np.asarray(power > 0.01 * power.max())


def _near(these: np.ndarray, frames: int) -> np.ndarray:
    """What is so many frames from where something is the case."""
    return np.convolve(these, np.ones(2 * frames + 1), "same") > 0


def _runs(these: np.ndarray, shortest: float) -> list[tuple[float, float]]:
    """Seconds of the stretches of 10 ms frames that last so long at least."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], these.astype(int), [0]])))
    return [(a / 100, b / 100) for a, b in zip(edges[::2], edges[1::2]) if (b - a) / 100 >= shortest]


def _is_air(samples: Samples, rate: int, begin: float, end: float) -> bool:
    """Whether a stretch is broad and has no voice: a breath, not the tail of a vowel, no hum and no "s"."""
    from nafas.voice.pitch import voiced_seconds

    part = samples[int(begin * rate) : int(end * rate)]
    power = np.abs(np.fft.rfft(part * np.hanning(len(part)))) ** 2
    frequency = np.fft.rfftfreq(len(part), 1 / rate)
    middle = float(power[(frequency > 500) & (frequency < 5000)].sum())
    hiss = float(power[frequency > _HISS].sum())
    return voiced_seconds(part, rate) < 0.03 and middle > max(hiss, 0.5 * float(power[frequency > 60].sum()))
