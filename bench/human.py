"""Human readers: how well a recording without labels is cut up, and how evenly its words are felt.

Readers are people's recordings in Debian's packages, fetched with `apt-get download` into a folder of their own when
this is run, unpacked there, never installed, and never shipped with Nafas:

    it  asterisk-prompt-it-menardi-wav (CC BY-SA 3.0)    es  asterisk-prompt-es-co (GPL-2)
    fr  asterisk-prompt-fr-armelle (BSD)                 en, de, ru  ktuberling-data (GPL-2+): names of things

Each reads a call sheet of its words twice from top to bottom, in a room with noise, hum, coughs, clicks, breaths,
second tries and skipped lines, on a telephone's band where the package is one. One recording of a word is all there is:
its second reading is the first at another speed (4 % up or down), which is kinder than a person is.

Usage: python bench/human.py [FOLDER]
"""

import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path

import mir_eval
import numpy as np
import soundfile
import soxr
from num2words import num2words

from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.call_sheet import Line, LineKind
from nafas.voice.clip import Samples
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.level import speech_bounds
from nafas.voice.recording.practice import RATE, Manners, Spoken, practice_recording
from nafas.voice.segmentation.segment import Cut, segment
from nafas.voice.segmentation.source import Source
from nafas.voice.takebook.book import SURE

_SOUNDS = "usr/share/asterisk/sounds"
READERS = {
    "it": ("asterisk-prompt-it-menardi-wav", f"{_SOUNDS}/it_IT_f_Menardi/digits/{{n}}.wav"),
    "es": ("asterisk-prompt-es-co", f"{_SOUNDS}/es/digits/{{n}}.gsm"),
    "fr": ("asterisk-prompt-fr-armelle", f"{_SOUNDS}/fr/digits/{{n}}.gsm"),
    "en": ("ktuberling-data", "usr/share/ktuberling/sounds/en"),
}
_NUMBERS = (*range(1, 21), 30, 40, 50, 60, 70, 80, 90)
_OBJECTS = 28


class Person:
    """An engine of the practice microphone that is somebody's recordings."""

    name = "person"
    readings = 1

    def __init__(self, clips: dict[str, tuple[Samples, int]]) -> None:
        self.clips = clips

    def read(self, text: str, voice: str, pace: int, reading: int = 0) -> tuple[Samples, int]:
        samples, rate = self.clips[text]
        faster = 1 + 0.04 * np.sign(pace - 130) * min(1.0, abs(pace - 130) / 8)
        return soxr.resample(samples, rate * faster, RATE).astype(np.float32), RATE


def fetched(package: str, folder: Path) -> Path:
    """The package unpacked, fetched where it is not there yet."""
    target = folder / package
    if not target.exists():
        folder.mkdir(parents=True, exist_ok=True)
        subprocess.run(["apt-get", "download", "-qq", package], cwd=folder, check=True, capture_output=True)
        archive = next(folder.glob(f"{package}_*.deb"))
        subprocess.run(["dpkg-deb", "-x", str(archive), str(target)], check=True)
    return target


def sound(path: Path) -> tuple[Samples, int]:
    if path.suffix == ".gsm":
        samples, rate = soundfile.read(path, format="RAW", subtype="GSM610", samplerate=8000, channels=1)
    else:
        samples, rate = soundfile.read(path, always_2d=False)
    samples = samples if samples.ndim == 1 else samples.mean(axis=1)
    samples = samples.astype(np.float32)
    # Some have noise of their own 20 dB under the voice: where the word begins is where it stands out of that.
    begin, end = speech_bounds(samples, rate, below_peak=20.0, margin=0.0)
    return samples[begin:end], rate


def reader(language: str, folder: Path) -> dict[str, tuple[Samples, int]]:
    package, where = READERS[language]
    root = fetched(package, folder)
    if "{n}" in where:
        paths = {num2words(n, lang=language): root / where.format(n=n) for n in _NUMBERS}
    else:
        found = sorted((root / where).glob("*.ogg"))[: _OBJECTS * 2 : 2]
        paths = {path.stem.split("_")[-1]: path for path in found}
    return {text: sound(path) for text, path in paths.items() if path.exists()}


def sheet(texts: list[str], language: str) -> list[Line]:
    return [Line(text, language, LineKind.COUNT, 1, None, 2, "") for text in texts]


