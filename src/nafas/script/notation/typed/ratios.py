"""`exhale twice as long as inhale`: a phase whose length is said by that of another."""

import re
from dataclasses import replace
from fractions import Fraction
from functools import cache

from nafas.languages import READ, ratio_words
from nafas.script.notation.typed.vocabulary import Kind, Typed

_BETWEEN = (Kind.FILLER, Kind.FOR, Kind.COUNTS)


def ratio_at(text: str, at: int) -> Typed | None:
    """The expression at a place of a line, in any language, with how many times as long it says; None for none."""
    pattern, times = _expressions()
    match = pattern.match(text, at)
    if match is None:
        return None
    name = str(match.lastgroup)
    return Typed(Kind.RATIO, "", match.start(name), match.end(), times[name])


@cache
def _expressions() -> tuple[re.Pattern[str], dict[str, Fraction]]:
    said = [(Fraction(number), words) for code in READ for number, words in ratio_words(code).items()]
    names = {f"r{n}": number for n, (number, _) in enumerate(said)}
    groups = (f"(?P<r{n}>{'|'.join(words)})" for n, (_, words) in enumerate(said))
    return re.compile(rf"\s*(?:{'|'.join(groups)})(?!\w)", re.IGNORECASE), names


def with_numbers(tokens: list[Typed]) -> list[Typed]:
    """The tokens with a number in place of each such expression; one whose length is not known stays."""
    for at in [n for n, token in enumerate(tokens) if token.kind is Kind.RATIO][::-1]:
        phase, other = _near(tokens, at, -1, Kind.PHASE), _near(tokens, at, +1, Kind.PHASE)
        if phase is None:  # "twice as long out"
            phase, other = other, None
        if phase is None:
            continue
        places = [n for n in (phase, at, other) if n is not None]
        begin, end = min(places), max(places)
        rest = tokens[:begin] + tokens[end + 1 :]
        breaths = [token.value for token in rest if token.kind is Kind.PHASE and token.value in ("in", "out")]
        name = tokens[other].value if other is not None else next(iter(breaths), "")
        number_first = next((t.kind for t in rest if t.kind in (Kind.PHASE, Kind.NUMBER)), None) is Kind.NUMBER
        length = _length_of(rest, name, number_first)
        if length is None:
            continue
        number = replace(tokens[at], kind=Kind.NUMBER, number=length * tokens[at].number)
        chunk = [number, tokens[phase]] if number_first else [tokens[phase], number]
        if any(token.kind is Kind.PHASE for token in tokens[:begin]):
            tokens = [*tokens[:begin], *chunk, *tokens[end + 1 :]]
        else:  # the phase that it is measured by comes first in the breath
            tokens = [*(t for n, t in enumerate(rest) if n or not t.is_mark(",")), *chunk]
    return tokens


def _near(tokens: list[Typed], at: int, step: int, kind: Kind) -> int | None:
    """The place of a token of a kind next to another, past words that say nothing."""
    at += step
    while 0 <= at < len(tokens) and tokens[at].kind in _BETWEEN:
        at += step
    return at if 0 <= at < len(tokens) and tokens[at].kind is kind else None


def _length_of(tokens: list[Typed], phase: str, number_first: bool) -> Fraction | None:
    for at, token in enumerate(tokens):
        if token.kind is Kind.PHASE and token.value == phase:
            number = _near(tokens, at, -1 if number_first else +1, Kind.NUMBER)
            if number is not None:
                return tokens[number].number
    return None
