"""A line of which a part is understood: the fewest words are left out so that the rest reads, and they are reported.

Numbers, phases and the names of breaths are never left out, but for a first or last clause with one number at most
and none of the others. So a reading may say less than the line, never another breath.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Generic, TypeVar

from nafas.script.notation.tokens import NotationError
from nafas.script.notation.typed.lexer import tokens_of
from nafas.script.notation.typed.vocabulary import Kind, Typed

_R = TypeVar("_R")
_BREATH = (Kind.PHASE, Kind.FAMILY, Kind.STROKES, Kind.PARTS)
_FIXED = (*_BREATH, Kind.NUMBER, Kind.TIME, Kind.QUOTE, Kind.HALF)
_UNITS = (Kind.ROUNDS, Kind.TIMES, Kind.HOURS, Kind.MINUTES, Kind.SECONDS, Kind.BPM)
_MOST_TRIES = 60
_MOST_WORDS = 40  # a longer line is a text


@dataclass(frozen=True)
class Partial(Generic[_R]):
    """What a part of a line reads as; the words that it does not use, each run in quotes, and where they stand."""

    readings: tuple[_R, ...]
    unused: str
    left_out: tuple[tuple[int, int], ...]


def as_far(line: str, read: Callable[[str], tuple[_R, ...]]) -> Partial[_R] | None:
    """Read as much of a line as can be; None where no part of it is a breath, strokes or a rest.

    Args:
        line: went through `plain`.
        read: reads a whole line. Raises NotationError.
    """
    tokens = tokens_of(line)
    if len(tokens) > _MOST_WORDS:
        return None
    unknown = frozenset(n for n, token in enumerate(tokens) if token.kind is Kind.UNKNOWN)
    tried: set[frozenset[int]] = set()
    for left_out in _ways(tokens, unknown):
        if left_out in tried or not left_out or len(tried) >= _MOST_TRIES or _joins_numbers(tokens, left_out):
            continue
        tried.add(left_out)
        try:
            places = tuple((tokens[n].begin, tokens[n].end) for n in sorted(left_out))
            return Partial(read(_without(line, tokens, left_out)), _named(line, tokens, left_out), places)
        except NotationError:
            continue
    return None


def _ways(tokens: list[Typed], unknown: frozenset[int]) -> Iterator[frozenset[int]]:
    """What may be left out, the least first: words nobody knows, with a run of others, with a clause."""
    yield unknown
    count = len(tokens)
    for size in range(1, count):
        for begin in range(count - size + 1):
            run = range(begin, begin + size)
            if not any(_stays(tokens[n]) or _is_unit(tokens, n) for n in run):
                yield unknown.union(run)
        if size == 1:
            loose = [n for n in range(count) if not _is_unit(tokens, n)]
            for kind in {tokens[n].kind: None for n in loose if tokens[n].kind not in (*_FIXED, Kind.MARK, Kind.SIDE)}:
                yield unknown.union(n for n in loose if tokens[n].kind is kind)
    commas = [n for n, token in enumerate(tokens) if token.is_mark(",", ";")]
    for clause in (range(commas[0]), range(commas[-1], count)) if commas else ():
        numbers = sum(tokens[n].kind is Kind.NUMBER for n in clause)
        if numbers < 2 and not any(tokens[n].kind in _BREATH for n in clause):
            yield unknown.union(clause)


def _stays(token: Typed) -> bool:
    """Whether a token is never left out by itself: what a breath is made of, and marks that ask for more."""
    return token.kind in _FIXED or token.is_mark("-", "/", ":", "=", "x", ">")


def _is_unit(tokens: list[Typed], n: int) -> bool:
    """Whether a token says of what the number before it is a number."""
    return n > 0 and tokens[n].kind in _UNITS and tokens[n - 1].kind is Kind.NUMBER


def _joins_numbers(tokens: list[Typed], left_out: frozenset[int]) -> bool:
    """Whether two numbers would stand side by side that did not: they would be read as a round."""
    kept = [n for n in range(len(tokens)) if n not in left_out and tokens[n].kind is not Kind.FILLER]
    bare = {a for a, b in pairwise([*kept, -1]) if tokens[a].kind is Kind.NUMBER and tokens[b].kind not in _UNITS}
    return any({a, b} <= bare and not left_out.isdisjoint(range(a, b)) for a, b in pairwise(kept))


def _without(line: str, tokens: list[Typed], left_out: frozenset[int]) -> str:
    """The line with spaces in their place, so that every column stays."""
    letters = list(line)
    for n in left_out:
        begin, end = tokens[n].begin, tokens[n].end
        letters[begin:end] = " " * (end - begin)
    return "".join(letters)


def _named(line: str, tokens: list[Typed], left_out: frozenset[int]) -> str:
    runs: list[list[int]] = []
    for n in sorted(left_out):
        if runs and runs[-1][-1] == n - 1:
            runs[-1].append(n)
        else:
            runs.append([n])
    words = [line[tokens[run[0]].begin : tokens[run[-1]].end].strip(" ,;") for run in runs]
    return ", ".join(f"\N{LEFT DOUBLE QUOTATION MARK}{each}\N{RIGHT DOUBLE QUOTATION MARK}" for each in words if each)
