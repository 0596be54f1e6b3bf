"""Listen to a recording: cue words and numbers with their times, by something that does not know the plan."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from nafas.script.performed import CountedWord

_FAR = 5.0
"""Seconds to the next word past which a lone number is no count."""
ISOLATED = 0.12
"""Seconds without another word on either side of a word that is counted or called; talk leaves less."""
_SHORTEST, _LONGEST = 0.15, 1.3
"""Seconds of a cue or a number."""
_QUICKEST, _STEP_APART = 0.5, 0.3
"""Seconds between words that keep step, at least, and by what part of a step two of them may differ."""
_ROW = 4
"""Words at least that are counted one after another."""
_EVEN, _LEAST = 0.22, 0.3
"""Of a count that a word may be early or late and still be even; how sure a word is that is not."""


def without_talk(words: Sequence[CountedWord]) -> list[CountedWord]:
    """The words that are counted or called, each with how sure that is.

    Talk is a stream: its words touch, and come as they please. What is counted stands by itself, in a row of its kind,
    at even distances; long cues may touch what comes next, but keep step. A row ends where a word that touches another
    out of step comes between, or after `_FAR` seconds.
    """
    rows: list[list[CountedWord]] = [[]]
    for at, word in enumerate(words):
        last = rows[-1]
        long = word.end - word.start
        stands = word.room >= ISOLATED or _in_step(words, at)
        if not stands or not _SHORTEST <= long <= _LONGEST:
            if not stands and last:
                rows.append([])
            continue
        if last and word.beat - last[-1].beat > _FAR:
            rows.append([])
        rows[-1].append(word)
    return [word for row in rows if len(row) >= _ROW for word in _judged(row)]


def _in_step(words: Sequence[CountedWord], at: int) -> bool:
    """Whether a word follows and is followed at the pace of counting."""
    if not 0 < at < len(words) - 1:
        return False
    before, after = words[at].start - words[at - 1].start, words[at + 1].start - words[at].start
    return min(before, after) > _QUICKEST and abs(after - before) <= _STEP_APART * (before + after) / 2


def _judged(row: list[CountedWord]) -> list[CountedWord]:
    """The words of a row, surer the more evenly they come: how many of their two distances are whole counts."""
    steps = np.diff([word.beat for word in row])
    count = float(np.median(steps))
    even = np.abs(steps / count - np.maximum(1, np.round(steps / count))) <= _EVEN
    words_ = []
    for at, word in enumerate(row):
        near = even[max(0, at - 1) : at + 1]
        words_.append(replace(word, confidence=round(_LEAST + (1 - _LEAST) * float(near.mean()) * 0.98, 3)))
    return words_
