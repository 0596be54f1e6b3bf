"""The line as it was read: which of its letters belong to which phase, and which are not used."""

from typing import NamedTuple

from nafas.script.model.phase import PhaseKind
from nafas.script.notation.typed.lexer import plain, tokens_of
from nafas.script.notation.typed.vocabulary import Kind, Typed

_ROWS = {
    2: (PhaseKind.INHALE, PhaseKind.EXHALE),
    3: (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE),
    4: (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE, PhaseKind.HOLD_EMPTY),
}
_KINDS = {"in": PhaseKind.INHALE, "out": PhaseKind.EXHALE, "hold": PhaseKind.HOLD_FULL}
_COUNTED = (Kind.ROUNDS, Kind.TIMES, Kind.MINUTES, Kind.HOURS, Kind.BPM)


class Span(NamedTuple):
    """Letters of a line, and the phase they belong to; None where none is said. `used` False: left out."""

    begin: int
    end: int
    kind: PhaseKind | None
    used: bool = True


def spans(text: str, left_out: tuple[tuple[int, int], ...] = ()) -> list[Span]:
    """The words of a line in order, for its reading.

    Args:
        text: the line as typed.
        left_out: from which letter to which the reading does not use it.
    """
    tokens = tokens_of(plain(text))
    kinds = _by_words(tokens) if any(token.kind is Kind.PHASE for token in tokens) else _by_rows(tokens)
    found = []
    for token, kind in zip(tokens, kinds):
        used = not any(begin <= token.begin < end for begin, end in left_out)
        found.append(Span(token.begin, token.end, kind if used else None, used))
    return found


def _by_words(tokens: list[Typed]) -> list[PhaseKind | None]:
    """A number belongs to the phase named before it, or after it where the line begins with a number."""
    named = [n for n, token in enumerate(tokens) if token.kind is Kind.PHASE]
    first = next((n for n, token in enumerate(tokens) if _is_count(tokens, n)), named[0])
    kinds: list[PhaseKind | None] = [None] * len(tokens)
    before: PhaseKind | None = None
    for n in named:
        kind = _KINDS.get(tokens[n].value, PhaseKind.HOLD_FULL)
        kinds[n] = PhaseKind.HOLD_EMPTY if kind.is_hold and before is PhaseKind.EXHALE else kind
        before = kinds[n]
    for n in range(len(tokens)):
        if _is_count(tokens, n):
            near = [m for m in named if m > n] if first < named[0] else [m for m in reversed(named) if m < n]
            kinds[n] = kinds[near[0]] if near else None
    return kinds


def _by_rows(tokens: list[Typed]) -> list[PhaseKind | None]:
    """Of a row of two to four numbers each is a phase."""
    kinds: list[PhaseKind | None] = [None] * len(tokens)
    row: list[int] = []
    for n in range(len(tokens) + 1):
        joins = n < len(tokens) and (_is_count(tokens, n) or tokens[n].is_mark("-", "/", ":"))
        if joins and tokens[n].kind is Kind.NUMBER:
            row.append(n)
        elif not joins:
            for at, kind in zip(row, _ROWS.get(len(row), ())):
                kinds[at] = kind
            row = []
    return kinds


def _is_count(tokens: list[Typed], n: int) -> bool:
    """Whether a token is a number of counts: not of rounds, minutes or breaths a minute."""
    after = tokens[n + 1].kind if n + 1 < len(tokens) else None
    of_rounds = n > 0 and (tokens[n - 1].is_mark("x") or tokens[n - 1].kind is Kind.AT)
    return tokens[n].kind is Kind.NUMBER and after not in _COUNTED and not of_rounds
