"""PocketSphinx with a grammar of cues and numbers only, and what a recording is brought to before it is heard."""

from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from nafas.review.audit.vocabulary import Vocabulary
from nafas.voice.clip import Samples
from nafas.voice.segmentation.segment import at_rate
from nafas.voice.segmentation.source import Source

RATE, FRAME = 16_000, 0.01
"""Samples a second, and seconds of its frames."""
CORE = 8.0
"""Seconds of a window whose words are taken."""
HURRIED, THOROUGH = (600, 2), (1000, 4)
"""States that are followed at a time and Gaussians of each that count: at first, and where something was missed."""
QUIET = 3e-4
"""RMS under which a window holds no voice."""
_NEXT, _OFTEN, _ANYTHING = 0.5, 0.4, 0.1
"""How likely the next number is, one of the cues or the number before, and any word at all."""
_DITHER = 2e-4
"""Noise against digital silence, whose logarithm the recogniser does not bear."""
_LEVEL, _CHUNK = 0.7, 8192
_LOOKED_AT, _LOUDEST = 120, 5
"""Windows whose level is looked at, and those of them by which a recording is tuned."""


@dataclass(frozen=True)
class Ear:
    """What is listened for, in the form the recogniser wants it.

    Attributes:
        vocabulary: the words. Word k of its texts is "wk" to the recogniser, whatever its letters are.
    """

    vocabulary: Vocabulary

    @cached_property
    def dictionary(self) -> str:
        return self.vocabulary.dictionary(known_words())

    @cached_property
    def names(self) -> dict[str, str]:
        """Each text's name to the recogniser. A word of which no sound is known has none."""
        known = {line.partition(" ")[0] for line in self.dictionary.splitlines()}
        return {text: f"w{k}" for k, text in enumerate(self.vocabulary.texts) if f"w{k}" in known}

    @cached_property
    def texts(self) -> dict[str, str]:
        """The text of each name."""
        return {name: text for text, name in self.names.items()}

    def _grammar(self) -> list[tuple[int, int, float] | tuple[int, int, float, str]]:
        """How words follow each other, as transitions between states: state 0 comes before any word, state 1 + k after
        word k. Mostly a number is followed by the next one, or by a cue; anything else is possible."""
        names, words = list(self.names.items()), self.vocabulary
        any_word = 1 / len(names)
        arcs: list[tuple[int, int, float] | tuple[int, int, float, str]] = []
        for k, (text, name) in enumerate(names):
            arcs += [(0, 1 + k, any_word, name), (1 + k, 0, _ANYTHING)]
            number = words.values.get(text, 0)
            for j, (other, after) in enumerate(names):
                value = words.values.get(other, 0)
                if (value == number + 1 and number) or (not number and value == 2):
                    likely = _NEXT
                elif value == 0 or value == number - 1 or (not number and value == 1):
                    likely = _OFTEN / (len(words.kinds) + 1)
                else:
                    continue
                arcs.append((1 + k, 1 + j, likely, after))
        return arcs

    def decoder(self, states: int, gaussians: int) -> Any:
        """One for each worker: it holds the state of what it hears."""
        decoder = make_decoder(self.dictionary, states, gaussians)
        decoder.add_fsg("words", decoder.create_fsg("words", 0, 0, self._grammar()))
        decoder.activate_search("words")
        return decoder


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


def tuned(source: Source, ear: Ear) -> Tuning:
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
    decoder, means = ear.decoder(*HURRIED), []
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
