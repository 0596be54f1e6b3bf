"""A typed line in tokens, each with the characters it stands at."""

import re
from dataclasses import replace
from fractions import Fraction

from nafas.script.notation.tokens import Token, next_token
from nafas.script.notation.typed.ratios import ratio_at
from nafas.script.notation.typed.vocabulary import Kind, Typed, known_words, number_words

_QUOTES = str.maketrans(
    "“”„«»‟‘’‚×✕*–—−‐‑_|()[]…→\u00a0\u202f",
    '""""""\'\'\'xxx------/    .>  ',
)
_SINGLE = re.compile(r"(?<!\w)'([^']*)'(?!\w)")
_DOTTED = re.compile(r"(?<![\d.])\d+(?:\.\d+){2,}(?![\d.])")
_COMMA_DECIMALS = re.compile(r"\d+,\d+\s*[-/]\s*\d+,\d+")
_CROSSED = re.compile(r"(?<![\w.])\d+(?:\s?x\s?\d+){2,3}(?![\w.])")
_ARROW = re.compile(r"[-=]+>")
_LONG_EXHALE = re.compile(
    r"\b(?:long|longer|extended)[ -](?:exhale|out|out-?breath)s?\b(?=\W*\d+\s*[-/:]|\W*$)", re.IGNORECASE
)
_NUMBERS = re.compile(r"\s*(?:(?P<time>(?<![\d:])\d{1,2}:\d{2}(?![\d:]))|(?P<parts>\d+(?:[+~]\d+)+))")


def plain(text: str) -> str:
    """The line with one sort of quotes, dashes and crosses, as long as it was."""
    text = text.translate(_QUOTES)
    text = _CROSSED.sub(lambda match: match.group().replace("x", "-"), text)
    text = _ARROW.sub(lambda match: ">".rjust(len(match.group())), text)
    text = _LONG_EXHALE.sub(lambda match: " " * len(match.group()), text)
    text = _SINGLE.sub(lambda match: f'"{match.group(1)}"', text)
    if _COMMA_DECIMALS.search(text):
        text = re.sub(r"(?<=\d),(?=\d)", ".", text)
    return _DOTTED.sub(lambda match: match.group().replace(".", "-"), text)


def tokens_of(text: str) -> list[Typed]:
    """The tokens of a line that went through `plain`."""
    tokens: list[Typed] = []
    at = 0
    while (token := ratio_at(text, at) or _time_or_parts(text, at) or _typed(next_token(text, at))) is not None:
        tokens.append(token)
        at = token.end
    return _with_halves(tokens)


def _time_or_parts(text: str, at: int) -> Typed | None:
    """`5:30`, or `2+2+2`."""
    match = _NUMBERS.match(text, at)
    if match is None:
        return None
    if match["time"]:
        minutes, seconds = match["time"].split(":")
        number = Fraction(60 * int(minutes) + int(seconds))
        return Typed(Kind.TIME, match["time"], match.start("time"), match.end(), number)
    return Typed(Kind.PARTS, match["parts"], match.start("parts"), match.end())


def _typed(token: Token | None) -> Typed | None:
    """What a word, number or mark stands for."""
    if token is None:
        return None
    value, begin, end = token.value, token.begin, token.end
    if token.kind == "quote":
        return Typed(Kind.QUOTE, value, begin, end)
    if token.kind == "number":
        return Typed(Kind.NUMBER, value, begin, end, Fraction(value))
    if token.kind == "mark":
        return Typed(Kind.AT, "", begin, end) if value == "@" else Typed(Kind.MARK, value, begin, end)
    low = value.lower()
    if low in ("x", "x-", "-x"):
        return Typed(Kind.MARK, "x", begin, end)
    if (word := known_words().get(low)) is not None:
        number = Fraction(word.value if word.kind is Kind.NUMBER else 0)
        return Typed(word.kind, word.value or low, begin, end, number)
    if (counted := number_words().get(low)) is not None:
        return Typed(Kind.NUMBER, value, begin, end, Fraction(counted))
    return Typed(Kind.UNKNOWN, value, begin, end)


def _with_halves(tokens: list[Typed]) -> list[Typed]:
    """ "Two and a half" as one number."""
    result: list[Typed] = []
    for token in tokens:
        said = [n for n in range(len(result)) if result[n].kind is not Kind.FILLER]
        last = said[-1] if said else len(result)
        between = len(result) - 1 - last
        if token.kind is Kind.HALF and 0 < between < 3 and result[last].kind is Kind.NUMBER:
            whole = result[last]
            result[last:] = [replace(whole, end=token.end, number=whole.number + Fraction(1, 2))]
        else:
            result.append(token)
    return result
