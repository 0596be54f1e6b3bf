"""The natural voice of five languages: Kokoro-82M (StyleTTS 2: Li and others, 2023) on ONNX Runtime. Offline.

A word read alone is less clear than in a phrase. So a word on a count is read at the end of a short phrase and cut out
where the model itself says that it begins; three phrases give three readings that differ as a person's do.
"""

import json
import re
import threading
from functools import lru_cache
from typing import Any

import numpy as np

from nafas.errors import InputError
from nafas.voice.clip import Samples
from nafas.voice.engines.espeak import Espeak
from nafas.voice.engines.kokoro_files import DURATIONS, SPEAKERS, Speaker
from nafas.voice.engines.piper import clauses, length_scale
from nafas.voice.level import speech_bounds

RATE = 24_000
FRAME = 600
"""Samples of the model's step."""
READINGS = 3
_MOST_SOUNDS = 400  # of a piece; the model takes 510
_MOST_TEXT = 2000
_MOST_WORDS = 3
_ESPEAK = {"es": "es", "fr": "fr", "it": "it", "pt": "pt-br", "hi": "hi"}
_AT_ONE = {
    "es-dora": 196.0, "es-alex": 193.0, "fr-siwis": 222.0, "it-sara": 210.0, "it-nicola": 178.0, "pt-dora": 200.0,
    "pt-alex": 197.0, "hi-alpha": 171.0, "hi-omega": 164.0,
}  # fmt: skip
"""Words a minute of each voice at its own pace (measured on three sentences of guidance each)."""
_PHRASES = {
    "es": ("Escucha y cuenta:", "Con calma:", "Otra vez, despacio:"),
    "fr": ("Écoutez et comptez :", "Dans le calme :", "Encore, sans hâte :"),
    "it": ("Ascolta e conta:", "Con calma:", "Ancora, piano:"),
    "pt": ("Escute e conte:", "Com calma:", "Outra vez, sem pressa:"),
    "hi": ("सुनो और गिनो,", "आराम से,", "एक बार और,"),
}
_LETTERS = (
    ("a^ɪ", "I"), ("a^ʊ", "W"), ("d^z", "ʣ"), ("d^ʒ", "ʤ"), ("e^ɪ", "A"), ("o^ʊ", "O"), ("ə^ʊ", "Q"), ("s^s", "S"),
    ("t^s", "ʦ"), ("t^ʃ", "ʧ"), ("ɔ^ɪ", "Y"), ("^", ""), ("-", ""),
)  # fmt: skip
"""eSpeak's sounds as the model's alphabet has them (as its own front end, misaki, does for these languages)."""
_MARKS = re.compile(r"(\s*[;:,.!?…—]+\s*)")
_SWITCH = re.compile(r"\([^)]*\)")  # eSpeak's note that it goes over to another language
_PAUSE = 0.12  # seconds kept around a piece of a long line


