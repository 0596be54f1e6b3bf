"""The room before the first line: its noise, hum and echo, and how loud the reader comes in, from five seconds of
silence and one line; and what to do about it.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nafas.voice.clip import Samples
from nafas.voice.level import active_level, frame_levels, speech_bounds

SILENCE_SECONDS = 5.0
_CLIPPED = 4  # samples at full scale
_QUIET_ENOUGH, _LOUD_ROOM = (
    45.0,
    30.0,
)  # dB of the voice over the room: good; too little for a recording of a soft voice
_HUM = 12.0  # dB by which the mains' own tones stand out of what is next to them
_SOFT, _HOT = -40.0, -3.0  # dB full scale: a voice that is lost in the converter; peaks with no headroom
_ECHOING = 0.5  # seconds to 60 dB down
_FALL = (5.0, 25.0)  # dB under its end between which a decay is measured


@dataclass(frozen=True)
class RoomCheck:
    """What was measured. Levels in dB full scale.

    Attributes:
        noise: of the silent room, RMS.
        hum: mains frequency whose tones stand out, 50 or 60 Hz, or 0; `hum_level`: theirs together.
        voice, peak: of the line while it is spoken, RMS, and its highest sample.
        clipped: samples at full scale.
        echo: seconds the room takes to fall by 60 dB; None where the noise hides it.
    """

    noise: float
    hum: int
    hum_level: float
    voice: float
    peak: float
    clipped: int
    echo: float | None

    @property
    def over_noise(self) -> float:
        """dB of the voice over the room."""
        return self.voice - self.noise

    @property
    def advice(self) -> tuple[str, ...]:
        """What to do, the most pressing first; () where nothing is needed."""
        lines = []
        if self.clipped:
            lines.append("It clips: turn the microphone's gain down, or step back a hand's width")
        elif self.peak > _HOT:
            lines.append(f"Peaks reach {self.peak:.0f} dB: turn the gain down by {self.peak + 9:.0f} dB for headroom")
        if self.voice < _SOFT:
            lines.append(f"The voice comes in at {self.voice:.0f} dB: turn the gain up, or come nearer")
        over = f"{self.over_noise:.0f} dB"
        if self.over_noise < _LOUD_ROOM:
            lines.append(f"The voice stands only {over} over the room: switch off fans, close the window")
        elif self.over_noise < _QUIET_ENOUGH:
            lines.append(f"The room is audible ({over} under the voice): come nearer, or find a quieter one")
        if self.hum:
            lines.append(f"Hum at {self.hum} Hz and its multiples: another socket or cable, away from power supplies")
        if self.echo is not None and self.echo > _ECHOING:
            lines.append(f"The room rings for {self.echo:.1f} s: hang up blankets, or record among clothes")
        return tuple(lines)

    @property
    def words(self) -> str:
        """The figures in a line."""
        echo = "" if self.echo is None else f", echo {self.echo:.2f} s"
        hum = f", hum {self.hum} Hz at {self.hum_level:.0f} dB" if self.hum else ""
        return f"Room {self.noise:.0f} dB, voice {self.voice:.0f} dB, peak {self.peak:.0f} dB{hum}{echo}"


def check_room(silence: Samples, line: Samples, rate: int) -> RoomCheck:
    """Measure a room.

    Args:
        silence: the room with nobody speaking, mono, shape (n,); a second or more.
        line: a line with some of the room after it, mono, shape (m,).
        rate: samples a second, 8000 or more.
    """
    noise = _decibels(float(np.sqrt(np.mean(silence.astype(float) ** 2)))) if len(silence) else -120.0
    hum, hum_level = _hum(silence, rate)
    peak = _decibels(float(np.abs(line).max(initial=0.0)))
    clipped = int((np.abs(line) >= 0.999).sum())
    voice = active_level(line, rate) if len(line) else -120.0
    return RoomCheck(
        noise, hum, hum_level, voice, peak, clipped if clipped >= _CLIPPED else 0, _echo(line, rate, noise)
    )


def _decibels(amplitude: float) -> float:
    return 20 * float(np.log10(max(amplitude, 1e-6)))


def _hum(silence: Samples, rate: int) -> tuple[int, float]:
    """The mains frequency whose multiples stand out in silence, and their level; (0, -120) for none."""
    if len(silence) < rate:
        return 0, -120.0
    window = np.hanning(len(silence))
    power = np.abs(np.fft.rfft(silence * window)) ** 2 / (window**2).sum() * 2 / rate
    step = rate / len(silence)

    def band(low: float, high: float) -> NDArray[np.float64]:
        values: NDArray[np.float64] = power[max(1, int(low / step)) : int(high / step) + 1]
        return values

    best, level = 0, 0.0
    for mains in (50, 60):
        standing, total = 0, 0.0
        for tone in (mains * n for n in (1, 2, 3, 4, 6)):
            around = np.concatenate([band(tone - 9, tone - 3), band(tone + 3, tone + 9)])
            here = band(tone - 1.5, tone + 1.5)
            if 10 * np.log10((here.max() + 1e-20) / (np.median(around) + 1e-20)) > _HUM + 8:
                standing += 1
                total += float(here.sum()) * step
        if standing >= 2 and total > level:
            best, level = mains, total
    return best, 10 * float(np.log10(max(level, 1e-12)))


def _echo(line: Samples, rate: int, noise: float) -> float | None:
    """Seconds to fall by 60 dB, from how the sound falls after the line's last word; None where the noise is too near,
    or it falls too soon to be a room's.

    By the energy still to come (M. Schroeder, J. Acoust. Soc. Am. 37, 1965, 409-412), here of the line itself.
    """
    if len(line) < rate // 2:
        return None
    end = speech_bounds(line, rate, below_peak=12.0, margin=0.0)[1]
    tail = line[end : end + 2 * rate].astype(float)
    quiet_again = np.flatnonzero(frame_levels(tail.astype(np.float32), rate) < noise + 6)
    tail = tail[: int(quiet_again[0]) * max(1, round(rate / 100))] if len(quiet_again) else tail
    if len(tail) < rate // 12:
        return None
    quiet = 10 ** (noise / 10)
    to_come = np.cumsum((tail**2 - quiet)[::-1])[::-1]
    levels = 10 * np.log10(np.maximum(to_come, 1e-12) / max(float(to_come[0]), 1e-12))
    if frame_levels(line[:end], rate)[-1] - noise < _FALL[1] + 8:
        return None
    first, last = (int(np.argmax(levels < -fall)) for fall in _FALL)
    if not 0 < first < last:
        return None
    slope = float(np.polyfit(np.arange(first, last) / rate, levels[first:last], 1)[0])
    return -60 / slope if slope < -1 else None
