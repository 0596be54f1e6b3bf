"""Match utterances to the lines of a call sheet: by sound, by length and by order, all of the way at once.

A best path (A. Viterbi, IEEE Trans. Information Theory 13 (1967) 260-269) through all utterances: each is some line, or
none (a cough); neighbouring ones may be one line with a pause in it. Going on to the next line or reading the same one
again costs little, skipping a line more, going back most; so one slip does not shift what follows. An earlier line may
be read again in passing, after which the sheet goes on where it was.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

# Costs are in units of `features.distances`: 0 is the same, about 1 another word. Set by hand on made-up practice
# recordings of the demo's call sheet (`recording/practice.py`), never on a person's; which seeds is not on record. The
# tests hold them on voices, noise and orders of their own.
_NEXT, _AGAIN = 0.0, 0.06
_SKIP, _EACH_SKIP = 0.18, 0.02
_BACK = 0.26
_PASSING = 0.2  # an earlier line read again on the way; under `NOTHING`, or a sound of no line would be cheaper
NOTHING = 0.36
_PACE = 0.55  # weight of how far a length is from what the line should take
_JOINED = 0.05  # what taking two utterances for one line costs
_PAUSE = 0.35  # and each second of pause between them past a short one
_SHORT_PAUSE = 0.4
_ALIKE, _ALIKE_BOUNDS = 0.05, (-1.5, 2.5)  # what a standard score more of similarity to the one before says
_FITS, _MARGIN, _MARGIN_SPREAD = 0.3, 0.08, 0.05  # of the confidence
MOST_PARTS = 4
_LONGEST_PAUSE = 0.9  # seconds inside one line


@dataclass(frozen=True)
class Match:
    """Utterances `first` to `last` are line `line`; None: nothing on the call sheet.

    `confidence` is 0 to 1: how much better it fits than any other line, and how well at all.
    """

    first: int
    last: int
    line: int | None
    confidence: float


@dataclass(frozen=True)
class Candidates:
    """Every stretch of one to `MOST_PARTS` neighbouring utterances that may be one line.

    Attributes:
        spans: (first, last) utterance of each.
        distance: of each to each line, shape (spans, lines), as `features.distances`.
        seconds: how long each is, shape (spans,).
        pauses: the longest pause inside each, s, shape (spans,).
        alike: how much each utterance sounds like the speech before it, as standard scores among all pairs of the
            recording, shape (utterances,); None where that is not known.
        strange: cost of taking each utterance for speech at all, shape (utterances,); None for none.
    """

    spans: list[tuple[int, int]]
    distance: NDArray[np.float32]
    seconds: NDArray[np.float64]
    pauses: NDArray[np.float64]
    alike: NDArray[np.float64] | None = None
    strange: NDArray[np.float64] | None = None


def spans_of(starts: NDArray[np.float64], ends: NDArray[np.float64], longest: float) -> list[tuple[int, int]]:
    """Stretches of neighbouring utterances no longer than `longest` seconds, with no long pause inside."""
    spans = []
    for first in range(len(starts)):
        for last in range(first, min(first + MOST_PARTS, len(starts))):
            if last > first and (
                starts[last] - ends[last - 1] > _LONGEST_PAUSE or ends[last] - starts[first] > longest
            ):
                break
            spans.append((first, last))
    return spans


def length_cost(seconds: NDArray[np.float64], usual: NDArray[np.float64]) -> NDArray[np.float64]:
    """What it costs to take sounds of so many seconds for lines that usually last so long; broadcast together."""
    return np.asarray(_PACE * np.minimum(np.log(seconds / usual) ** 2, 4.0))


def align(
    candidates: Candidates, lengths: NDArray[np.float64], nothing: float = NOTHING, ordered: bool = True
) -> list[Match]:
    """The best way to read all utterances as lines.

    Args:
        candidates: at least one a line of utterances.
        lengths: seconds each line should take at the stand-in's pace, shape (lines,).
        nothing: what calling an utterance nothing costs, over the usual distance of a right match.
        ordered: going on costs less than going back; else any line may follow any other.
    """
    if not candidates.spans or not len(lengths):
        return []
    single = [index for index, (first, last) in enumerate(candidates.spans) if first == last]
    # How slow this reader is, from the lengths alone; what was matched says it better the second time.
    pace = float(np.clip(np.median(candidates.seconds[single]) / np.median(lengths), 0.7, 2.2))
    matches: list[Match] = []
    for _ in range(2):
        matches = _best_path(candidates, lengths * pace, nothing, ordered)
        spans = {span: i for i, span in enumerate(candidates.spans)}
        ratios = [
            candidates.seconds[spans[m.first, m.last]] / lengths[m.line]
            for m in matches
            if m.line is not None and m.confidence > 0.5
        ]
        if len(ratios) < 3:
            break
        pace = float(np.median(ratios))
    return matches


def _best_path(candidates: Candidates, lengths: NDArray[np.float64], price: float, ordered: bool) -> list[Match]:
    cost = candidates.distance + length_cost(candidates.seconds[:, None], lengths[None, :])
    count, lines = max(last for _, last in candidates.spans) + 1, len(lengths)
    # What a right match usually costs: the middle of the best costs of single utterances.
    cost = cost - float(np.median(cost.min(axis=1)))
    if candidates.strange is not None:
        cost = (
            cost + np.array([candidates.strange[first : last + 1].max() for first, last in candidates.spans])[:, None]
        )
    joined = np.array(
        [
            _JOINED * (b - a) + _PAUSE * max(0.0, pause - _SHORT_PAUSE)
            for (a, b), pause in zip(candidates.spans, candidates.pauses)
        ]
    )
    lattice = _Lattice(candidates, cost + joined[:, None], price, ordered, count, lines)
    return _without_strangers(lattice.matches(), candidates, cost)


class _Lattice:
    """All ways through the utterances at once: what the best of them costs up to each boundary, and from it on.

    The confidence of a match is how much dearer the best way is that takes the same sound for anything else: order and
    neighbours are part of it.
    """

    def __init__(
        self,
        candidates: Candidates,
        cost: NDArray[np.float64],
        price: float,
        ordered: bool,
        count: int,
        lines: int,
    ) -> None:
        self.spans, self.cost, self.price, self.count, self.lines = candidates.spans, cost, price, count, lines
        self.ordered = ordered
        self.begin = (_SKIP * (np.arange(lines) > 0) + _EACH_SKIP * np.arange(lines)) * ordered
        self.usual = _steps(lines) if ordered else np.full((lines, lines), _AGAIN)
        self.same = np.where(np.eye(lines, dtype=bool), -_ALIKE, _ALIKE)
        self.alike = np.zeros(count) if candidates.alike is None else np.clip(candidates.alike, *_ALIKE_BOUNDS)
        self.ending: dict[int, list[int]] = {}
        self.starting: dict[int, list[int]] = {}
        for index, (first, last) in enumerate(self.spans):
            self.ending.setdefault(last, []).append(index)
            self.starting.setdefault(first, []).append(index)
        # What an earlier line read again costs, before each line the sheet goes on from.
        earlier = np.minimum.accumulate(cost, axis=1) if ordered else np.full_like(cost, np.inf)
        self.passing = np.full_like(cost, np.inf)
        self.passing[:, 2:] = earlier[:, :-2] + _PASSING
        self.nothing = price * np.arange(count + 1)
        self.upto = np.full((count + 1, lines), np.inf)
        self.onward = np.full((count + 1, lines), np.inf)
        self._forward()
        self._backward()

    def _steps(self, at: int) -> NDArray[np.float64]:
        """Cost of going from each line to each other at a boundary: what sounds as the one before is likely the same
        line again; what does not, another."""
        values: NDArray[np.float64] = self.usual + self.alike[at] * self.same
        return values

    def _entering(self, at: int) -> NDArray[np.float64]:
        """What the best way costs up to a boundary, before each line: after another line, or after nothing."""
        best = (self.upto[at][:, None] + self._steps(at)).min(axis=0) if at else np.full(self.lines, np.inf)
        return np.asarray(np.minimum(best, self.nothing[at] + self.begin), np.float64)

    def _forward(self) -> None:
        for at in range(1, self.count + 1):
            self.upto[at] = self.upto[at - 1] + self.price
            for index in self.ending.get(at - 1, ()):
                first = self.spans[index][0]
                self.upto[at] = np.minimum(self.upto[at], self._entering(first) + self.cost[index])
                self.upto[at] = np.minimum(self.upto[at], self.upto[first] + self.passing[index])

    def _backward(self) -> None:
        self.onward[self.count] = 0.0
        for at in range(self.count - 1, -1, -1):
            self.onward[at] = self.price + self.onward[at + 1]
            for index in self.starting.get(at, ()):
                rest = self.onward[self.spans[index][1] + 1]
                after = self.cost[index] + rest
                self.onward[at] = np.minimum(self.onward[at], (self._steps(at) + after[None, :]).min(axis=1))
                self.onward[at] = np.minimum(self.onward[at], self.passing[index] + rest)

    def matches(self) -> list[Match]:
        """The best way, back to front; ties go to a line rather than to nothing."""
        best = float(min(self.nothing[-1], self.upto[-1].min()))
        if self.nothing[-1] < self.upto[-1].min():
            return [Match(n, n, None, 0.0) for n in range(self.count)]
        matches_: list[Match] = []
        at, line = self.count, int(self.upto[-1].argmin())
        while at > 0:
            value, near = self.upto[at, line], 1e-9 + 1e-9 * abs(self.upto[at, line])
            for index in self.ending.get(at - 1, ()):
                first = self.spans[index][0]
                if self._entering(first)[line] + self.cost[index, line] <= value + near:
                    matches_.append(Match(first, at - 1, line, self._confidence(index, line, best)))
                    ways = self.upto[first] + self._steps(first)[:, line] if first else np.full(self.lines, np.inf)
                    fresh = self.nothing[first] + self.begin[line] <= ways.min()
                    at, line = first, -1 if fresh else int(ways.argmin())
                    break
                if self.upto[first, line] + self.passing[index, line] <= value + near:
                    passed = int(self.cost[index, : line - 1].argmin())
                    matches_.append(Match(first, at - 1, passed, self._confidence(index, passed, best)))
                    at = first
                    break
            else:
                matches_.append(Match(at - 1, at - 1, None, 0.0))
                at -= 1
            if line < 0:
                matches_ += [Match(n, n, None, 0.0) for n in range(at - 1, -1, -1)]
                break
        return matches_[::-1]

    def _confidence(self, number: int, line: int, best: float) -> float:
        """From how much dearer the best way is that takes this sound for another line, or for none."""
        first, last = self.spans[number]
        through = self._entering(first) + self.cost[number] + self.onward[last + 1]
        # The same sound as an earlier line in passing: for each line, the best of those the sheet goes on from.
        going_on = self.upto[first] + self.onward[last + 1] + _PASSING
        latest = np.minimum.accumulate(going_on[::-1])[::-1]
        if self.ordered:
            through[:-2] = np.minimum(through[:-2], latest[2:] + self.cost[number, :-2])
        others = np.delete(through, line)
        passed = self.upto[first] + self.price * (last + 1 - first) + self.onward[last + 1]
        other = min(float(others.min(initial=np.inf)), float(passed.min()))
        margin = min(other - best, 2.0)
        fits = 1 / (1 + np.exp((float(self.cost[number, line]) - _FITS) / 0.06))
        return float(fits / (1 + np.exp(-(margin - _MARGIN) / _MARGIN_SPREAD)))


def _steps(lines: int) -> NDArray[np.float64]:
    """Cost of going from each line to each other, shape (lines, lines)."""
    ahead = np.arange(lines)[None, :] - np.arange(lines)[:, None]
    values = np.where(ahead > 1, _SKIP + _EACH_SKIP * np.minimum(ahead, 20), _BACK)
    values[ahead == 1], values[ahead == 0] = _NEXT, _AGAIN
    if lines > 1:
        values[lines - 1, 0] = _AGAIN  # from the end to the beginning: the sheet is read once more
    return np.asarray(values, float)


def _without_strangers(matches: list[Match], candidates: Candidates, cost: NDArray[np.float64]) -> list[Match]:
    """The matches, without a click or a breath at the end of one of several parts: there the line sounds righter
    without it, while the words of a sentence are missed."""
    places = {span: index for index, span in enumerate(candidates.spans)}
    kept: list[Match] = []
    for match in matches:
        before: list[Match] = []
        after: list[Match] = []
        while match.line is not None and match.last > match.first:
            first, last, line = match.first, match.last, match.line
            now = cost[places[first, last], line]
            less = {span: cost[places[span], line] for span in ((first + 1, last), (first, last - 1)) if span in places}
            span = min(less, key=lambda each: less[each], default=None)
            if span is None or less[span] >= now:
                break
            if span[0] > first:
                before.append(Match(first, first, None, 0.0))
            else:
                after.insert(0, Match(last, last, None, 0.0))
            match = Match(*span, line, match.confidence)
        kept += [*before, match, *after]
    return kept
