"""Counting that a text spells out: "Inhale, two, three, four. Exhale, two, three, four, five, six." as breath sets."""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from itertools import groupby, pairwise

from nafas.languages import script_words
from nafas.script.model.phase import Counting, Phase, PhaseKind, Side
from nafas.script.notation.phases import format_pattern
from nafas.script.notation.typed.vocabulary import Kind, known_words
from nafas.script.performed import CountedWord, PerformedPhase, performed_set
from nafas.script.words.lexicon import count_word

_WORD = re.compile(r"[^\W\d_]+(?:[-'’][^\W\d_]+)*|\d+|[^\w\s]")
_MARKS = " ,;:.!?…–—-\"'“”„«»()"
_MOST_UNKNOWN = 6
"""Words of a cue that no breath is made of: "inhale and let the belly fill, two, three, four"."""
_KINDS = {"in": PhaseKind.INHALE, "out": PhaseKind.EXHALE, "hold": PhaseKind.HOLD_FULL}
_AND = ("and", "und", "et", "y", "e", "и")
_LEADING = re.compile(rf"^(?:(?:[^\W\d_]+,|{'|'.join(_AND)}|now|then|jetzt|puis|ahora|ora|теперь)\s+)+", re.IGNORECASE)
_BEFORE_A_NUMBER = (Kind.FOR, Kind.FILLER, Kind.COUNTS, Kind.TO)
_LONGEST_PERIOD = 4


@dataclass(frozen=True)
class Called:
    """A cue with the numbers after it.

    Attributes:
        kind: of the phase; None where a sentence only counts on.
        cue: the words before the first number, without a leading "and".
        side: the nostril that is named in them.
        numbers: as they are counted.
    """

    kind: PhaseKind | None
    cue: str
    side: Side | None
    numbers: tuple[int, ...]


@cache
def _numbers(language: str) -> dict[str, int]:
    numbers = {count_word(n, language).lower(): n for n in range(1, 61)}
    return {**numbers, **dict.fromkeys(script_words(language).get("ones", ()), 1)}


def read_counting(sentence: str, language: str) -> tuple[Called, ...]:
    """The phases that a sentence counts aloud; () where it does not: where its numbers are no row by ones."""
    phases: list[Called] = []
    kind, side, numbers = None, None, list[int]()
    begin, end, unknown, others, counts = 0, 0, 0, 0, _numbers(language)
    has_kind = False

    def close(until: int) -> None:
        nonlocal kind, side, numbers, begin, has_kind
        if has_kind or numbers:
            words = re.split(r"[.!?…:;]\s", sentence[begin:end].strip(_MARKS))[-1]
            cue = _LEADING.sub("", _without_side(words.strip(_MARKS)) if side else words.strip(_MARKS))
            row, cue = _without_total(numbers, cue)
            phases.append(Called(kind, cue if has_kind else "", side, row))
        kind, side, numbers, begin, has_kind = None, None, [], until, False

    for match in _WORD.finditer(sentence):
        word = match.group().lower()
        known = known_words().get(word)
        others += word[0].isalpha() and word not in _AND and word not in counts
        number = int(word) if word.isdecimal() and len(word) < 3 else counts.get(word, 0)
        if number:
            numbers.append(number)
            end = match.start() if len(numbers) == 1 else end
            continue
        if word.isdecimal():
            return ()
        if numbers and match.group()[0].isalpha() and word not in _AND:
            close(match.start())
        if known is not None and known.kind in (Kind.PHASE, Kind.REST) and not has_kind:
            kind, has_kind = _KINDS.get(known.value, PhaseKind.HOLD_FULL), True
        elif known is not None and known.kind is Kind.SIDE:
            side = Side(known.value)
        elif known is None and match.group()[0].isalpha():
            unknown += 1
        end = match.end() if not numbers else end
    close(len(sentence))
    counts_on = bool(phases) and phases[0].kind is None
    return tuple(phases) if (others == 0 if counts_on else unknown <= _MOST_UNKNOWN) and _are_counted(phases) else ()


def _without_total(numbers: Sequence[int], cue: str) -> tuple[tuple[int, ...], str]:
    """Numbers without how many they are, and the cue without "for a count of": "for four: one, two, three, four"."""
    if len(numbers) < 3 or list(numbers[1:]) != list(range(numbers[1], numbers[0] + 1)):
        return tuple(numbers), cue
    words = cue.split()
    while len(words) > 1 and (known := known_words().get(words[-1].lower())) and known.kind in _BEFORE_A_NUMBER:
        words.pop()
    return tuple(numbers[1:]), " ".join(words)


