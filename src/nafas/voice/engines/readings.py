"""Lines read by an engine, made into clips: paced, pronounced as the producer wants, several readings that match."""

import re
from collections.abc import Callable, Sequence
from functools import lru_cache

import numpy as np

from nafas.bounded_cache import bounded_cache
from nafas.filters import k_weighting
from nafas.script.model.voice import Pronunciation
from nafas.voice.beat.felt_beat import felt_beat
from nafas.voice.clip import Clip, tapered
from nafas.voice.delivery import Delivery
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.choice import Reader
from nafas.voice.finished import finished
from nafas.voice.level import SPEECH_LEVEL, Samples, active_level, sounding, speech_bounds, speech_gain, tame_peaks
from nafas.voice.pitch import median_pitch

KEPT = 3
"""Readings of a word that are cast in turn."""
_KEPT_BYTES = 64 * 2**20
_WORDS = 1.2
"""How much quicker than talk words on counts are read: they are single, and must be crisp."""
_WEIGHTED = 0.6
"""dB by which a voice is louder weighted than by its power, in the middle (measured on the demo's talk)."""
_WHOLE = 1.2
"""dB by which all of a word is softer than what of it is loud, in the middle."""
_LITTLE = 0.1  # dB that nobody hears
_FIRST_WORDS = 3  # seconds in which the beat of the first word is sought
_STRESSED = re.compile(r"[.!?,;:]$")


def read_clips(
    reader: Reader,
    text: str,
    delivery: Delivery,
    pace: int,
    pronounced: Sequence[Pronunciation] = (),
    faster: float = 1.0,
) -> tuple[Clip, ...]:
    """The clips of a line as an engine reads it: one of talk, and of a word the three most alike of its readings.

    Those read last are kept, whichever session they are of.

    Args:
        reader: who reads.
        text, delivery: the line, and how it is said.
        pace: of talk, words a minute.
        pronounced: words to be read otherwise.
        faster: how much quicker than usual.

    Raises:
        InputError: from the engine.
    """
    return _read(reader, text, delivery, pace, tuple(pronounced), faster)


@bounded_cache(_KEPT_BYTES, lambda clips: sum(16 * clip.frames for clip in clips))  # at its own rate and at a master's
def _read(
    reader: Reader, text: str, delivery: Delivery, pace: int, pronounced: tuple[Pronunciation, ...], faster: float
) -> tuple[Clip, ...]:
    said = pronounce(text, pronounced, natural=reader.slow)
    talk = delivery is Delivery.TALK
    if reader.slow and not talk and not _STRESSED.search(said):
        said += "." if delivery is Delivery.CLOSE else ","
    asked = round(pace * faster) if talk else round(pace * _WORDS * faster)
    engine, voice = reader.engine, reader.voice

    def make() -> tuple[Clip, ...]:
        if talk:
            return (_clip(text, *engine.read(said, voice, asked)),)
        readings = (engine.read(said, voice, asked, number) for number in range(engine.readings))
        return most_alike([_clip(text, *each, word=True) for each in readings], KEPT)

    if not isinstance(engine, CachedEngine):
        return make()
    return finished((engine.name, voice, str(asked), text, said, "talk" * talk), make, engine.lines.folder.parent)


def most_alike(clips: Sequence[Clip], kept: int) -> tuple[Clip, ...]:
    """The readings nearest to the middle in length, felt beat and pitch, so that they match when cast in turn."""
    if len(clips) <= kept:
        return tuple(clips[: max(1, kept)])
    shapes = np.array([_shape(clip) for clip in clips])
    distance = np.abs(shapes - np.median(shapes, axis=0)).sum(axis=1)
    return tuple(clips[index] for index in sorted(np.argsort(distance, kind="stable")[:kept]))


def _shape(clip: Clip) -> tuple[float, float, float]:
    # 20 ms of length, 10 ms of beat and half a semitone are heard about as easily (our own weights).
    semitones = 12 * np.log2(max(40.0, median_pitch(clip.samples, clip.rate)))
    return clip.spoken / clip.rate / 0.02, clip.beat / 0.01, float(semitones) / 0.5


@lru_cache(maxsize=4096)
def pronounce(text: str, pronounced: tuple[Pronunciation, ...], natural: bool) -> str:
    """A line with words spelled as they are to be read; whole words, in any case. Phonemes are for natural voices."""
    for each in pronounced:
        if each.read.startswith("[[") and not natural:
            continue
        text = re.sub(rf"(?<!\w){re.escape(each.word)}(?!\w)", _as(each.read), text, flags=re.IGNORECASE)
    return text


def _gain(part: Samples, rate: int, word: bool) -> float:
    """dB that make lines sound as loud as each other: by what the ear weighs (BS.1770), not by power alone. Of a word
    all of it counts, of talk what is spoken, its pauses not."""
    from scipy import signal

    weighted = signal.sosfilt(k_weighting(rate), part).astype(np.float32)
    if active_level(weighted, rate) < -80:
        return 0.0
    if not word:
        return speech_gain(weighted, rate) + _WEIGHTED
    whole = weighted[: sounding(part, rate)]
    level = 10 * float(np.log10(np.mean(whole.astype(float) ** 2)))
    return float(np.clip(SPEECH_LEVEL + _WEIGHTED - _WHOLE - level, -40, 40))


def _as(read: str) -> Callable[[re.Match[str]], str]:
    return lambda _: read  # as it stands: a backslash in it means nothing


def _clip(text: str, samples: Samples, rate: int, word: bool = False) -> Clip:
    """Samples of an engine trimmed, levelled and with their felt beat. Unsayable text gives 50 ms of silence."""
    begin, end = speech_bounds(samples, rate)
    part = samples[begin:end]
    if not len(part):
        return Clip(text, "narrator (silent)", np.zeros(rate // 20, np.float32), rate, 0.0, True)
    for _ in range(3):  # easing peaks makes a word a little softer
        gain = _gain(part, rate, word)
        if abs(gain) < _LITTLE:
            break
        part = tame_peaks(part * np.float32(10 ** (gain / 20)), rate)
    part = tapered(part, rate)
    return Clip(text, "narrator", part, rate, felt_beat(part[: _FIRST_WORDS * rate], rate), True)
