"""PocketSphinx with a grammar of English cues and numbers, and what a recording is brought to before it is heard."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from num2words import num2words

from nafas.review.audit.heard import CUE_WORDS, MOST_COUNTED
from nafas.voice.clip import Samples
from nafas.voice.segmentation.segment import at_rate
from nafas.voice.segmentation.source import Source

RATE = 16_000
CORE = 8.0
"""Seconds of a window whose words are taken."""
HURRIED, THOROUGH = (100, 2), (800, 4)
"""States that are followed at a time and Gaussians of each that count: at first, and where something was missed."""
QUIET = 3e-4
"""RMS under which a window holds no voice."""
_DITHER = 2e-4
"""Noise against digital silence, whose logarithm the recogniser does not bear."""
_LEVEL, _CHUNK = 0.7, 8192
_LOOKED_AT, _LOUDEST = 120, 5
"""Windows whose level is looked at, and those of them by which a recording is tuned."""
NUMBERS = {str(num2words(number)): number for number in range(1, MOST_COUNTED + 1)}


def make_decoder(states: int, gaussians: int) -> Any:
    """One for each worker: it holds the state of what it hears."""
    from pocketsphinx import Decoder, get_model_path

    decoder = Decoder(
        hmm=get_model_path("en-us/en-us"),
        dict=get_model_path("en-us/cmudict-en-us.dict"),
        lm=None,
        loglevel="FATAL",
        maxhmmpf=states,
        topn=gaussians,
        bestpath=False,  # a long stretch of talk makes its lattice's best path very slow
    )
    words = " | ".join((*NUMBERS, *CUE_WORDS))
    decoder.add_jsgf_string("words", f"#JSGF V1.0; grammar words; public <said> = ( {words} )+ ;")
    decoder.activate_search("words")
    return decoder


@dataclass(frozen=True)
class Tuning:
    """What a recording is brought to before it is heard: its gain, and the cepstral mean of its speech.

    The mean of a window of counting is that of the pauses between; with the mean of where most is said, a count of two
    seconds is heard as well as one of two thirds.
    """

    gain: float
    mean: str


def tuned(source: Source) -> Tuning:
    """The tuning of a recording, from its loudest windows; its gain is 0 where there is nothing to hear."""
    windows = np.arange(0.0, source.seconds, CORE)
    if len(windows) > _LOOKED_AT:
        windows = windows[np.linspace(0, len(windows) - 1, _LOOKED_AT).astype(int)]
    sounds = [sound(source, float(begin), float(begin) + CORE) for begin in windows]
    loudest = sorted(sounds, key=lambda samples: -float(np.mean(np.square(samples))) if len(samples) else 0.0)[
        :_LOUDEST
    ]
    peak = max((float(np.abs(samples).max(initial=0.0)) for samples in loudest), default=0.0)
    if peak < QUIET:
        return Tuning(0.0, "")
    decoder, means = make_decoder(*HURRIED), []
    for samples in loudest:
        decoder.start_utt()
        decoder.process_raw(_pcm(samples, _LEVEL / peak), full_utt=True)
        decoder.end_utt()
        means.append([float(number) for number in decoder.get_cmn(False).split(",")])
    return Tuning(_LEVEL / peak, ",".join(f"{number:.4f}" for number in np.mean(means, axis=0)))


def _pcm(samples: Samples, gain: float) -> bytes:
    noise = np.random.default_rng(1).standard_normal(len(samples)).astype(np.float32) * _DITHER
    pcm: bytes = (np.clip(samples * gain + noise, -1, 1) * 32_767).astype(np.int16).tobytes()
    return pcm


def run(decoder: Any, samples: Samples, tuning: Tuning) -> None:
    decoder.set_cmn(tuning.mean)
    decoder.start_utt()
    pcm = _pcm(samples, tuning.gain)
    for at in range(0, len(pcm), _CHUNK):  # at once its own mean would be taken
        decoder.process_raw(pcm[at : at + _CHUNK])
    decoder.end_utt()


def sound(source: Source, begin: float, end: float) -> Samples:
    first = round(begin * source.rate)
    return at_rate(source.read(first, round(end * source.rate) - first), source.rate)
