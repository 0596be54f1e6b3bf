"""Small take books for tests."""

import json
from pathlib import Path

import numpy as np
import soundfile

RATE = 22_050


def tone(seconds: float, lead: float = 0.0, level: float = 0.2) -> np.ndarray:
    """A word, near enough: a tone after some silence."""
    t = np.arange(int(seconds * RATE)) / RATE
    wave = level * np.sin(2 * np.pi * 900 * t) * np.minimum(1, np.minimum(t, seconds - t) / 0.03)
    return np.concatenate([np.zeros(int(lead * RATE)), wave])


def book_of(folder: Path, *takes: tuple[str, str, float, dict]) -> Path:
    """A take book of (file, text, seconds, more) tones; gives its folder."""
    folder.mkdir(exist_ok=True)
    rows = []
    for file, text, seconds, more in takes:
        soundfile.write(folder / file, tone(seconds), RATE)
        rows.append({"file": file, "text": text, "trim": [0, seconds], "beat": 0.05, **more})
    (folder / "takes.json").write_text(json.dumps({"format": 2, "takes": rows}))
    return folder
