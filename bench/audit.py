"""What the audit hears in performances whose truth is known, and which planted faults it finds.

Performers are the demo's takes and voices of eSpeak (which speaks other languages too, and sounds like nobody), each word laid with its felt beat on a time that drifts and
wanders as a person's does (count lengths of 0.66 to 2.1 s, wander of 10 %: common practice, no source), with talk
before, between and after, over a night sea 10 to 20 LU under the voice. Every performance has one fault of each kind
planted, and a twin has none.

Usage: python bench/audit.py [FOLDER]
"""

import re
import sys
import tempfile
import time
from collections import Counter
from difflib import SequenceMatcher
from pathlib import Path

import mir_eval
import numpy as np
import soundfile

from nafas.demo import SESSION
from nafas.parallel.shares import forking
from nafas.review.audit.audit import audit
from nafas.review.audit.vocabulary import of_language
from nafas.script import load_session
from nafas.script.model.beds import NightSea
from nafas.script.model.phase import PhaseKind
from nafas.script.words.lexicon import lexicon_of
from nafas.script.words.wording import Wording
from nafas.sound.bed.plan import bed_sound
from nafas.sound.meters.loudness import LoudnessMeter
from nafas.tasks.render import RenderRequest, produce
from nafas.timing.timeline import EventKind
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.level import active_level, speech_bounds
from nafas.voice.segmentation.source import at_rate
from nafas.voice.takebook.book import TakeBook

RATE = 24_000
LEVEL = -23.0
TALK = (
    "Sit where the deck is quiet, and let your back be long.", "Breathe in for four counts, and out for six.",
    "Never force it. A smaller breath is fine.", "Let your hands rest, and close your eyes if you like.",
)  # fmt: skip


class Performer:
    """Words of one voice, level and felt beat known."""

    def __init__(self, voice: str) -> None:
        self.voice = voice
        self.engine = CachedEngine(Espeak())
        self.book = TakeBook(SESSION.parent / "takes") if voice == "takes" else None
        self.draw = np.random.default_rng(3)

    def say(self, text: str) -> tuple[np.ndarray, float]:
        takes = [t for t in self.book.index.takes if t.text == text] if self.book else []
        if takes:
            take = takes[self.draw.integers(len(takes))]
            samples, rate = soundfile.read(self.book.folder / take.file, dtype="float32")
        else:
            samples, rate = self.engine.read(text, "en-us" if self.voice == "takes" else self.voice, 130)
        begin, end = speech_bounds(samples, rate, 32.0, 0.0)
        samples = at_rate(samples[begin:end], rate)  # 16 kHz: what a person's voice keeps here
        samples = samples * 10 ** ((LEVEL - active_level(samples, 16_000)) / 20)
        import soxr

        return soxr.resample(samples, 16_000, RATE).astype(np.float32), find_beat(samples, 16_000).seconds


def script(rounds: int, language: str) -> list[list[str]]:
    words = lexicon_of(language, Wording())
    names = [words.count(n) for n in range(1, 9)]
    breathe_in, breathe_out = words.kind(PhaseKind.INHALE), words.kind(PhaseKind.EXHALE)
    return [[breathe_in, *names[1:4], breathe_out, *names[1:6]] for _ in range(rounds)]


def plant(rounds: list[list[str]], fault: str, draw: np.random.Generator) -> None:
    """Change the words of one round."""
    one = rounds[int(draw.integers(2, len(rounds) - 2))]
    if fault == "doubled":
        one[3] = one[2]
    elif fault == "missing":
        one[6] = ""
    elif fault == "swapped":
        one[6], one[7] = one[7], one[6]
    elif fault == "mislabelled":
        one[4] = "inhale"
    elif fault == "mid-breath":
        del rounds[-1][4:]
    elif fault == "long phase":
        one.insert(4, "five")


def perform(
    who: Performer,
    count: float,
    wander: float,
    drift: float,
    under: float | None,
    fault: str | None,
    seed: int,
    language: str = "en",
):
    """Samples, (time, word) of all that was counted."""
    draw = np.random.default_rng(seed)
    rounds = script(9, language)
    if fault is not None:
        plant(rounds, fault, draw)
    placed, truth = [], []
    at = 2.0
    for sentence in TALK:
        sound, _ = who.say(sentence)
        placed.append((at, sound))
        at += len(sound) / RATE + 1.0
    at += 2.0
    for number, one in enumerate(rounds):
        length = count * (1 + drift * number / len(rounds)) * (1 + wander * draw.uniform(-0.5, 0.5))
        for word in one:
            if word:
                sound, beat = who.say(word)
                placed.append((at - beat, sound))
                truth.append((at, word))
            at += length
    at += 4.0
    sound, _ = who.say("Let the count go. Breathe naturally, and listen to the water.")
    placed.append((at, sound))
    out = np.zeros(int((at + 12) * RATE), np.float32)
    for begin, sound in placed:
        first = round(begin * RATE)
        out[first : first + len(sound)] += sound
    if under is not None:
        bed = bed_sound(NightSea(), RATE, Path()).read(0, len(out))
        meter = LoudnessMeter(RATE)
        meter.push(bed)
        voice = LoudnessMeter(RATE, 1)
        voice.push(out[None])
        stereo = np.stack([out, out]) / np.sqrt(2) + bed * 10 ** (
            (voice.integrated() - under - meter.integrated()) / 20
        )
        return stereo.T.astype(np.float32), truth
    return out, truth


