"""What a set is where too many of its words are misheard: rounds repeat, so their words are laid over each other and
vote.

Each word takes a place on the counts by the time since the one before. For every length of a round, the words of all
rounds that fall on one place are counted together, and the cues and numbers that fit them best are found over all ways
to divide the round in phases (dynamic programming). Own method.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nafas.script.model.phase import PhaseKind
from nafas.script.performed import CountedWord, PerformedSet, performed_set

_QUICKEST, _SLOWEST = 0.4, 3.0  # seconds a count
_APART = 15.0  # seconds without a word after which another set begins
_SHORTEST, _LONGEST, _MOST_COUNTS = 4, 44, 30  # counts of a round, and of a phase
_RIGHT, _WRONG = 1.9, 0.8
"""What a word that fits its place is worth, and one that does not costs: log likelihoods where three words in five are
heard right, among eleven."""
_AS_GOOD = 0.92
"""Of the best score, from which a shorter round is taken: twice as long a round fits as well."""
_FAR = 40  # counts of silence over which a round goes on
_LEAST_WORDS, _AGREE, _COVERED = 8, 0.5, 0.2
"""Words that fit, at least; their part of all words; and of all places."""
_LEAST_ROUNDS = 2
_ORDER = (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE, PhaseKind.HOLD_EMPTY)


@dataclass(frozen=True)
class _Round:
    """How a round is divided: its counts, the place of its first, and (kind, counts) of each phase."""

    length: int
    first: int
    phases: tuple[tuple[PhaseKind, int], ...]

    def due(self, place: int) -> tuple[PhaseKind | None, int]:
        """The cue, or None and the number, that belongs to a place."""
        at = (place - self.first) % self.length
        for kind, counts in self.phases:
            if at < counts:
                return (kind, 0) if at == 0 else (None, at + 1)
            at -= counts
        raise IndexError("a place past its round")


def folded(
    words: Sequence[CountedWord], cues: Mapping[PhaseKind, str], numbers: Mapping[int, str]
) -> list[PerformedSet]:
    """The sets that most rounds of a performance say, each word as it is due; those without agreement are left out.

    Args:
        words: as heard, in order of time.
        cues: what each phase is called by; a hold with empty lungs as any hold.
        numbers: number words by their number.
    """
    groups = _groups(words)
    solved: list[_Solved] = []
    for number in sorted(range(len(groups)), key=lambda index: -len(groups[index])):
        if any(one.first <= number <= one.last for one in solved) or len(groups[number]) < _LEAST_WORDS:
            continue
        places, count = _places(groups[number])
        best = _best(groups[number], places)
        if best is not None:
            solved.append(_extended(_Solved(number, number, groups[number], places, count, best), groups, solved))
    said = (_as_due(_trimmed(one), cues, numbers) for one in sorted(solved, key=lambda one: one.first))
    return [performed_set(each) for each in said if each]


@dataclass(frozen=True)
class _Solved:
    """A stretch of groups with one round: their words, the place of each, seconds a count, and the round."""

    first: int
    last: int
    words: list[CountedWord]
    places: NDArray[np.int64]
    count: float
    round: _Round

    def right(self) -> NDArray[np.bool_]:
        """Which words are as due."""
        return np.array([_fits(word, self.round.due(int(at))) for word, at in zip(self.words, self.places)])


def _extended(one: _Solved, groups: Sequence[list[CountedWord]], others: Sequence[_Solved]) -> _Solved:
    """With the groups before and after it whose words go on with its rounds over the silence between."""
    for step in (1, -1):
        while True:
            number = (one.last if step > 0 else one.first) + step
            if not 0 <= number < len(groups) or any(each.first <= number <= each.last for each in others):
                break
            joined = _joined(one, groups[number], number)
            if joined is None:
                break
            one = joined
    return one


def _joined(one: _Solved, group: list[CountedWord], number: int) -> _Solved | None:
    after = number > one.last
    gap = group[0].beat - one.words[-1].beat if after else one.words[0].beat - group[-1].beat
    if gap > _FAR * one.count:
        return None
    own, _ = _places(group)
    counts = round(gap / one.count)
    best: tuple[float, NDArray[np.int64]] = (0.0, own)
    for shift in (0, -1, 1):  # the pace may have wandered meanwhile
        places = one.places[-1] + counts + shift + own if after else one.places[0] - counts - shift - own[-1] + own
        right = sum(_fits(word, one.round.due(int(at))) for word, at in zip(group, places))
        if right > best[0]:
            best = (right, places)
    if best[0] < max(2, _AGREE * len(group)):
        return None
    words = [*one.words, *group] if after else [*group, *one.words]
    places = np.concatenate([one.places, best[1]] if after else [best[1], one.places])
    return _Solved(min(one.first, number), max(one.last, number), words, places, one.count, one.round)


def _trimmed(one: _Solved) -> _Solved:
    """Without what stands before the first and after the last round of which two words are as due, or all that is
    heard: it is no round."""
    right = one.right()
    rounds = (one.places - one.round.first) // one.round.length
    sure = {int(number) for number in rounds if right[rounds == number].all() or right[rounds == number].sum() >= 2}
    keep = (rounds >= min(sure)) & (rounds <= max(sure))
    words = [word for word, kept in zip(one.words, keep) if kept]
    return _Solved(one.first, one.last, words, one.places[keep], one.count, one.round)


def _groups(words: Sequence[CountedWord]) -> list[list[CountedWord]]:
    groups: list[list[CountedWord]] = []
    for word in words:
        if not groups or word.beat - groups[-1][-1].beat > _APART:
            groups.append([])
        groups[-1].append(word)
    return groups


def _places(words: Sequence[CountedWord]) -> tuple[NDArray[np.int64], float]:
    """The count that each word stands on, the first on 0, and the seconds of a count in the middle."""
    steps = np.diff([word.beat for word in words])
    near = steps[steps < 3 * _SLOWEST]
    lengths = np.arange(_QUICKEST, _SLOWEST, 0.01)
    fits = np.cos(2 * np.pi * near[None] / lengths[:, None]).mean(axis=1) if len(near) else np.zeros(len(lengths))
    count = float(lengths[np.flatnonzero(fits >= 0.9 * fits.max())[-1]]) if fits.max() > 0 else float(np.median(steps))
    places, now = [0], count
    for step in steps:
        counts = max(1, round(step / now))
        places.append(places[-1] + counts)
        if counts <= 3:
            now = 0.9 * now + 0.1 * float(np.clip(step / counts, 0.8 * count, 1.25 * count))
    return np.array(places), count


def _best(words: Sequence[CountedWord], places: NDArray[np.int64]) -> _Round | None:
    """The round that the words agree on; None where there is none or they are too few."""
    span = int(places[-1]) + 1
    found: list[tuple[float, _Round]] = []
    for length in range(_SHORTEST, min(_LONGEST, span // _LEAST_ROUNDS) + 1):
        found.append(_divided(words, places, length))
    if not found:
        return None
    most = max(score for score, _ in found)
    if most <= 0:
        return None
    best = next(one for score, one in found if score >= _AS_GOOD * most)
    right = sum(_fits(word, best.due(int(place))) for word, place in zip(words, places))
    enough = right >= max(_LEAST_WORDS, _AGREE * len(words), _COVERED * span)
    return best if enough and best.phases else None


def _fits(word: CountedWord, due: tuple[PhaseKind | None, int]) -> bool:
    kind, number = due
    if kind is None:
        return word.number == number
    return word.kind is not None and (word.kind is kind or (word.kind.is_hold and kind.is_hold))


def _divided(words: Sequence[CountedWord], places: NDArray[np.int64], length: int) -> tuple[float, _Round]:
    """The best way to divide rounds of so many counts, and its score."""
    at = places % length
    total = np.bincount(at, minlength=length).astype(float)

    def worth(these: NDArray[np.bool_]) -> NDArray[np.float64]:
        right = np.bincount(at[these], minlength=length)
        return _RIGHT * right - _WRONG * (total - right)

    numbers = np.array([word.number for word in words])
    kinds = [word.kind for word in words]
    most = min(_MOST_COUNTS, length)
    counted = np.stack([worth(numbers == n) for n in range(2, most + 1)]) if most > 1 else np.zeros((0, length))
    # tails[s, c]: what c counts from a cue on place s are worth, the cue aside.
    tails = np.zeros((length, most + 1))
    for counts in range(2, most + 1):
        tails[:, counts] = tails[:, counts - 1] + np.roll(counted[counts - 2], -(counts - 1))
    phase = {}
    for kind in _ORDER:
        called = np.array([k is not None and (k is kind or (k.is_hold and kind.is_hold)) for k in kinds])
        phase[kind] = worth(called)[:, None] + tails
        phase[kind][:, :2] = -np.inf  # one count is no phase
    optional = {kind: np.concatenate([np.zeros((length, 1)), phase[kind][:, 1:]], axis=1) for kind in _ORDER}
    tables = [optional[kind] if kind.is_hold else phase[kind] for kind in _ORDER]
    reached, taken = _cycles(length, most, tables)
    first = int(reached.argmax())
    return float(reached[first]), _Round(length, first, _phases(length, [by[first] for by in taken]))


def _cycles(
    length: int, most: int, tables: Sequence[NDArray[np.float64]]
) -> tuple[NDArray[np.float64], list[NDArray[np.int64]]]:
    """What the best phases of a round are worth that begins on each place: in, perhaps a hold, out, perhaps a hold.

    Returns:
        their worth, shape (length,), and for each kind the counts it takes where so many are taken in all, shape
        (length, length + 1).
    """
    firsts = np.arange(length)
    reached = np.full((length, length + 1), -np.inf)  # by how many counts of the round are taken
    reached[:, 0] = 0.0
    taken: list[NDArray[np.int64]] = []
    for table in tables:
        new, by = np.full_like(reached, -np.inf), np.zeros(reached.shape, np.int64)
        for used in np.flatnonzero(np.isfinite(reached).any(axis=0)).tolist():
            room = min(most, length - used)
            scores = reached[:, used, None] + table[(firsts + used) % length, : room + 1]
            ends = slice(used, used + room + 1)
            better = scores > new[:, ends]
            new[:, ends] = np.where(better, scores, new[:, ends])
            by[:, ends] = np.where(better, np.arange(room + 1), by[:, ends])
        reached = new
        taken.append(by)
    return reached[:, length], taken


def _phases(length: int, taken: Sequence[NDArray[np.int64]]) -> tuple[tuple[PhaseKind, int], ...]:
    phases: list[tuple[PhaseKind, int]] = []
    left = length
    for kind, by in zip(reversed(_ORDER), reversed(taken)):
        counts = int(by[left])
        if counts:
            phases.append((kind, counts))
        left -= counts
    return tuple(reversed(phases))


def _as_due(solved: _Solved, cues: Mapping[PhaseKind, str], numbers: Mapping[int, str]) -> list[CountedWord]:
    """A word on every count of every round, as it is due; those not heard are put between where they should be."""
    words, places, count, one = solved.words, solved.places, solved.count, solved.round
    beats = np.array([word.beat for word in words])
    by_place = {int(place): word for word, place in zip(words, places)}
    begin = one.first + (int(places[0]) - one.first) // one.length * one.length
    rounds = (int(places[-1]) - begin) // one.length + 1
    said = []
    for place in range(begin, begin + rounds * one.length):
        kind, number = one.due(place)
        text = numbers.get(number) if kind is None else cues.get(kind)
        if text is None:
            return []
        inside = float(np.interp(place, places, beats))
        beat = inside + count * (min(0, place - int(places[0])) + max(0, place - int(places[-1])))
        heard = by_place.get(place)
        if heard is not None:
            beat = heard.beat
        cue = None if kind is None else PhaseKind.HOLD_FULL if kind.is_hold else kind
        said.append(CountedWord(text, number, cue, beat, beat + 0.3, beat))
    return said
