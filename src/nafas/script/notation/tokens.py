"""A line in tokens, for notation and for typed lines alike; and the reader of notation, whose errors point at one."""

import re
from dataclasses import dataclass
from fractions import Fraction

from nafas.errors import InputError
from nafas.script.model.exact import parse_seconds

_TOKEN = re.compile(
    r"""\s*(?:
        "(?P<quote>[^"]*)"
      | (?P<number>\d+(?:\.\d+)?)
      | (?P<word>[^\W\d_]+(?:[-'][^\W\d_]+)*)
      | (?P<mark>\S)
    )""",
    re.VERBOSE,
)
_MARKS = "-–,;@×*+~()=/"
_RATIO = re.compile(r"/\d+")
LONGEST = 100_000
"""Characters of a line of notation; the longest table of steps is far shorter."""
_SHOWN = 60
# What a part may be called inside brackets: anything but what ends it.
_PLACE = re.compile(r"([^,()\"]*)([,)])")


class NotationError(InputError, ValueError):
    """Breath notation that cannot be read. `column` is the 0-based character it points at."""

    def __init__(self, text: str, column: int, problem: str, remedy: str) -> None:
        super().__init__(f"{_about(text, column)!r}, character {column + 1}", problem, remedy)
        self.text = text
        self.column = column


def _about(text: str, column: int) -> str:
    """What stands around a column, where the whole is too long to be shown."""
    if len(text) <= 2 * _SHOWN:
        return text
    begin = max(0, min(column - _SHOWN // 2, len(text) - _SHOWN))
    return "…" * bool(begin) + text[begin : begin + _SHOWN] + "…" * (begin + _SHOWN < len(text))


@dataclass(frozen=True)
class Token:
    """A "word", "number", "mark" or "quote" (without its marks), and from which character to which it stands."""

    kind: str
    value: str
    begin: int
    end: int


def next_token(text: str, at: int) -> Token | None:
    """The token at a place of a line, or after it; None at its end."""
    match = _TOKEN.match(text, at)
    if match is None:
        return None
    kind = str(match.lastgroup)
    return Token(kind, match.group(kind), match.start(kind) - (kind == "quote"), match.end())


class Reader:
    """Reads tokens one after another, and knows where it stands."""

    def __init__(self, text: str) -> None:
        if len(text) > LONGEST:
            raise NotationError(
                text, 0, f"{len(text):,} characters are too long for a line of notation", "write a shorter one"
            )
        self.text = text
        self.at = 0
        self._ahead: Token | None = None
        self.last = 0
        """Where the last token taken begins."""

    def _look(self) -> Token | None:
        if self._ahead is None:
            token = self._ahead = next_token(self.text, self.at)
            if token is not None and token.kind == "mark" and token.value not in _MARKS:
                what = "the quote is not closed" if token.value == '"' else "does not belong here"
                remedy = 'end the words with "' if token.value == '"' else "write for example 4-2-8 x6"
                raise NotationError(self.text, token.begin, f"{token.value!r} {what}", remedy)
        return self._ahead

    @property
    def done(self) -> bool:
        """Nothing is left."""
        return self._look() is None

    def peek(self, kind: str, *values: str) -> Token | None:
        """The next token if it is of this kind and, where any are given, one of these words."""
        token = self._look()
        if token is not None and token.kind == kind and (not values or token.value.lower() in values):
            return token
        return None

    def take(self, kind: str, *values: str) -> Token | None:
        """`peek`, and go past it."""
        token = self.peek(kind, *values)
        if token is not None:
            self.at, self.last, self._ahead = token.end, token.begin, None
        return token

    def column(self) -> int:
        """The character the next token begins at; the end of the text where there is none."""
        token = self._look()
        return token.begin if token is not None else len(self.text.rstrip())

    def fail(self, problem: str, remedy: str, column: int | None = None) -> NotationError:
        """An error at the next token, or at `column`."""
        return NotationError(self.text, self.column() if column is None else column, problem, remedy)

    def whole(self, what: str, low: int, high: int) -> int:
        """A whole number within bounds."""
        token = self.take("number")
        if token is None:
            raise self.fail(f"{what} missing", f"write a number from {low} to {high} here")
        if not token.value.isdecimal() or len(token.value) > 6 or not low <= int(token.value) <= high:
            raise self.fail(
                f"{what} {token.value[:12]} is not allowed",
                f"write a whole number from {low} to {high}",
                token.begin,
            )
        return int(token.value)

    def exact(self, what: str, low: Fraction, high: Fraction, example: str) -> Fraction:
        """A decimal or a ratio within bounds."""
        token = self.take("number")
        if token is None:
            raise self.fail(f"{what} missing", f"write for example {example}")
        written = token.value
        if (below := _RATIO.match(self.text, token.end)) is not None:
            written, self.at = written + below.group(), below.end()
        try:
            seconds = parse_seconds(written)
        except ValueError:
            seconds = low - 1
        if not low <= seconds <= high:
            bounds = f"write {float(low):g} to {float(high):g}, for example {example}"
            raise self.fail(f"{what} {written[:12]} is not allowed", bounds, token.begin)
        return seconds

    def quote(self, what: str) -> str:
        """Words in double quotes."""
        token = self.take("quote")
        if token is None:
            raise self.fail(f"{what} missing", 'write them in quotes, for example "let it go"')
        return token.value

    def places(self) -> list[str]:
        """(belly, ribs, chest): plain words between brackets; [] where no bracket opens."""
        opened = self.take("mark", "(")
        if opened is None:
            return []
        texts: list[str] = []
        while True:
            match = _PLACE.match(self.text, self.at)
            if match is None:
                raise self.fail("the bracket is not closed", "write for example (belly, ribs, chest)", opened.begin)
            self.at, self._ahead = match.end(), None
            texts.append(match.group(1).strip())
            if match.group(2) == ")":
                return texts
