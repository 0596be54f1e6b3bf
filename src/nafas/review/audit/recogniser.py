"""Cues and numbers recognised by PocketSphinx, with the English acoustic model its wheel carries.

A grammar of cue words and numbers only: what is talk is decoded into them too, and told apart afterwards by how words
stand (`heard.without_talk`), which costs a tenth of what a model of talk would.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from nafas.parallel.shares import PerWorker, Tell, ignored, in_shares
from nafas.review.audit.decoder import CORE, HURRIED, QUIET, THOROUGH, Ear
from nafas.review.audit.heard import without_talk
from nafas.script.performed import CountedWord
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.clip import Samples
from nafas.voice.recognition.decoder import FRAME, RATE, Tuning, run
from nafas.voice.segmentation.source import Source, sound

_OVER = 1.5
"""Seconds heard around a window, so that no word of it is cut."""
_WORDS = 16
"""Words whose beats one worker looks for at a go."""
_BEFORE = 0.12
_FINE, _QUIETER = 320, 10 ** (-14 / 20)
"""Samples between two looks at the level of a word, and of its loudest part, what is no part of it."""
_HOLE, _LONGEST_HOLE = 1.7, 16.0
"""Counts, and seconds, between two words among which one may be missed."""
_TOUCHES, _SPLINTER = 0.03, 0.17
"""Seconds between two parts of one word, and of a part that is no word."""


def hear(
    source: Source, ear: Ear, tuning: Tuning, progress: Callable[[float], None] = lambda done: None
) -> list[CountedWord]:
    """The cue words and numbers that are called and counted in a recording, each on its felt beat.

    Args:
        source: the recording.
        ear: what is listened for.
        tuning: of it.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.
    """
    if not tuning.gain:
        return []
    windows = [float(begin) for begin in np.arange(0.0, source.seconds, CORE)]
    decoder = PerWorker(lambda: ear.decoder(*HURRIED))

    def window(begin: float, tell: Tell) -> list[CountedWord]:
        words = _window(decoder.mine, ear, source, begin, tuning)
        tell(1)
        return words

    heard = in_shares(window, windows, len(windows), progress)
    words = [word for words_ in heard for word in words_]
    words = without_talk(_with_room(_with_holes_heard(source, ear, words, tuning)))
    some = [words[first : first + _WORDS] for first in range(0, len(words), _WORDS)]
    on_beats = in_shares(lambda part, tell: [_on_its_beat(source, word) for word in part], some, len(some), ignored)
    return [word for words_ in on_beats for word in words_]


def _with_holes_heard(source: Source, ear: Ear, words: list[CountedWord], tuning: Tuning) -> list[CountedWord]:
    """The words, and those of holes in counting, heard again with more of a search: one hurried past gives up a whole
    stretch now and then."""
    counted = without_talk(_with_room(words))
    steps = np.diff([word.start for word in counted])
    if not len(steps):
        return words
    usual, decoder = float(np.median(steps)), PerWorker(lambda: ear.decoder(*THOROUGH))
    pairs = zip(counted, counted[1:], steps)
    holes = [(one.end, other.start) for one, other, step in pairs if _HOLE * usual < step < _LONGEST_HOLE]

    def again(hole: tuple[float, float], tell: Tell) -> list[CountedWord]:
        begin = hole[0] - 0.05
        words = _decoded(decoder.mine, ear, sound(source, begin, hole[1] + 0.05), begin, tuning)
        return [word for word in words if hole[0] <= word.start and word.end <= hole[1]]

    kept = [word for word in words if not any(begin <= word.start < end for begin, end in holes)]
    kept += [word for words_ in in_shares(again, holes, len(holes), ignored) for word in words_]
    return sorted(kept, key=lambda word: word.start)


def _on_its_beat(source: Source, word: CountedWord) -> CountedWord:
    begin = max(0.0, word.start - _BEFORE)
    samples = source.read(round(begin * source.rate), round((word.end - begin) * source.rate))
    return replace(word, beat=begin + find_beat(samples, source.rate).seconds)


def _window(decoder: Any, ear: Ear, source: Source, begin: float, tuning: Tuning) -> list[CountedWord]:
    first = max(0.0, begin - _OVER)
    samples = sound(source, first, begin + CORE + _OVER)
    if not len(samples) or float(np.sqrt(np.mean(samples**2))) < QUIET:
        return []
    words = _decoded(decoder, ear, samples, first, tuning)
    if not words:
        # Its best path was given up on the way: two shorter stretches have two chances.
        half = len(samples) // 2
        for part in (0, half):
            words += _decoded(
                decoder, ear, samples[part : part + half + round(0.5 * RATE)], first + part / RATE, tuning
            )
    return [word for word in words if begin <= (word.start + word.end) / 2 < begin + CORE]


def _decoded(decoder: Any, ear: Ear, samples: Samples, first: float, tuning: Tuning) -> list[CountedWord]:
    """Words of a stretch; `room` is not known yet."""
    run(decoder, samples, tuning)
    decoded: list[CountedWord] = []
    words = ear.vocabulary
    for segment in decoder.seg() or ():
        text = ear.texts.get(segment.word.split("(")[0])
        if text is None:  # silence
            continue
        start, end = first + segment.start_frame * FRAME, first + (segment.end_frame + 1) * FRAME
        begin, stop = _loud(samples[round((start - first) * RATE) : round((end - first) * RATE)])
        start, end = start + begin, start + stop
        decoded.append(CountedWord(text, words.values.get(text, 0), words.kinds.get(text), start, end, start))
    return decoded


def _loud(samples: Samples) -> tuple[float, float]:
    """From where to where a word is heard of what was taken for it, in seconds: a first sound that the recogniser
    does not know well may be given all of the silence before it."""
    rows = samples[: len(samples) // _FINE * _FINE].reshape(-1, _FINE)
    level = np.sqrt(np.mean(rows**2, axis=1))
    heard = np.flatnonzero(level > _QUIETER * level.max(initial=0.0))
    if not len(heard):
        return 0.0, len(samples) / RATE
    return max(0, heard[0] - 1) * _FINE / RATE, min(len(rows), heard[-1] + 3) * _FINE / RATE


def _whole(words: Sequence[CountedWord]) -> list[CountedWord]:
    """The words, a splinter at the end or beginning of one taken into it: "six" with a drawn hiss is "six, two"."""
    joined: list[CountedWord] = []
    for word in words:
        last = joined[-1] if joined else None
        touches = last is not None and word.start - last.end < _TOUCHES
        if last is not None and touches and min(word.end - word.start, last.end - last.start) < _SPLINTER:
            longer = word if word.end - word.start > last.end - last.start else last
            joined[-1] = replace(longer, start=last.start, beat=last.start, end=word.end)
        else:
            joined.append(word)
    return joined


def _with_room(words: Sequence[CountedWord]) -> list[CountedWord]:
    """The words with the room to their nearer neighbour."""
    kept = _whole(words)
    measured = []
    for at, word in enumerate(kept):
        before = word.start - kept[at - 1].end if at else np.inf
        after = kept[at + 1].start - word.end if at + 1 < len(kept) else np.inf
        room = float(min(before, after, 10.0))
        measured.append(replace(word, room=room))
    return measured
