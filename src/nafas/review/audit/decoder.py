"""A grammar of cues and numbers only, and what a recording is brought to before it is heard."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from nafas.review.audit.vocabulary import Vocabulary
from nafas.voice.recognition.decoder import LEVEL, Tuning, known_words, make_decoder, tuning
from nafas.voice.segmentation.source import Source, sound

CORE = 8.0
"""Seconds of a window whose words are taken."""
HURRIED, THOROUGH = (600, 2), (1000, 4)
"""States that are followed at a time and Gaussians of each that count: at first, and where something was missed."""
QUIET = 3e-4
"""RMS under which a window holds no voice."""
_NEXT, _OFTEN, _ANYTHING = 0.5, 0.4, 0.1
"""How likely the next number is, one of the cues or the number before, and any word at all."""
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
    return tuning(ear.decoder(*HURRIED), loudest, LEVEL / peak)
