"""Calls of a set in a typed line: "announce every five rounds, half way and the last minute"."""

from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.vocabulary import Kind

_BETWEEN = (Kind.FILLER, Kind.THEN, Kind.AT, Kind.TO)
_MOST_LEFT, _MOST_EVERY = 99, 100


def take_calls(line: Line) -> str:
    """Take the calls out of a line, and write them as clauses of the notation; "" where none are typed.

    Raises:
        NotationError: rounds out of bounds.
    """
    for begin, token in enumerate(line.tokens):
        if token.kind is Kind.CALL and token.value == "call":
            found = _Found(line)
            end = found.read(begin + 1)
            first = begin
            if not found.written:
                first, end = found.before(begin), begin + 1
            if found.written:
                while line.kind(first - 1) in _BETWEEN:
                    first -= 1
                line.cut(first, end)
                return found.written
    return ""


class _Found:
    """What is to be called, read from a place on."""

    def __init__(self, line: Line) -> None:
        self.line = line
        self.every: int | None = None
        self.left: list[int] = []
        self.half = self.minute = self.last = False

    @property
    def written(self) -> str:
        """As clauses of the notation."""
        words = []
        if self.every is not None:
            words.append("round" if self.every == 1 else f"round {self.every}")
        if self.left:
            words.append(f"left {' '.join(map(str, sorted(set(self.left), reverse=True)))}")
        words += ["half"] * self.half + ["minute"] * self.minute
        return " ".join(["announce", *words] * bool(words) + ["say last"] * self.last)

    def read(self, index: int) -> int:
        """Read from a place on; the place after the last word that belongs to the calls."""
        line, end = self.line, index
        while line.at(index) is not None:
            if line.kind(index) in _BETWEEN or line.mark(index, ","):
                index += 1
                continue
            taken = self._every(index) or self._half(index) or self._minute(index) or self._left(index)
            taken = taken or self._last(index) or self._rounds(index)
            if not taken:
                break
            index = end = index + taken
        return end

    def before(self, verb: int) -> int:
        """Read what stands right before the verb ("die Runden ansagen", "noch zwei ansagen"), and where it begins. A
        number before the rounds says how many there are."""
        for first in range(verb - 1, max(-1, verb - 5), -1):
            trial = _Found(self.line)
            rounds_of_the_set = self.line.kinds(first, (Kind.ROUNDS,)) and self.line.kind(first - 1) is Kind.NUMBER
            if not rounds_of_the_set and trial.read(first) == verb and trial.written:
                vars(self).update(vars(trial))
                return first
        return verb

    def _every(self, index: int) -> int:
        """`every round`, `every 5 rounds`."""
        line = self.line
        number = line.kind(index + 1) is Kind.NUMBER
        if line.kind(index) is not Kind.PER or line.kind(index + 1 + number) is not Kind.ROUNDS:
            return 0
        self.every = line.whole(index + 1, "every so many rounds", _MOST_EVERY) if number else 1
        return 2 + number

    def _half(self, index: int) -> int:
        """`half way`, `halfway`."""
        if not self._is(index, "halfway") and self.line.kind(index) is not Kind.HALF:
            return 0
        self.half = True
        after = self.line.at(index + 1)
        return 1 + (after is not None and after.value.lower() in ("way", "point"))

    def _minute(self, index: int) -> int:
        """`a minute left`, `the last minute`, `one minute to go`."""
        line = self.line
        lead = int(self._is(index, "left") or self._is(index, "last"))
        one = int(line.kind(index + lead) is Kind.NUMBER and line.number(index + lead) == 1)
        at = index + lead + one
        while line.kind(at) is Kind.FILLER:
            at += 1
        if line.kind(at) is not Kind.MINUTES:
            return 0
        self.minute = True
        return at + 1 - index + self._is_left(at + 1)

    def _left(self, index: int) -> int:
        """`3, 2 left`, `two rounds left`, `quedan dos`."""
        line, at, numbers = self.line, index, []
        lead = self._is(index, "left")
        at += lead
        if line.kind(at) is not Kind.NUMBER:
            return 0
        while line.kind(at) in (Kind.NUMBER, Kind.ROUNDS, Kind.FILLER) or line.mark(at, ","):
            if line.kind(at) is Kind.NUMBER:
                numbers.append(at)
            at += 1
        if not numbers or not (lead or self._is_left(at)):
            return 0
        for place in numbers:
            number = line.whole(place, "rounds left", _MOST_LEFT)
            self.left += [number] * (number > 1)
            self.last = self.last or number == 1
        return (numbers[-1] + 1 if lead else at + 1) - index

    def _last(self, index: int) -> int:
        """`the last one`, `the last round`."""
        if not self._is(index, "last"):
            return 0
        self.last = True
        after = self.line.at(index + 1)
        one = after is not None and (after.kind is Kind.ROUNDS or (after.kind is Kind.NUMBER and after.number == 1))
        return 1 + one

    def _rounds(self, index: int) -> int:
        """`the rounds`, `the round`."""
        if self.line.kind(index) is not Kind.ROUNDS:
            return 0
        self.every = self.every or 1
        return 1

    def _is(self, index: int, value: str) -> bool:
        token = self.line.at(index)
        return token is not None and token.kind is Kind.CALL and token.value == value

    def _is_left(self, index: int) -> bool:
        """Whether "left" or its like stands there; in English the word is a side, too."""
        token = self.line.at(index)
        return self._is(index, "left") or (token is not None and token.value == "L")
