"""Felt beats of other people's words against estimators that are not ours.

Readers are the five of Debian's asterisk-core-sounds-LANGUAGE-wav packages (CC BY-SA 3.0), fetched with `apt-get
download` when this is run, never installed and never shipped whole. The numbers 1 to 20 were looked at while the method
was made; months, weekdays and ordinals were held back. One constant (the part of Marcus's term) was set after the first
look at them.

Estimators: spectral flux of librosa (all bands, and 200 to 1800 Hz), the half rise of a band at 578 Hz that is four
ERB wide (S. K. Scott 1993, from memory), the half rise of 200 to 2000 Hz (`human.outside_beat`), and the first 40 ms of
voice in Praat. Where three of the five lie within 15 ms of one another, their middle is what a beat is compared with.

Usage: pip install librosa praat-parselmouth; python bench/beats.py [FOLDER] [--write FOLDER]
    --write keeps the numbers 1 to 10 of each reader, and what the estimators say, as tests/voice/counting
"""

import argparse
import csv
import tempfile
from collections.abc import Callable
from pathlib import Path

import librosa
import numpy as np
import parselmouth
import soundfile
from human import fetched, outside_beat
from scipy import signal

from nafas.voice.beat.felt_beat import SURE_BEAT, find_beat
from nafas.voice.clip import Samples

LANGUAGES = ("en", "es", "fr", "it", "ru")
LATE = {"flux": 0.0, "low flux": -0.005, "scott": 0.006, "half rise": 0.0, "voice": -0.004}
"""How much later than the others each estimator is throughout, seconds, measured on the numbers."""
_PAD = 0.2


def folder_of(language: str, folder: Path) -> Path:
    root = fetched(f"asterisk-core-sounds-{language}-wav", folder)
    return next((root / "usr/share/asterisk/sounds").glob(f"{language}_*/digits"))


def padded(samples: Samples, rate: int) -> np.ndarray:
    return np.pad(samples.astype(float), round(_PAD * rate))


def first_peak(strength: np.ndarray, seconds: np.ndarray) -> float:
    peaks, _ = signal.find_peaks(strength, prominence=0.15 * strength.max())
    strong = [peak for peak in peaks if strength[peak] > 0.5 * strength.max()]
    return float(seconds[strong[0] if strong else strength.argmax()])


def flux(samples: Samples, rate: int, low: float = 100, high: float = 3500, floor: float = 30, lag: int = 15) -> float:
    """The first strong peak of spectral flux: librosa's mel bands and decibels, growth over 24 to 30 ms."""
    sound = padded(samples, rate)
    sound += 10 ** (-(floor + 50) / 20) * np.abs(sound).max() * np.random.default_rng(0).standard_normal(len(sound))
    hop = rate // 500
    bands = librosa.feature.melspectrogram(
        y=sound, sr=rate, n_fft=rate // 32, hop_length=hop, n_mels=20, fmin=low, fmax=high
    )
    level = librosa.power_to_db(bands, top_db=floor)
    growth = np.maximum(0, level[:, lag:] - level[:, :-lag]).mean(axis=0)
    return first_peak(growth, (np.arange(len(growth)) + lag / 2) * hop / rate - _PAD)


def low_flux(samples: Samples, rate: int) -> float:
    return flux(samples, rate, 200, 1800, 40, 12)


def scott(samples: Samples, rate: int) -> float:
    erb = 24.7 * (4.37 * 0.578 + 1)
    band = signal.butter(2, (578 - 2 * erb, 578 + 2 * erb), "bandpass", fs=rate, output="sos")
    rectified = np.maximum(0, signal.sosfiltfilt(band, padded(samples, rate)))
    level = signal.sosfiltfilt(signal.butter(2, 25, fs=rate, output="sos"), rectified)
    peaks, _ = signal.find_peaks(level, prominence=0.2 * level.max())
    strong = [peak for peak in peaks if level[peak] > 0.4 * level.max()]
    peak = strong[0] if strong else int(level.argmax())
    below = np.flatnonzero(level[:peak] < level[peak] / 2)
    return float((below[-1] if len(below) else 0) / rate - _PAD)


