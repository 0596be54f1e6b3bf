"""What the audit makes of counted performances over music: sets with pattern and rounds right, and false slips.

Natural voices of five languages (joe; the model of `nafas voices --fetch`), every word in up to three readings, no two
counts alike (6 to 10 % of wander, drift), music 8 to 15 LU under, MP3. Two cases in three were looked at while the vote
of rounds was built; those whose number leaves 2 when divided by 3 were held back.

Usage: python bench/performances.py MUSIC_FOLDER    a folder of Ogg files, as Debian's extremetuxracer-data
"""

import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile
import soxr

from nafas.parallel.shares import forking
from nafas.review.audit.audit import audit
from nafas.review.audit.vocabulary import of_language
from nafas.review.checks.finding import Severity
from nafas.script.model.phase import PhaseKind
from nafas.script.model.voice import Voice, VoiceModel
from nafas.script.words.lexicon import lexicon_of
from nafas.script.words.wording import Wording
from nafas.sound.meters.loudness import LoudnessMeter
from nafas.voice.delivery import Delivery
from nafas.voice.engines.narrator import Narrator

RATE = 24_000
VOICES = {"en": "joe", "es": "es-dora", "fr": "fr-siwis", "it": "it-sara", "pt": "pt-dora"}
KINDS = (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE)
FORMS = (  # counts of in, hold, out; rounds; seconds a count; wander; drift; LU under the voice; music
    ((4, 0, 6), 8, 1.0, 0.08, 0.0, None, ""), ((4, 2, 6), 7, 1.1, 0.08, 0.05, 12.0, "calmrace-ks"),
    ((4, 0, 6), 8, 1.0, 0.06, 0.0, 8.0, "freezingpoint"), ((3, 3, 6), 7, 0.9, 0.1, 0.0, 15.0, "start1-jt"),
)  # fmt: skip


def readings(language: str) -> dict[str, list[tuple[np.ndarray, float]]]:
    """Each word of counting with its readings: samples, and seconds to the felt beat."""
    words = lexicon_of(language, Wording())
    narrator = Narrator(Voice(model=VoiceModel(name=VOICES[language])), language, Path())
    texts = [*map(words.kind, KINDS), *map(words.count, range(2, 9))]
    return {
        text: [(soxr.resample(c.samples, c.rate, RATE), c.beat) for c in narrator.clips(text, Delivery.WORD)]
        for text in texts
    }


def loudness(sound: np.ndarray) -> float:
    meter = LoudnessMeter(RATE)
    meter.push(np.ascontiguousarray(sound.T, np.float32))
    return meter.integrated()


def perform(language: str, said, form, music: Path, seed: int) -> np.ndarray:
    """A performance, shape (n, 2)."""
    pattern, rounds, count, wander, drift, under, tune = form
    draw, at, placed = np.random.default_rng(seed), 3.0, []
    words = lexicon_of(language, Wording())
    for one in range(rounds):
        for kind, counts in zip(KINDS, pattern):
            for number in range(1, counts + 1):
                text = words.kind(kind) if number == 1 else words.count(number)
                sound, beat = said[text][draw.integers(3) % len(said[text])]
                placed.append((at - beat, sound * 10 ** (draw.uniform(-1.5, 1.5) / 20)))
                at += count * (1 + drift * one / rounds) * (1 + wander * draw.uniform(-0.5, 0.5))
    out = np.zeros((int((at + 3) * RATE), 2), np.float32)
    for begin, sound in placed:
        out[round(begin * RATE) :][: len(sound)] += sound[:, None]
    if under is not None:
        tune_, rate = soundfile.read(music / f"{tune}.ogg", dtype="float32", always_2d=True)
        bed = soxr.resample(tune_, rate, RATE)
        bed = np.tile(bed, (-(-len(out) // len(bed)), 1))[: len(out)]
        out += bed * 10 ** ((loudness(out) - under - loudness(bed)) / 20)
    return out * 0.5 / np.abs(out).max()


def main(music: Path) -> None:
    right, slips, shapes, total = [0, 0], [0, 0], [0, 0], [0, 0]
    with tempfile.TemporaryDirectory() as where:
        spoken = {language: readings(language) for language in VOICES}
        for number, (language, form) in enumerate((one, form) for one in VOICES for form in FORMS):
            said = spoken[language]
            path, mp3 = Path(where) / f"p.{'mp3' if form[5] else 'flac'}", form[5] is not None
            form_ = {"format": "MP3", "subtype": "MPEG_LAYER_III"} if mp3 else {}
            soundfile.write(path, perform(language, said, form, music, number), RATE, **form_)
            with forking():
                made = audit(path, vocabulary=of_language(language), transcribe=False)
            wanted = [counts for counts in form[0] if counts]
            found = [([counts for _, counts in one.pattern], len(one.rounds)) for one in made.sets]
            false, held = sum(f.severity is Severity.MUST for f in made.findings), number % 3 == 2
            total[held] += 1
            right[held] += found == [(wanted, form[1])]
            shapes[held] += [counts for counts, _ in found] == [wanted]
            slips[held] += false
            print(
                f"  {language} {form[6] or 'alone':14} {wanted} x {form[1]}: {found}, {false} false slips", flush=True
            )
    for held, name in enumerate(("seen", "held back")):
        print(f"{name}: {right[held]} of {total[held]} right, pattern {shapes[held]}, {slips[held]} false slips")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
