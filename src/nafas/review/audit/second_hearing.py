"""What breaks the order of counting is heard a second time before it is told: as the word that most rounds have there.

A word is put right only where its sound is likelier that other word. A fault that was really said stays.
"""

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from difflib import SequenceMatcher

from nafas.review.audit.decoder import NUMBERS, THOROUGH, Tuning, make_decoder, run, sound
from nafas.review.audit.heard import CUE_WORDS, HeardWord
from nafas.review.audit.performed import PerformedSet, performed
from nafas.voice.clip import Samples
from nafas.voice.segmentation.source import Source

_DOUBT = 0.6
"""How sure a word is that was put right, of how sure it was."""
_AROUND = 0.12
"""Seconds of what is around a word with which it is heard again."""
_ROUNDS = 3
"""Rounds from which most of them say what a round is."""


class Judge:
    """Says which of two words a sound is likelier to be: each is forced upon it, and the likelihoods are compared."""

    def __init__(self, source: Source, tuning: Tuning) -> None:
        self._source, self._tuning = source, tuning
        self._decoder = make_decoder(*THOROUGH)
        for text in (*NUMBERS, *CUE_WORDS):
            name = text.replace(" ", "-")
            self._decoder.add_jsgf_string(name, f"#JSGF V1.0; grammar g; public <said> = {text} ;")

    def prefers(self, word: HeardWord, other: str) -> bool:
        """Whether a word that was heard is likelier another."""
        samples = sound(self._source, max(0.0, word.start - _AROUND), word.end + _AROUND)
        return self._score(samples, other) > self._score(samples, word.text)

    def _score(self, samples: Samples, text: str) -> float:
        self._decoder.activate_search(text.replace(" ", "-"))
        run(self._decoder, samples, self._tuning)
        found = self._decoder.hyp()
        return -math.inf if found is None else float(found.score)


def heard_twice(words: Sequence[HeardWord], judge: Judge) -> list[HeardWord]:
    """The words, those out of order put right where their sound allows it."""
    found = {word.beat: word for word in words}
    for one in performed(words):
        for word, text in _out_of_order(one):
            if judge.prefers(word, text):
                sure = round(word.confidence * _DOUBT, 3)
                found[word.beat] = replace(word, text=text, number=NUMBERS.get(text, 0), confidence=sure)
    return list(found.values())


def _out_of_order(one: PerformedSet) -> Iterator[tuple[HeardWord, str]]:
    """Words of a set that are others in most rounds, with what they are there."""
    said = [tuple(word.text for phase in phases for word in phase.words) for phases in one.rounds]
    usual, many = Counter(said).most_common(1)[0]
    if len(said) < _ROUNDS or many < 2:
        return
    words = [word for phases in one.rounds for phase in phases for word in phase.words]
    heard = [word.text for word in words]
    wanted = list(usual) * (len(words) // len(usual) + 1)
    for kind, begin, end, at, until in SequenceMatcher(None, heard, wanted, autojunk=False).get_opcodes():
        if kind == "replace" and end - begin == until - at:
            yield from zip(words[begin:end], wanted[at:until])
