"""Breath notation: how a pattern is typed, stored and printed back.

    4-2-8                          in 4, hold full 2, out 8 (two numbers: in, out; four: with an empty hold)
    in 4, hold 7, out 8            the same thing in words; `hold` is full after an inhale, empty after an exhale
    in 4, hold 7 silent, out 8 down "let it go"     how it is counted, and the words said for it
    4-4-4-4 x6 @ 1.2s              rounds, and seconds a count

Errors point at the character and say what was expected there.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction

from nafas.errors import InputError
from nafas.script.exact import decimal_text, parse_seconds
from nafas.script.pattern import MAX_COUNTS, MAX_PHASES, Counting, Pattern, Phase, PhaseKind

MAX_ROUNDS = 500
SHORTEST_COUNT, LONGEST_COUNT = Fraction(1, 5), Fraction(6)

_SHORT = {
    2: (PhaseKind.INHALE, PhaseKind.EXHALE),
    3: (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE),
    4: (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE, PhaseKind.HOLD_EMPTY),
}
_WORDS = {
    "in": PhaseKind.INHALE,
    "inhale": PhaseKind.INHALE,
    "out": PhaseKind.EXHALE,
    "exhale": PhaseKind.EXHALE,
    "hold-full": PhaseKind.HOLD_FULL,
    "hold-empty": PhaseKind.HOLD_EMPTY,
}
_TOKEN = re.compile(
    r"""\s*(?:
        (?P<number>\d+(?:\.\d+|/\d+)?)
      | "(?P<quote>[^"]*)"
      | (?P<word>[^\W\d_]+(?:-[^\W\d_]+)*)
      | (?P<mark>[-–,@×*])
    )""",
    re.VERBOSE,
)


class NotationError(InputError, ValueError):
    """Breath notation that cannot be read. `column` is the 0-based character it points at."""

    def __init__(self, text: str, column: int, problem: str, remedy: str) -> None:
        super().__init__(f"{text!r}, character {column + 1}", problem, remedy)
        self.text = text
        self.column = column


@dataclass(frozen=True)
class SetNotation:
    """What one line of notation says of a set. None: not written, so inherited or left to the caller."""

    pattern: Pattern
    rounds: int | None
    count_length: Fraction | None


@dataclass(frozen=True)
class _Token:
    kind: str
    value: str
    column: int


class _Reader:
    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens: list[_Token] = []
        self.at = 0
        position = 0
        while text[position:].strip():
            match = _TOKEN.match(text, position)
            if match is None or match.lastgroup is None:
                column = position + len(text[position:]) - len(text[position:].lstrip())
                raise NotationError(
                    text, column, f"{text[column]!r} does not belong here", "write for example 4-2-8 x6"
                )
            kind = match.lastgroup
            begin = match.start(kind) - (kind == "quote")
            self.tokens.append(_Token(kind, match.group(kind), begin))
            position = match.end()

    def peek(self, kind: str, *values: str) -> _Token | None:
        if self.at < len(self.tokens):
            token = self.tokens[self.at]
            if token.kind == kind and (not values or token.value.lower() in values):
                return token
        return None

    def take(self, kind: str, *values: str) -> _Token | None:
        token = self.peek(kind, *values)
        self.at += token is not None
        return token

    def column(self) -> int:
        return self.tokens[self.at].column if self.at < len(self.tokens) else len(self.text.rstrip())

    def fail(self, problem: str, remedy: str, column: int | None = None) -> NotationError:
        return NotationError(self.text, self.column() if column is None else column, problem, remedy)

    def whole(self, what: str, low: int, high: int) -> int:
        token = self.take("number")
        if token is None:
            raise self.fail(f"{what} missing", f"write a number from {low} to {high} here")
        if not token.value.isdecimal() or len(token.value) > 6 or not low <= int(token.value) <= high:
            raise self.fail(
                f"{what} {token.value[:12]} is not allowed",
                f"write a whole number from {low} to {high}",
                token.column,
            )
        return int(token.value)


def parse_set(text: str) -> SetNotation:
    """Read a whole set: a pattern, then optionally `x6` and `@ 1.2s`, in either order.

    Raises:
        NotationError: with the character at fault and what was expected.
    """
    reader = _Reader(text)
    phases = _phases(reader)
    rounds: int | None = None
    length: Fraction | None = None
    while reader.at < len(reader.tokens):
        if reader.take("word", "x") or reader.take("mark", "×", "*"):
            if rounds is not None:
                raise reader.fail("rounds are written twice", "keep one", reader.tokens[reader.at - 1].column)
            rounds = reader.whole("rounds", 1, MAX_ROUNDS)
            reader.take("word", "rounds", "round")
        elif reader.take("mark", "@"):
            if length is not None:
                raise reader.fail("the count length is written twice", "keep one", reader.tokens[reader.at - 1].column)
            length = _count_length(reader)
        else:
            raise reader.fail("this is not understood", 'rounds are written "x6" and seconds a count "@ 1.2s"')
    try:
        pattern = Pattern(phases=tuple(phases))
    except ValueError as error:
        problem = str(error).split("Value error, ")[-1].split(" [type=")[0]
        what, _, remedy = problem.partition("; ")
        raise NotationError(text, 0, what, remedy) from None
    return SetNotation(pattern, rounds, length)


def parse_pattern(text: str) -> tuple[Phase, ...]:
    """Read a pattern alone.

    Raises:
        NotationError: as `parse_set`, and when rounds or a count length follow.
    """
    reader = _Reader(text)
    phases = _phases(reader)
    if reader.at < len(reader.tokens):
        raise reader.fail("a pattern ends here", "give rounds and count length in their own fields")
    return tuple(phases)


def _count_length(reader: _Reader) -> Fraction:
    token = reader.take("number")
    if token is None:
        raise reader.fail("seconds a count missing", 'write for example "@ 1.2s"')
    try:
        length = parse_seconds(token.value)
    except ValueError:
        length = Fraction(0)
    if not SHORTEST_COUNT <= length <= LONGEST_COUNT:
        raise reader.fail(f"a count of {token.value} s is not allowed", "write 0.2 to 6 seconds", token.column)
    reader.take("word", "s", "sec", "seconds")
    return length


def _phases(reader: _Reader) -> list[Phase]:
    if not reader.tokens:
        raise reader.fail("nothing is written", "write for example 4-2-8")
    phases = _numbers(reader) if reader.peek("number") else _spelled(reader)
    if len(phases) > MAX_PHASES:
        raise reader.fail(f"{len(phases)} phases in one round", f"write at most {MAX_PHASES}", 0)
    return phases


def _numbers(reader: _Reader) -> list[Phase]:
    counts = [reader.whole("counts", 0, MAX_COUNTS)]
    while reader.take("mark", "-", "–"):
        if len(counts) == 4:
            raise reader.fail("a fifth number", "write longer rounds in words: in 4, hold 2, out 6, ...")
        counts.append(reader.whole("counts", 0, MAX_COUNTS))
    if len(counts) == 1:
        raise reader.fail("one number is no round", f"write in and out, for example {counts[0]}-{counts[0]}")
    return [Phase(kind=kind, counts=n) for kind, n in zip(_SHORT[len(counts)], counts)]


def _spelled(reader: _Reader) -> list[Phase]:
    phases: list[Phase] = []
    last_breath = PhaseKind.EXHALE
    while True:
        token = reader.take("word", *_WORDS, "hold")
        if token is None:
            raise reader.fail("a phase is expected", "write in, out, hold, hold-full or hold-empty")
        word = token.value.lower()
        if word == "hold":
            full = last_breath is PhaseKind.INHALE
            kind = PhaseKind.HOLD_FULL if full else PhaseKind.HOLD_EMPTY
        else:
            kind = _WORDS[word]
        if not kind.is_hold:
            last_breath = kind
        counts = reader.whole("counts", 0, MAX_COUNTS)
        counting = reader.take("word", *(c.value for c in Counting))
        cue = reader.take("quote")
        try:
            phases.append(
                Phase(
                    kind=kind,
                    counts=counts,
                    counting=Counting(counting.value.lower()) if counting else None,
                    cue=cue.value if cue else None,
                )
            )
        except ValueError:
            raise reader.fail(
                "these words cannot be a cue", "write 1 to 80 plain characters", cue.column if cue else None
            ) from None
        if not reader.take("mark", ","):
            return phases


def format_pattern(phases: Iterable[Phase]) -> str:
    """Write phases in breath notation, the one way Nafas always writes them.

    `parse_pattern(format_pattern(p)) == p` for every valid pattern.
    """
    phases = tuple(phases)
    plain = all(phase.counting is None and phase.cue is None for phase in phases)
    if plain and tuple(phase.kind for phase in phases) == _SHORT.get(len(phases)):
        return "-".join(str(phase.counts) for phase in phases)
    return ", ".join(_spell(phase, before) for phase, before in zip(phases, _breaths_before(phases)))


def _breaths_before(phases: tuple[Phase, ...]) -> list[PhaseKind]:
    """For each phase, the inhale or exhale written before it, as the reader will see it."""
    before, seen = [], PhaseKind.EXHALE
    for phase in phases:
        before.append(seen)
        if not phase.kind.is_hold:
            seen = phase.kind
    return before


def _spell(phase: Phase, before: PhaseKind) -> str:
    usual = PhaseKind.HOLD_FULL if before is PhaseKind.INHALE else PhaseKind.HOLD_EMPTY
    name = "hold" if phase.kind is usual else phase.kind.value
    words = [name, str(phase.counts)]
    if phase.counting is not None:
        words.append(phase.counting.value)
    if phase.cue is not None:
        words.append(f'"{phase.cue}"')
    return " ".join(words)


def format_set(pattern: Pattern, rounds: int, count_length: Fraction | None) -> str:
    """Write a whole set: `4-4-4-4 x6 @ 1.2s`; the count length only where the set has its own."""
    text = f"{format_pattern(pattern.phases)} x{rounds}"
    return text if count_length is None else f"{text} @ {decimal_text(count_length)}s"
