"""What was heard held against a session: each word on its moment, words that are missing, extra or others."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from nafas.review.audit.vocabulary import plain
from nafas.script.performed import CountedWord
from nafas.timing.timeline import EventKind, Moment, Timeline

_SPOKEN = (EventKind.COUNT, EventKind.CUE, EventKind.STROKE)
_SKIP, _OTHER, _A_SECOND = 1.0, 1.6, 0.15
"""Cost of a word missed or added, of one taken for another, and of each second that a pair lies further off than the
pairs before it."""
_MOST_APART = 3.0
_SAME = 1e-9


@dataclass(frozen=True)
class Pair:
    """A moment of the session and the word heard for it; one of the two is None where there is none."""

    moment: Moment | None
    word: CountedWord | None

    @property
    def same(self) -> bool:
        return self.moment is not None and self.word is not None and plain(self.moment.text) == self.word.text


def align(timeline: Timeline, words: Sequence[CountedWord], texts: Collection[str], offset: float = 0.0) -> list[Pair]:
    """The cheapest way to lay what was heard on what was to be said (S. Needleman and C. Wunsch, J. Mol. Biol. 48
    (1970) 443-453), in order of time.

    Args:
        timeline: of the session.
        words: in order of time.
        texts: what was listened for; nothing else counts.
        offset: seconds by which the recording begins later than the session.
    """
    moments = [moment for moment in timeline.spoken if moment.kind in _SPOKEN and plain(moment.text) in texts]
    wanted = [plain(moment.text) for moment in moments]
    due = np.array([float(moment.at) for moment in moments])
    beats = np.array([word.beat - offset for word in words])
    cost = np.full((len(moments) + 1, len(words) + 1), np.inf)
    cost[:, 0], cost[0, :] = _SKIP * np.arange(len(moments) + 1), _SKIP * np.arange(len(words) + 1)
    heard = np.array([word.text for word in words])
    for row in range(1, len(moments) + 1):
        apart = np.abs(beats - due[row - 1])
        pair = np.where(heard == wanted[row - 1], 0.0, _OTHER) + _A_SECOND * np.minimum(apart, _MOST_APART)
        best = np.minimum(cost[row - 1, :-1] + pair, cost[row - 1, 1:] + _SKIP)
        # Along the row a skip may follow a skip: the running least, less what each place has cost to get to.
        steps = _SKIP * np.arange(1, len(words) + 1)
        cost[row, 1:] = np.minimum.accumulate(np.minimum(best - steps, cost[row, 0])) + steps
    pairs: list[Pair] = []
    row, column = len(moments), len(words)
    while row or column:
        if row and abs(cost[row, column] - cost[row - 1, column] - _SKIP) < _SAME:
            row -= 1
            pairs.append(Pair(moments[row], None))
        elif column and abs(cost[row, column] - cost[row, column - 1] - _SKIP) < _SAME:
            column -= 1
            pairs.append(Pair(None, words[column]))
        else:
            row, column = row - 1, column - 1
            pairs.append(Pair(moments[row], words[column]))
    return pairs[::-1]