class Kokoro:
    """One speaker of the model."""

    def __init__(self, speaker: Speaker) -> None:
        self.speaker = speaker

    @property
    def name(self) -> str:
        return f"kokoro-1-{self.speaker.sha256[:16]}"

    @property
    def readings(self) -> int:
        return READINGS

    def read(self, text: str, voice: str, pace: int, reading: int = 0) -> tuple[Samples, int]:
        """See `Engine.read`. `voice` is not asked for: a speaker has one."""
        if len(text) > _MOST_TEXT:
            raise InputError(text[:40] + "…", f"a line of {len(text)} characters", f"keep it under {_MOST_TEXT}")
        language = self.speaker.language
        speed = 1 / length_scale(pace, _AT_ONE[self.speaker.name])
        text = text.replace("।", ".")
        if len(text.split()) <= _MOST_WORDS:
            joined = self._word(text, speed, reading)
        else:
            pieces = [self._trimmed(self._spoken(sounds, speed)[0]) for sounds in _pieces(text, language)]
            joined = np.concatenate([*pieces, np.zeros(0, np.float32)])
        steps = np.round(np.clip(joined, -1, 32767 / 32768) * 32768) / 32768
        return steps.astype(np.float32), RATE

    def _word(self, text: str, speed: float, reading: int) -> Samples:
        """A word out of a phrase, from where it begins."""
        language = self.speaker.language
        word = phonemes(text, language)
        if not word.strip(" ;:,.!?…—"):
            return np.zeros(0, np.float32)
        phrase = phonemes(_PHRASES[language][reading % READINGS], language) + " "
        samples, lasts = self._spoken(phrase + word, speed)
        before = sum(letter in _alphabet() for letter in phrase)
        begin = round(float(lasts[: before + 1].sum())) * FRAME
        return samples[max(0, begin - FRAME) :]

    def _spoken(self, sounds: str, speed: float) -> tuple[Samples, np.ndarray]:
        """Samples, shape (n,), and how many steps each input lasts: the beginning, every sound, the end."""
        ids = [_alphabet()[letter] for letter in sounds if letter in _alphabet()]
        if not ids:
            return np.zeros(0, np.float32), np.zeros(2)
        vectors = _vectors(self.speaker)
        feeds = {
            "tokens": np.array([[0, *ids, 0]], np.int64),
            "style": vectors[min(len(ids), len(vectors) - 1)].reshape(1, -1).astype(np.float32),
            "speed": np.array([speed], np.float32),
        }
        audio, lasts = _loaded(self.speaker).run(["audio", DURATIONS], feeds)
        return np.asarray(audio, np.float32).ravel(), np.asarray(lasts, float).ravel()

    @staticmethod
    def _trimmed(samples: Samples) -> Samples:
        begin, end = speech_bounds(samples, RATE, margin=_PAUSE)
        return samples[begin:end]


def phonemes(text: str, language: str) -> str:
    """A line in the model's alphabet; its punctuation stands where it stood. Raises InputError."""
    said = ""
    for place, part in enumerate(_MARKS.split(text)):
        if place % 2:
            said += part.strip() + (" " if part[-1:].isspace() else "")
        elif part.strip():
            said += _SWITCH.sub("", Espeak().phonemes(part, _ESPEAK[language], tie="^")).strip()
    for letters, letter in _LETTERS:
        said = said.replace(letters, letter)
    return said


def _pieces(text: str, language: str) -> list[str]:
    """The sounds of a line, in pieces that the model takes, broken where it pauses."""
    pieces: list[str] = []
    for clause in clauses(text):
        sounds = phonemes(clause, language)
        if pieces and len(pieces[-1]) + len(sounds) < _MOST_SOUNDS:
            pieces[-1] += f" {sounds}"
        else:
            pieces += [sounds[at : at + _MOST_SOUNDS] for at in range(0, len(sounds), _MOST_SOUNDS)]
    return pieces


@lru_cache(maxsize=1)
def _alphabet() -> dict[str, int]:
    alphabet: dict[str, int] = json.loads((SPEAKERS / "alphabet.json").read_text())
    return alphabet


@lru_cache(maxsize=2)
def _vectors(speaker: Speaker) -> np.ndarray:
    vectors: np.ndarray = np.load(speaker.vectors, allow_pickle=False)
    return vectors


_lock = threading.Lock()


def _loaded(speaker: Speaker) -> Any:
    """The model, loaded once (300 MB). Raises InputError."""
    with _lock:
        return _load(speaker.model)


@lru_cache(maxsize=1)
def _load(model: Any) -> Any:
    try:
        import onnxruntime

        options = onnxruntime.SessionOptions()
        options.log_severity_level = 3
        options.intra_op_num_threads = 1  # the same sound on every machine; two lines at once use two cores
        return onnxruntime.InferenceSession(str(model), sess_options=options, providers=["CPUExecutionProvider"])
    except Exception as error:  # whatever a damaged model makes its library raise
        problem = f"cannot be loaded ({type(error).__name__}: {str(error)[:120]})"
        raise InputError(str(model), problem, "add the voice again: nafas voices --fetch") from error