def _without_side(cue: str) -> str:
    """A cue without the word for its side, which the phase has."""
    known = known_words()
    return " ".join(word for word in cue.split() if (of := known.get(word.lower())) is None or of.kind is not Kind.SIDE)


def _are_counted(phases: Sequence[Called]) -> bool:
    rows = [one.numbers for one in phases if one.numbers]
    if not rows or any(one.kind is None for one in phases[1:]):
        return False
    in_ones = all(len({b - a for a, b in pairwise(row)}) <= 1 and abs(row[0] - row[-1]) == len(row) - 1 for row in rows)
    # A row begins with one or two, or ends with one; a single number is an amount unless it counts on.
    counts_on = phases[0].kind is None and len(phases) == 1
    rises = all(row[0] <= 2 or row[-1] == 1 or counts_on for row in rows)
    return in_ones and rises and (any(len(row) > 1 for row in rows) or counts_on)


@dataclass(frozen=True)
class SpelledSet:
    """Counting read as rounds.

    Attributes:
        notation: the whole of it, steps by hand where rounds differ, without how it is said.
        rounds: how many are spelled out.
        counts: of all of them.
        ahead: numbers begin with one after the cue.
        cues: the words said for each kind of phase, as often as they are.
        whole: every round has an inhale and an exhale.
        falls: a phase is counted down, so that it is not sure whether its cue takes a count.
    """

    notation: str
    rounds: int
    counts: int
    ahead: bool
    cues: Counter[tuple[PhaseKind, str]]
    whole: bool
    falls: bool


def joined(called: Sequence[Called]) -> list[Called]:
    """Phases whose numbers go on in the next sentence ("Inhale. Two. Three. Four.") brought together."""
    phases: list[Called] = []
    for one in called:
        if one.kind is None and phases:
            last = phases[-1]
            phases[-1] = Called(last.kind, last.cue, last.side, last.numbers + one.numbers)
        else:
            phases.append(one)
    return phases


def spelled_set(called: Sequence[Called], bare: bool = False) -> SpelledSet:
    """Rounds of phases that are counted aloud, by the inference that reads a recording (`script.performed`).

    Args:
        called: the phases in order, one at least.
        bare: a phase that is counted down is as long as its numbers: its cue takes no count.
    """
    words, sides = [], dict[float, Side | None]()
    cues: Counter[tuple[PhaseKind, str]] = Counter()
    at = 0.0
    for each in joined(called):
        sides[at] = each.side
        for text, number in ((each.cue, 0), *((str(n), n) for n in each.numbers)):
            words.append(CountedWord(text, number, each.kind if not number else None, at, at, at))
            at += 1
    rounds = performed_set(words).rounds
    ahead = all(phase.numbers[0] == 1 for one in rounds for phase in one if phase.numbers and not phase.falls)
    ahead = ahead and any(phase.numbers and not phase.falls for one in rounds for phase in one)
    for one in rounds:
        cues.update((phase.kind, phase.words[0].text) for phase in one if phase.words[0].text)
    shapes = [tuple(_phase(phase, sides[phase.start], ahead or bare) for phase in one) for one in rounds]
    kinds = [{phase.kind for phase in shape} for shape in shapes]
    return SpelledSet(
        _notation(shapes),
        len(shapes),
        sum(phase.counts for shape in shapes for phase in shape),
        ahead,
        cues,
        all({PhaseKind.INHALE, PhaseKind.EXHALE} <= each for each in kinds),
        any(phase.falls for one in rounds for phase in one),
    )


def _phase(phase: PerformedPhase, side: Side | None, bare: bool) -> Phase:
    counts = len(phase.numbers) if bare and phase.falls else phase.counts
    counting = Counting.DOWN if phase.falls else None
    return Phase(kind=phase.kind, counts=counts, counting=counting, side=None if phase.kind.is_hold else side)


def _notation(shapes: Sequence[tuple[Phase, ...]]) -> str:
    """Equal rounds one after another as steps; rounds that alternate as one longer round."""
    swapped = len(shapes) == 2 and [p.counts for p in shapes[0]] == [p.counts for p in shapes[1]]
    for period in range(2, min(_LONGEST_PERIOD, len(shapes) if swapped else len(shapes) // 2) + 1):
        alike = all(shape == shapes[n % period] for n, shape in enumerate(shapes))
        if alike and len(shapes) % period == 0 and len(set(shapes)) > 1:
            whole = tuple(phase for shape in shapes[:period] for phase in shape)
            return f"{format_pattern(whole)} x{len(shapes) // period}"
    steps = ((shape, len(list(run))) for shape, run in groupby(shapes))
    return "; ".join(f"{format_pattern(shape)} x{number}" for shape, number in steps)
