"""What is heard in a recording: cue words and numbers with their times, by something that does not know the plan."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nafas.script.model.phase import PhaseKind

CUE_WORDS: dict[str, PhaseKind] = {
    "inhale": PhaseKind.INHALE,
    "breathe in": PhaseKind.INHALE,
    "exhale": PhaseKind.EXHALE,
    "breathe out": PhaseKind.EXHALE,
    "hold": PhaseKind.HOLD_FULL,
    "rest": PhaseKind.HOLD_EMPTY,
}
"""English cue words and their phases; "hold" after an exhale is a hold empty."""
MOST_COUNTED = 12
"""Numbers are heard up to here: the more there are, the slower and the less sure it is."""
_FAR = 5.0
"""Seconds to the next word past which a lone number is no count."""
ISOLATED = 0.12
"""Seconds without another word on either side of a word that is counted or called; talk leaves less."""
_SHORTEST, _LONGEST = 0.15, 1.3
"""Seconds of a cue or a number."""
_ROW = 4
"""Words at least that are counted one after another."""
_EVEN, _LEAST = 0.22, 0.3
"""Of a count that a word may be early or late and still be even; how sure a word is that is not."""


@dataclass(frozen=True)
class HeardWord:
    """A cue or a number.

    Attributes:
        text: a key of `CUE_WORDS`, or a number word.
        number: its number, 1 to `MOST_COUNTED`; 0 for a cue.
        start, end: seconds.
        beat: seconds at which it is felt.
        confidence: 0 to 1, by how evenly it comes among its like; 0 where that is not known yet.
        room: seconds of no speech on the nearer side.
    """

    text: str
    number: int
    start: float
    end: float
    beat: float
    confidence: float
    room: float

    @property
    def kind(self) -> PhaseKind | None:
        """The phase a cue begins; None for a number."""
        return CUE_WORDS.get(self.text)


def without_talk(words: Sequence[HeardWord]) -> list[HeardWord]:
    """The words that are counted or called, each with how sure that is.

    Talk is a stream: its words touch, and come as they please. What is counted stands by itself, in a row of its kind,
    at even distances. A row ends where a word that touches another comes between, or after `_FAR` seconds.
    """
    rows: list[list[HeardWord]] = [[]]
    for word in words:
        last = rows[-1]
        long = word.end - word.start
        if word.room < ISOLATED or not _SHORTEST <= long <= _LONGEST:
            if word.room < ISOLATED and last:
                rows.append([])
            continue
        if last and word.beat - last[-1].beat > _FAR:
            rows.append([])
        rows[-1].append(word)
    return [word for row in rows if len(row) >= _ROW for word in _judged(row)]


def _judged(row: list[HeardWord]) -> list[HeardWord]:
    """The words of a row, surer the more evenly they come: how many of their two distances are whole counts."""
    steps = np.diff([word.beat for word in row])
    count = float(np.median(steps))
    even = np.abs(steps / count - np.maximum(1, np.round(steps / count))) <= _EVEN
    found = []
    for at, word in enumerate(row):
        near = even[max(0, at - 1) : at + 1]
        found.append(replace(word, confidence=round(_LEAST + (1 - _LEAST) * float(near.mean()) * 0.98, 3)))
    return found
