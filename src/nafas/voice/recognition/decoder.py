"""PocketSphinx with the English acoustic model that its wheel carries."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from nafas.voice.clip import Samples

RATE, FRAME = 16_000, 0.01
"""Samples a second, and seconds of its frames."""
LEVEL = 0.7
"""Peak that a recording is brought to."""
_DITHER = 2e-4
"""Noise against digital silence, whose logarithm the recogniser does not bear."""
_CHUNK = 8192


def known_words() -> bytes:
    """The CMU pronouncing dictionary."""
    from pocketsphinx import get_model_path

    return Path(get_model_path("en-us/cmudict-en-us.dict")).read_bytes()


def make_decoder(dictionary: str, states: int, gaussians: int) -> Any:
    """A decoder of these words; what is listened for is still to be said.

    Args:
        dictionary: a line a word, as `Vocabulary.dictionary` gives them.
        states, gaussians: how much is followed at a time.
    """
    from pocketsphinx import Decoder, get_model_path

    with TemporaryDirectory(prefix="nafas-ear-") as folder:
        path = Path(folder) / "words.dict"
        path.write_text(dictionary, "utf-8")
        return Decoder(
            hmm=get_model_path("en-us/en-us"),
            dict=str(path),
            lm=None,
            loglevel="FATAL",
            maxhmmpf=states,
            topn=gaussians,
            bestpath=False,  # a long stretch of talk makes its lattice's best path very slow
        )


@dataclass(frozen=True)
class Tuning:
    """What a recording is brought to before it is heard: its gain, and the cepstral mean of its speech.

    The mean of a window of counting is that of the pauses between; with the mean of where most is said, a count of two
    seconds is heard as well as one of two thirds.
    """

    gain: float
    mean: str


def pcm(samples: Samples, gain: float) -> bytes:
    noise = np.random.default_rng(1).standard_normal(len(samples)).astype(np.float32) * _DITHER
    sixteen_bit: bytes = (np.clip(samples * gain + noise, -1, 1) * 32_767).astype(np.int16).tobytes()
    return sixteen_bit


def tuning(decoder: Any, sounds: Sequence[Samples], gain: float) -> Tuning:
    """A gain, and the cepstral mean of some sounds at that gain, each shape (n,) at `RATE`."""
    means = []
    for sound in sounds:
        decoder.start_utt()
        decoder.process_raw(pcm(sound, gain), full_utt=True)
        decoder.end_utt()
        means.append([float(number) for number in decoder.get_cmn(False).split(",")])
    return Tuning(gain, ",".join(f"{number:.4f}" for number in np.mean(means, axis=0)) if means else "")


def run(decoder: Any, samples: Samples, tuning: Tuning) -> None:
    decoder.set_cmn(tuning.mean)
    decoder.start_utt()
    heard = pcm(samples, tuning.gain)
    for at in range(0, len(heard), _CHUNK):  # at once its own mean would be taken
        decoder.process_raw(heard[at : at + _CHUNK])
    decoder.end_utt()