def voice(samples: Samples, rate: int) -> float:
    pitch = parselmouth.Sound(padded(samples, rate), rate).to_pitch_ac(
        time_step=0.002, pitch_floor=75, pitch_ceiling=500, voicing_threshold=0.45, silence_threshold=0.1
    )
    voiced = pitch.selected_array["frequency"] > 0
    runs = np.convolve(voiced, np.ones(20), "valid") >= 20
    return float(pitch.xs()[int(runs.argmax())] - _PAD) if runs.any() else float("nan")


ESTIMATORS: dict[str, Callable[[Samples, int], float]] = {
    "flux": flux, "low flux": low_flux, "scott": scott, "half rise": outside_beat, "voice": voice,
}  # fmt: skip


def outside(samples: Samples, rate: int) -> tuple[list[float], float | None]:
    """What each estimator says, and the middle of those three or more that agree; None where they do not."""
    said = [estimate(samples, rate) - LATE[name] for name, estimate in ESTIMATORS.items()]
    near = [sorted(other for other in said if abs(other - one) <= 0.015) for one in said]
    best = max(near, key=len)
    return said, float(np.median(best)) if len(best) >= 3 else None


def spread(values: np.ndarray) -> float:
    """A standard deviation in ms that single words do not rule: 1.48 times the median distance from the median."""
    return 1482.6 * float(np.nanmedian(np.abs(values - np.nanmedian(values))))


def judge(language: str, paths: list[Path], what: str) -> list[tuple[float, float]]:
    said, agreed, beats = [], [], []
    for path in paths:
        samples, rate = soundfile.read(path, dtype="float32")
        estimates, middle = outside(samples, rate)
        said.append(estimates)
        agreed.append(np.nan if middle is None else middle)
        beats.append(find_beat(samples, rate))
    seconds = np.array([beat.seconds for beat in beats])
    away = seconds - np.array(agreed)
    away = np.abs(away - np.nanmedian(away))
    each = ", ".join(f"{spread(seconds - column):.0f}" for column in np.array(said).T)
    within = np.mean(away[~np.isnan(away)] < 0.025)
    print(
        f"| {language} | {what} | {len(paths)}, {np.isfinite(away).sum()} | {spread(seconds - np.array(agreed)):.0f} | "
        f"{each} | {within:.0%} |"
    )
    return [(beat.confidence, far) for beat, far in zip(beats, away) if np.isfinite(far)]


def write(language: str, paths: list[Path], target: Path) -> None:
    """The words one after another with half a second between, and a table of what is said of them."""
    target.mkdir(parents=True, exist_ok=True)
    sounds, rows, at, rate = [], [], 0, 8000
    for number, path in enumerate(paths, 1):
        samples, rate = soundfile.read(path, dtype="float32")
        estimates, middle = outside(samples, rate)
        rows.append([number, at, at + len(samples), "" if middle is None else f"{middle:.3f}"])
        rows[-1] += ["" if np.isnan(one) else f"{one:.3f}" for one in estimates]
        sounds += [samples, np.zeros(rate // 2, np.float32)]
        at += len(samples) + rate // 2
    soundfile.write(target / f"{language}.flac", np.concatenate(sounds), rate, subtype="PCM_16")
    with (target / f"{language}.csv").open("w", newline="") as file:
        csv.writer(file).writerows([["number", "first", "end", "agreed", *ESTIMATORS], *rows])


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path, nargs="?", default=Path(tempfile.gettempdir()) / "nafas-human")
    parser.add_argument("--write", type=Path)
    options = parser.parse_args()
    print(f"| reader | words | number, agreed | spread, ms | by each: {', '.join(ESTIMATORS)} | within 25 ms |")
    sure = []
    for language in LANGUAGES:
        where = folder_of(language, options.folder)
        numbers = [
            next(path for name in (f"{n}.wav", f"{n}M.wav", f"{n}n.wav") if (path := where / name).exists())
            for n in range(1, 21)
        ]
        judge(language, numbers, "1 to 20")
        sure += judge(
            language, sorted([*where.glob("mon-*"), *where.glob("day-*"), *where.glob("h-[1-9].wav")]), "held back"
        )
        if options.write:
            write(language, numbers[:10], options.write)
    for name, part in (("sure", True), ("not sure", False)):
        far = [distance for confidence, distance in sure if (confidence >= SURE_BEAT) is part]
        print(f"held back, {name}: {len(far)} words, {np.mean(np.array(far) < 0.03):.0%} within 30 ms")


if __name__ == "__main__":
    main()