def outside_beat(samples: Samples, rate: int) -> float:
    """A felt beat by another way than Nafas's two: where the power of 200 to 2000 Hz, smoothed over 30 ms, is half-way
    up (in amplitude) to the first peak that is at least half the highest (our own; near the middle of the rise of
    P. Howell, Perception & Psychophysics 43, 1988, from memory).
    """
    from scipy import signal

    low = signal.sosfiltfilt(signal.butter(2, (200, 2000), "bandpass", fs=rate, output="sos"), samples)
    width = max(3, round(0.03 * rate))
    rise = np.sqrt(np.convolve(low**2, np.hanning(width) / np.hanning(width).sum(), "same"))
    top = rise.max()
    strong = int(np.argmax(rise >= 0.5 * top))
    peak = strong + int(np.argmax(rise[strong : strong + round(0.08 * rate)]))
    return float(np.argmax(rise[: peak + 1] >= 0.5 * rise[peak])) / rate


def cases(clips: dict[str, tuple[Samples, int]]) -> Iterator[tuple[str, list[str], Manners, int]]:
    """(what it is, texts, manners, readings of each): in two rooms; each read once only; earlier lines read again."""
    texts = list(clips)
    for snr in (30.0, 20.0):
        quiet = Manners(voice="", snr=snr)
        yield f"short {snr:.0f} dB", texts[:12], quiet, 2
        yield f"long {snr:.0f} dB", texts, quiet, 2
    yield "once, 20 dB", texts, Manners(voice="", snr=20.0), 1
    yield "again, 20 dB", texts, Manners(voice="", snr=20.0, later=0.2), 2


def under(truth: Sequence[Spoken], cut: Cut) -> Spoken | None:
    """What was said where something was cut."""
    return next((each for each in truth if min(each.end, cut.end) - max(each.start, cut.start) > 0.05), None)


def judge(language: str, folder: Path, work: Path) -> None:
    clips = reader(language, folder)
    engine = CachedEngine(Espeak())
    for name, texts, manners, takes in cases(clips):
        rows = []
        for seed in (1, 2, 3):
            lines = sheet(texts, language)
            made = practice_recording(Person(clips), texts, manners, seed, takes)
            path = work / f"{language}-{seed}.wav"
            soundfile.write(path, made.samples, RATE)
            found = segment(Source(path), lines, engine)
            spoken = [one for one in made.truth if one.line is not None]
            onsets = mir_eval.onset.f_measure(
                np.sort([one.start for one in spoken]), np.sort([cut.start for cut in found.cuts]), window=0.05
            )[0]

            right = sum(any(c.line == o.line and abs(c.start - o.start) < 0.3 for c in found.cuts) for o in spoken)
            sure = [cut for cut in found.cuts if cut.confidence >= SURE]
            wrong = sum((t := under(made.truth, cut)) is None or t.line != cut.line for cut in sure)
            coughs = [o for o in made.truth if o.line is None]
            taken = sum(any(min(o.end, c.end) - max(o.start, c.start) > 0.1 for c in found.cuts) for o in coughs)
            rows.append((right / len(spoken), onsets, wrong / max(1, len(found.cuts)), taken, len(coughs)))
        r, f, w, t, c = (np.array(column) for column in zip(*rows))
        print(
            f"  {name:12}  right line {r.mean():5.1%} (least {r.min():.0%})  onset F {f.mean():.3f}  "
            f"confidently wrong {w.mean():.1%}  coughs taken {t.sum():.0f} of {c.sum():.0f}"
        )
    apart, starts = [], []
    for samples, rate in clips.values():
        outside = outside_beat(samples, rate)
        apart.append(find_beat(samples, rate).seconds - outside)
        starts.append(-outside)
    print(
        f"  felt beats against the outside estimator: s.d. {np.std(apart) * 1000:.0f} ms "
        f"(clips by their first sound: {np.std(starts) * 1000:.0f} ms), "
        f"worst {np.abs(apart - np.median(apart)).max() * 1000:.0f} ms"
    )


def main(folder: Path) -> None:
    with tempfile.TemporaryDirectory() as work:
        for language, (package, _) in READERS.items():
            print(f"{language}: {package}")
            judge(language, folder, Path(work))


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(tempfile.gettempdir()) / "nafas-human")
