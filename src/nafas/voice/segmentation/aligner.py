"""Match utterances to the lines of a call sheet: by sound, by length and by order, all of the way at once.

A best path (A. Viterbi, IEEE Trans. Information Theory 13 (1967) 260-269) through all utterances: each is some line, or
none (a cough); neighbouring ones may be one line with a pause in it. Going on to the next line or reading the same one
again costs little, skipping a line more, going back most; so one slip does not shift what follows.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

# Costs are in units of `features.distances`: 0 is the same, about 1 another word. Set by hand on made-up practice
# recordings of the demo's call sheet (`recording/practice.py`), never on a person's; which seeds is not on record. The
# tests hold them on voices, noise and orders of their own.
_NEXT, _AGAIN = 0.0, 0.06
_SKIP, _EACH_SKIP = 0.11, 0.008
_BACK = 0.26
NOTHING = 0.24
_PACE = 0.55  # weight of how far a length is from what the line should take
_JOINED = 0.05  # what taking two utterances for one line costs
_PAUSE = 0.35  # and each second of pause between them past a short one
_SHORT_PAUSE = 0.4
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
        distance: of each to each line, shape (spans, lines), as `likeness.distances`.
        seconds: how long each is, shape (spans,).
        pauses: the longest pause inside each, s, shape (spans,).
    """

    spans: list[tuple[int, int]]
    distance: NDArray[np.float32]
    seconds: NDArray[np.float64]
    pauses: NDArray[np.float64]


def spans_of(starts: NDArray[np.float64], ends: NDArray[np.float64], longest: float) -> list[tuple[int, int]]:
    """Stretches of neighbouring utterances no longer than `longest` seconds, with no long pause inside."""
    found = []
    for first in range(len(starts)):
        for last in range(first, min(first + MOST_PARTS, len(starts))):
            if last > first and (
                starts[last] - ends[last - 1] > _LONGEST_PAUSE or ends[last] - starts[first] > longest
            ):
                break
            found.append((first, last))
    return found


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
    pace = 1.0
    matches: list[Match] = []
    for _ in range(2):  # the reader's own pace is known better the second time
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
    many, lines = max(last for _, last in candidates.spans) + 1, len(lengths)
    # What a right match usually costs: the middle of the best costs of single utterances.
    usual = float(np.median(cost.min(axis=1)))
    cost = cost - usual
    steps = _steps(lines) if ordered else np.full((lines, lines), _AGAIN)
    best = np.full((many + 1, lines), np.inf)
    came: list[list[tuple[int, int, int | None] | None]] = [[None] * lines for _ in range(many + 1)]
    begin = (_SKIP * (np.arange(lines) > 0) + _EACH_SKIP * np.arange(lines)) * ordered
    ending: dict[int, list[int]] = {}
    for i, (_, last) in enumerate(candidates.spans):
        ending.setdefault(last, []).append(i)
    nothing = np.full(many + 1, np.inf)  # nothing matched yet
    nothing[0] = 0.0
    for at in range(1, many + 1):
        nothing[at] = nothing[at - 1] + price
        for line in range(lines):
            if best[at - 1, line] + price < best[at, line]:
                best[at, line] = best[at - 1, line] + price
                came[at][line] = (at - 1, line, None)
        for i in ending.get(at - 1, ()):
            first = candidates.spans[i][0]
            joined = _JOINED * (at - 1 - first) + _PAUSE * max(0.0, float(candidates.pauses[i]) - _SHORT_PAUSE)
            through = best[first][:, None] + steps
            source = through.argmin(axis=0)
            value = through[source, np.arange(lines)]
            fresh = nothing[first] + begin
            total = np.minimum(value, fresh) + cost[i] + joined
            for line in map(int, np.flatnonzero(total < best[at])):
                best[at, line] = total[line]
                came[at][line] = (first, int(source[line]) if value[line] <= fresh[line] else -1, i)
    return _without_strangers(_walk_back(candidates, cost, best, came, nothing), candidates, cost)


def _steps(lines: int) -> NDArray[np.float64]:
    """Cost of going from each line to each other, shape (lines, lines)."""
    ahead = np.arange(lines)[None, :] - np.arange(lines)[:, None]
    found = np.where(ahead > 1, _SKIP + _EACH_SKIP * np.minimum(ahead, 20), _BACK)
    found[ahead == 1], found[ahead == 0] = _NEXT, _AGAIN
    if lines > 1:
        found[lines - 1, 0] = _AGAIN  # from the end to the beginning: the sheet is read once more
    return np.asarray(found, float)


def _walk_back(
    candidates: Candidates,
    cost: NDArray[np.float64],
    best: NDArray[np.float64],
    came: list[list[tuple[int, int, int | None] | None]],
    nothing: NDArray[np.float64],
) -> list[Match]:
    at = len(best) - 1
    line = int(best[at].argmin())
    if nothing[at] <= best[at, line]:
        return [Match(n, n, None, 0.0) for n in range(at)]
    found: list[Match] = []
    while at > 0:
        step = came[at][line] if line >= 0 else None
        if step is None:
            found += [Match(n, n, None, 0.0) for n in range(at - 1, -1, -1)]
            break
        before, source, span = step
        if span is None:
            found.append(Match(at - 1, at - 1, None, 0.0))
        else:
            found.append(Match(before, at - 1, line, _confidence(cost[span], line)))
        at, line = before, source
    return found[::-1]


def _without_strangers(matches: list[Match], candidates: Candidates, cost: NDArray[np.float64]) -> list[Match]:
    """The matches, without a click or a breath at the end of one of several parts: there the line sounds righter
    without it, while the words of a sentence are missed."""
    places = {span: place for place, span in enumerate(candidates.spans)}
    found: list[Match] = []
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
            match = Match(*span, line, _confidence(cost[places[span]], line))
        found += [*before, match, *after]
    return found


def _confidence(cost: NDArray[np.float64], line: int) -> float:
    """From how far the next best line is, and how near this one is to a usual match."""
    others = np.delete(cost, line)
    margin = float(others.min() - cost[line]) if len(others) else 0.3
    fits = 1 / (1 + np.exp((float(cost[line]) - 0.22) / 0.06))
    apart = 1 / (1 + np.exp(-(margin + 0.02) / 0.05))
    return float(fits * apart)