CASES = (
    ("takes", 1.0, 0.1, 0.0, None), ("takes", 1.0, 0.1, 0.0, 14.0), ("takes", 0.66, 0.05, 0.0, 14.0), ("takes", 1.5, 0.1, 0.08, 10.0),
    ("takes", 2.1, 0.1, 0.0, 20.0), ("en-us", 1.0, 0.1, 0.0, 14.0), ("en+f2", 1.0, 0.1, 0.0, 20.0), ("en+m5", 1.25, 0.1, 0.06, 14.0),
)  # fmt: skip
OTHERS = ("de", "es", "fr", "hi", "it", "pl", "pt", "ru")
FAULTS = ("doubled", "missing", "swapped", "mislabelled", "mid-breath", "long phase")
MEANT = {
    "doubled": {"doubled", "missing"}, "missing": {"missing", "phase-length", "uneven"}, "swapped": {"swapped"},
    "mislabelled": {"cue-order"}, "mid-breath": {"mid-breath"}, "long phase": {"counts-differ", "phase-length"},
}  # fmt: skip


def others(folder: Path) -> None:
    """How much is heard of other languages, in the only voice that speaks them here."""
    for language in OTHERS:
        samples, truth = perform(Performer(language), 1.0, 0.1, 0.0, 14.0, None, 7, language)
        soundfile.write(folder / "p.wav", samples, RATE)
        with forking():
            made = audit(folder / "p.wav", vocabulary=of_language(language), transcribe=False)
        heard = sum(any(w.text == word and abs(w.beat - at) < 0.3 for w in made.words) for at, word in truth)
        pattern = "-".join(str(counts) for _, counts in made.sets[0].pattern) if made.sets else "none"
        print(
            f"  {language}: words {heard / len(truth):.1%}, {len(made.words) - heard} more, pattern {pattern}",
            flush=True,
        )


def talk(folder: Path) -> None:
    """How much of the demo's talk is written down right, by words, and how far its sentences lie off their time."""
    session = load_session(SESSION)
    made = produce(RenderRequest(session, SESSION.parent, folder / "demo.wav"))
    began = time.perf_counter()
    with forking():
        found = audit(folder / "demo.wav", made.cast.timeline)
    speed = found.seconds / (time.perf_counter() - began)
    said = [p for p in made.cast.placements if p.moment.kind is EventKind.TALK]
    meant = re.findall(r"[a-z']+", " ".join(p.moment.text for p in said).lower())
    heard = re.findall(r"[a-z']+", " ".join(s.text for s in found.talk).lower())
    same = sum(block.size for block in SequenceMatcher(None, meant, heard, autojunk=False).get_matching_blocks())
    starts = [min(abs(s.start - p.start / made.cast.rate) for s in found.talk) for p in said]
    print(
        f"  demo's talk: {same / len(meant):.0%} of {len(meant)} words, sentences begin within {max(starts):.2f} s, "
        f"{speed:.0f} x real time with it; findings {len(found.findings)}",
        flush=True,
    )


def main(folder: Path) -> None:
    total, found, false, clean = Counter(), Counter(), 0, 0
    for case, (voice, count, wander, drift, under) in enumerate(CASES):
        who = Performer(voice)
        rows = []
        for fault in (None, *FAULTS):
            samples, truth = perform(who, count, wander, drift, under, fault, 10 * case)
            path = folder / "p.wav"
            soundfile.write(path, samples, RATE)
            began = time.perf_counter()
            with forking():
                made = audit(path, transcribe=False)
            speed = made.seconds / (time.perf_counter() - began)
            times = np.array([at for at, _ in truth])
            beats = np.array([word.beat for word in made.words])
            onsets = mir_eval.onset.f_measure(times, np.sort(beats), window=0.1)[0] if len(beats) else 0.0
            right = [
                min(
                    (w for w in made.words if w.text == word and abs(w.beat - at) < 0.3),
                    key=lambda w: abs(w.beat - at),
                    default=None,
                )
                for at, word in truth
            ]
            spread = np.std([w.beat - at for w, (at, _) in zip(right, truth) if w])
            heard = sum(w is not None for w in right) / len(truth)
            more = len(made.words) - sum(w is not None for w in right)
            length = made.sets[0].count_length if made.sets else None
            grave = [
                f for f in made.findings if f.check not in ("drift", "wander", "uneven", "silence", "phase-length")
            ]
            if fault is None:
                clean += 1
                false += len(grave)
                rows.append((heard, more, onsets, spread, length, speed))
            else:
                total[fault] += 1
                found[fault] += any(f.check in MEANT[fault] for f in made.findings)
        heard, more, onsets, spread, length, speed = rows[0]
        told = "none" if length is None else f"{length:.3f} s"
        bed = "no bed" if under is None else f"bed {under:.0f} LU under"
        print(
            f"  {voice:6} count {count:.2f} s, {bed:16} words {heard:.1%}, {more} more, onset F {onsets:.3f}, beats s.d. {1000 * spread:.0f} ms, count {told}, {speed:.0f} x real time",
            flush=True,
        )
    for fault in FAULTS:
        print(f"  {fault:12} found {found[fault]} of {total[fault]}")
    others(folder)
    talk(folder)
    print(f"found {sum(found.values())} of {sum(total.values())}; false in {clean} clean performances: {false}")


if __name__ == "__main__":
    if len(sys.argv) > 1:
        main(Path(sys.argv[1]))
    else:
        with tempfile.TemporaryDirectory() as where:
            main(Path(where))
