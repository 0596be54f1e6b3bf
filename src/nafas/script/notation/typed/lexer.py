"""A typed line in tokens, each with the characters it stands at."""

import re
from dataclasses import dataclass, replace
from fractions import Fraction

from nafas.script.notation.typed.vocabulary import Kind, known_words, number_words

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
_TOKEN = re.compile(
    r"""\s*(?:
        "(?P<quote>[^"]*)"
      | (?P<time>(?<![\d:])\d{1,2}:\d{2}(?![\d:]))
      | (?P<parts>\d+(?:[+~]\d+)+)
      | (?P<number>\d+(?:\.\d+)?)
      | (?P<word>[^\W\d_]+(?:[-'][^\W\d_]+)*)
      | (?P<mark>\S)
    )""",
    re.VERBOSE,
)


@dataclass(frozen=True)
class Typed:
    """A token: its kind, what it stands for ("" where the kind says all), its number if it has one, and where it is."""

    kind: Kind
    value: str
    begin: int
    end: int
    number: Fraction = Fraction(0)

    def is_mark(self, *marks: str) -> bool:
        return self.kind is Kind.MARK and self.value in marks


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
    words = known_words()
    while (match := _TOKEN.match(text, at)) is not None:
        at, kind = match.end(), str(match.lastgroup)
        value, begin = match.group(kind), match.start(kind)
        if kind == "quote":
            tokens.append(Typed(Kind.QUOTE, value, begin - 1, at))
        elif kind == "time":
            minutes, seconds = value.split(":")
            tokens.append(Typed(Kind.TIME, value, begin, at, Fraction(60 * int(minutes) + int(seconds))))
        elif kind == "parts":
            tokens.append(Typed(Kind.PARTS, value, begin, at))
        elif kind == "number":
            tokens.append(Typed(Kind.NUMBER, value, begin, at, Fraction(value)))
        elif kind == "mark":
            tokens.append(Typed(Kind.AT, "", begin, at) if value == "@" else Typed(Kind.MARK, value, begin, at))
        elif value.lower() == "x":
            tokens.append(Typed(Kind.MARK, "x", begin, at))
        elif (word := words.get(value.lower())) is not None:
            number = Fraction(word.value if word.kind is Kind.NUMBER else 0)
            tokens.append(Typed(word.kind, word.value or value.lower(), begin, at, number))
        elif (counted := number_words().get(value.lower())) is not None:
            tokens.append(Typed(Kind.NUMBER, value, begin, at, Fraction(counted)))
        elif (split := re.fullmatch(r"x-?|-?x", value.lower())) is not None:
            tokens.append(Typed(Kind.MARK, "x", begin, split.end()))
        else:
            tokens.append(Typed(Kind.UNKNOWN, value, begin, at))
    return _with_halves(tokens)


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
