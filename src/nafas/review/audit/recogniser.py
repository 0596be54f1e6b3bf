"""English cues and numbers recognised by PocketSphinx, with the acoustic model its wheel carries.

A grammar of cue words and numbers only: what is talk is decoded into them too, and told apart afterwards by how words
stand (`heard.without_talk`), which costs a tenth of what a model of talk would.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from num2words import num2words

from nafas.review.audit.heard import CUE_WORDS, MOST_COUNTED, HeardWord, without_talk
from nafas.sound.meters.side_by_side import Tell, side_by_side
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.clip import Samples
from nafas.voice.segmentation.segment import at_rate
from nafas.voice.segmentation.source import Source

RATE = 16_000
_CORE, _OVER = 8.0, 1.5
"""Seconds of a window whose words are taken, and heard around it so that none is cut."""
_PART = 15
"""Windows that one worker hears at a go."""
_FRAME, _BEFORE = 0.01, 0.05
_HURRIED, _THOROUGH = (100, 2), (800, 4)
"""States that are followed at a time and Gaussians of each that count: at first, and where something was missed."""
_HOLE, _LONGEST_HOLE = 1.7, 16.0
"""Counts, and seconds, between two words among which one may be missed."""

_DITHER = 2e-4
"""Noise against digital silence, whose logarithm the recogniser does not bear."""
_QUIET = 3e-4
"""RMS under which a window holds no voice."""
_LEVEL = 0.7
_SILENCES = ("", "<", "[")
NUMBERS = {str(num2words(number)): number for number in range(1, MOST_COUNTED + 1)}


def _decoder(states: int, gaussians: int) -> Any:
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


def hear(source: Source, progress: Callable[[float], None] = lambda done: None) -> list[HeardWord]:
    """The cue words and numbers that are called and counted in a recording, each on its felt beat.

    Args:
        source: the recording.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.
    """
    windows = list(np.arange(0.0, source.seconds, _CORE))
    parts = [windows[first : first + _PART] for first in range(0, len(windows), _PART)]

    def part(begins: list[float], tell: Tell) -> list[HeardWord]:
        decoder = _decoder(*_HURRIED)
        found: list[HeardWord] = []
        for begin in begins:
            found += _window(decoder, source, float(begin))
            tell(round(_CORE * RATE))
        return found

    heard = side_by_side(part, parts, round(_CORE * RATE) * len(windows), progress)
    words = [word for found in heard for word in found]
    words = _with_holes_heard(source, words)
    return [_on_its_beat(source, word) for word in without_talk(_with_room(words))]


def _with_holes_heard(source: Source, words: list[HeardWord]) -> list[HeardWord]:
    """The words, and those of holes in counting, heard again with more of a search: one hurried past gives up a whole
    stretch now and then."""
    counted = without_talk(_with_room(words))
    steps = np.diff([word.start for word in counted])
    if not len(steps):
        return words
    usual, decoder = float(np.median(steps)), _decoder(*_THOROUGH)
    found = list(words)
    for before, after, step in zip(counted, counted[1:], steps):
        if not _HOLE * usual < step < _LONGEST_HOLE:
            continue
        begin, end = before.end - 0.05, after.start + 0.05
        again = _decoded(decoder, _sound(source, begin, end), begin)
        inside = [word for word in again if before.end <= word.start and word.end <= after.start]
        found = [word for word in found if not before.end <= word.start < after.start] + inside
    return sorted(found, key=lambda word: word.start)


def _on_its_beat(source: Source, word: HeardWord) -> HeardWord:
    begin = max(0.0, word.start - _BEFORE)
    samples = source.read(round(begin * source.rate), round((word.end - begin) * source.rate))
    return replace(word, beat=begin + find_beat(samples, source.rate).seconds)


def _window(decoder: Any, source: Source, begin: float) -> list[HeardWord]:
    first = max(0.0, begin - _OVER)
    samples = _sound(source, first, begin + _CORE + _OVER)
    if not len(samples) or float(np.sqrt(np.mean(samples**2))) < _QUIET:
        return []
    words = _decoded(decoder, samples, first)
    if not words:
        # Its best path was given up on the way: two shorter stretches have two chances.
        half = len(samples) // 2
        for part in (0, half):
            words += _decoded(decoder, samples[part : part + half + round(0.5 * RATE)], first + part / RATE)
    return [word for word in words if begin <= (word.start + word.end) / 2 < begin + _CORE]


def _sound(source: Source, begin: float, end: float) -> Samples:
    first = round(begin * source.rate)
    return at_rate(source.read(first, round(end * source.rate) - first), source.rate)


def _decoded(decoder: Any, samples: Samples, first: float) -> list[HeardWord]:
    """Words of a stretch; `room` is not known yet."""
    noise = np.random.default_rng(1).standard_normal(len(samples)).astype(np.float32) * _DITHER
    scaled = samples * (_LEVEL / max(1e-6, float(np.abs(samples).max()))) + noise
    decoder.start_utt()
    decoder.process_raw((scaled * 32_767).astype(np.int16).tobytes(), full_utt=True)
    decoder.end_utt()
    found: list[HeardWord] = []
    for segment in decoder.seg() or ():
        text = segment.word.split("(")[0]
        if text[:1] in _SILENCES:
            continue
        start, end = segment.start_frame * _FRAME, (segment.end_frame + 1) * _FRAME
        words = found[-1].text if found else ""
        if text in ("in", "out") and words == "breathe" and start + first - found[-1].end < 0.1:
            before = found.pop()
            joined = f"{before.text} {text}"
            found.append(HeardWord(joined, 0, before.start, first + end, before.start, 0.0, 0.0))
        else:
            found.append(HeardWord(text, NUMBERS.get(text, 0), first + start, first + end, first + start, 0.0, 0.0))
    return found


def _with_room(words: Sequence[HeardWord]) -> list[HeardWord]:
    """The words with the room to their nearer neighbour."""
    kept = [word for word in words if word.number or word.kind is not None]
    found = []
    for at, word in enumerate(kept):
        before = word.start - kept[at - 1].end if at else np.inf
        after = kept[at + 1].start - word.end if at + 1 < len(kept) else np.inf
        room = float(min(before, after, 10.0))
        found.append(HeardWord(word.text, word.number, word.start, word.end, word.beat, 0.0, room))
    return found
