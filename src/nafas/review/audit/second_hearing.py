"""What breaks the order of counting is heard a second time before it is reported: as the word that most rounds have.

A word is put right only where its sound is likelier that other word. A fault that was really said stays.
"""

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from difflib import SequenceMatcher

import numpy as np

from nafas.review.audit.decoder import THOROUGH, Ear
from nafas.script.model.phase import PhaseKind
from nafas.script.performed import CountedWord, PerformedSet, performed
from nafas.voice.clip import Samples
from nafas.voice.recognition.decoder import Tuning, run
from nafas.voice.segmentation.source import Source, sound

_DOUBT = 0.6
"""How sure a word is that was put right, of how sure it was."""
_AROUND = 0.12
"""Seconds of what is around a word with which it is heard again."""
_ROUNDS = 3
"""Rounds from which most of them say what a round is."""
_MOSTLY, _AS_DUE = 0.6, 0.4
"""Of the rounds, that are most of them; and of all numbers, that must be what their places say."""


class Judge:
    """Says which of two words a sound is likelier to be: each is forced upon it, and the likelihoods are compared."""

    def __init__(self, source: Source, ear: Ear, tuning: Tuning) -> None:
        self._source, self._ear, self._tuning = source, ear, tuning
        self._decoder = ear.decoder(*THOROUGH)
        for name in ear.names.values():
            self._decoder.add_jsgf_string(name, f"#JSGF V1.0; grammar g; public <said> = {name} ;")

    def prefers(self, word: CountedWord, other: str) -> bool:
        """Whether a word that was heard is likelier another."""
        samples = sound(self._source, max(0.0, word.start - _AROUND), word.end + _AROUND)
        return self._score(samples, other) > self._score(samples, word.text)

    def _score(self, samples: Samples, text: str) -> float:
        self._decoder.activate_search(self._ear.names[text])
        run(self._decoder, samples, self._tuning)
        heard = self._decoder.hyp()
        return -math.inf if heard is None else float(heard.score)


def heard_twice(words: Sequence[CountedWord], judge: Judge) -> list[CountedWord]:
    """The words, those out of order put right where their sound allows it."""
    by_beat = {word.beat: word for word in words}
    for one in performed(words):
        for word, usual in _out_of_order(one):
            if judge.prefers(word, usual.text):
                sure = round(word.confidence * _DOUBT, 3)
                by_beat[word.beat] = replace(
                    word, text=usual.text, number=usual.number, kind=usual.kind, confidence=sure
                )
    return list(by_beat.values())


def meant(words: Sequence[CountedWord], numbers: dict[int, str]) -> list[CountedWord]:
    """The words, a number that is another one than its place says in most rounds taken for the one that is due there.

    A tongue slips once; what is heard wrong in every round is a voice that the recogniser does not know. Where most
    numbers say something else than their places, as in counting down, they are left.

    Args:
        words: in order of time.
        numbers: number words by their number.
    """
    usual = float(np.median(np.diff([word.beat for word in words]))) if len(words) > 1 else 1.0
    words = _no_cues(words, numbers)
    by_beat = {word.beat: word for word in words}
    for one in performed(words):
        places = _places(one, one.count_length or usual)
        off = Counter(word.number - due for (_, due), here in places.items() for word in here).most_common(1)
        if not off or off[0][0] not in (0, -1) or off[0][1] < _AS_DUE * sum(map(len, places.values())):
            continue
        for (_, index), here in places.items():
            due = index + off[0][0]
            heard, times = Counter(word.number for word in here).most_common(1)[0]
            if heard == due or due not in numbers or len(here) < _ROUNDS or times < _MOSTLY * len(here):
                continue
            for word in here:
                sure = round(word.confidence * _DOUBT, 3)
                if word.number == heard:
                    by_beat[word.beat] = replace(word, text=numbers[due], number=due, confidence=sure)
    return list(by_beat.values())


def _no_cues(words: Sequence[CountedWord], numbers: dict[int, str]) -> list[CountedWord]:
    """The words, a cue in place of which the count goes on ("three, hold, five") taken for the number that is due; and
    where that is so in several rounds, the same cue wherever it begins no phase: what follows it is no count of one."""
    around = list(zip(words, words[1:], words[2:]))
    firm = Counter(
        (word.text, before.number + 1)
        for before, word, after in around
        if before.number and word.kind is not None and after.number == before.number + 2
    )
    meant_by = {text: number for (text, number), times in firm.items() if times >= _ROUNDS and number in numbers}
    kept = list(words)
    for at, word in enumerate(words):
        number = meant_by.get(word.text, 0) if word.kind is not None else 0
        before = words[at - 1].number if at else 0
        after = words[at + 1] if at + 1 < len(words) else None
        counts_on = after is not None and after.number > 2
        ends = (after is None or after.kind is not None) and before == number - 1
        if number and before and (counts_on or ends):
            sure = round(word.confidence * _DOUBT, 3)
            kept[at] = replace(word, text=numbers[number], number=number, kind=None, confidence=sure)
    return kept


def _places(one: PerformedSet, count: float) -> dict[tuple[PhaseKind, int], list[CountedWord]]:
    """The numbers of a set by their phase and their place in it, the cue's being 1; without what is counted down."""
    falling = Counter(phase.kind for phases in one.rounds for phase in phases if phase.falls)
    by_phase: dict[tuple[PhaseKind, int], list[CountedWord]] = {}
    for phases in one.rounds:
        for phase in phases:
            if phase.words[0].number or falling[phase.kind] > len(one.rounds) / 2:
                continue
            for word in phase.words[1:]:
                index = 1 + round((word.beat - phase.start) / count)
                by_phase.setdefault((phase.kind, index), []).append(word)
    return by_phase


def _out_of_order(one: PerformedSet) -> Iterator[tuple[CountedWord, CountedWord]]:
    """Words of a set that are others in most rounds, with one that stands there."""
    said = [tuple(word.text for phase in phases for word in phase.words) for phases in one.rounds]
    usual, times = Counter(said).most_common(1)[0]
    if len(said) < _ROUNDS or times < 2:
        return
    words = [word for phases in one.rounds for phase in phases for word in phase.words]
    heard = [word.text for word in words]
    wanted = list(usual) * (len(words) // len(usual) + 1)
    like = {word.text: word for word in words}
    for kind, begin, end, at, until in SequenceMatcher(None, heard, wanted, autojunk=False).get_opcodes():
        if kind == "replace" and end - begin == until - at:
            yield from zip(words[begin:end], (like[text] for text in wanted[at:until]))
