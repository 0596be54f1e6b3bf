"""A made-up recording with a beat: a ship's engine, slow, under two chords. For pictures and the bench."""

from pathlib import Path

import numpy as np
import soundfile

_CHORDS = (110.0, 164.8, 220.0, 246.9), (98.0, 146.8, 196.0, 246.9)
_CHORD_SECONDS = 32.0


def pulse_bed(path: Path, seconds: float = 95.0, bpm: float = 62.0, rate: int = 44_100) -> None:
    """Write it as stereo; the first stroke is 0.41 s after its beginning, every fourth is stronger."""
    t = np.arange(int(seconds * rate)) / rate
    out = np.zeros((len(t), 2), np.float32)
    for number, chord in enumerate(_CHORDS):
        level = 0.05 * (0.5 - 0.5 * np.cos(2 * np.pi * t / _CHORD_SECONDS + np.pi * number))
        for pitch in chord:
            for side in (0, 1):
                out[:, side] += level * np.sin(2 * np.pi * pitch * t + pitch + 0.7 * side)
    u = np.arange(int(0.4 * rate)) / rate
    stroke = np.sin(2 * np.pi * (70 + 60 * np.exp(-u / 0.03)) * u) * np.exp(-u / 0.11) * np.minimum(u / 0.004, 1)
    for number, place in enumerate(np.arange(0.41, seconds - 0.5, 60 / bpm)):
        out[int(place * rate) :][: len(u)] += (stroke * (0.26 if number % 4 == 0 else 0.18))[:, None]
    soundfile.write(path, out, rate)
