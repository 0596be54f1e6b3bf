"""One round as typed: a row of numbers, a family by name, or phases in words; written as breath notation."""

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction

from nafas.script.model.exact import decimal_text
from nafas.script.notation.phases import SHORT
from nafas.script.notation.tokens import NotationError
from nafas.script.notation.typed.clauses import Clauses, whole_counts
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.ratios import with_numbers
from nafas.script.notation.typed.vocabulary import Kind, Typed

_FAMILIES = {"box": 4, "equal": 2, "coherent": 2, "triangle": 3}
_USUAL = {"box": 4, "equal": 4, "coherent": 5, "triangle": 4}
"""Counts of each phase where none are said (common practice, no source)."""
_EARLY = (Kind.SIDE, Kind.ROUTE, Kind.SOUND)
"""What may be said before its phase: left in 4, nose in 4, sigh out 6."""
_CHAIN = ("-", "/", ":", ".", ",")


@dataclass
class Typing:
    """A phase as far as it is read."""

    kind: str
    token: Typed
    length: Fraction | None = None
    parts: str = ""
    names: list[str] = field(default_factory=list)
    seconds: bool = False
    side: str = ""
    said: list[str] = field(default_factory=list)

    def written(self, counts: int) -> str:
        """As notation, at so many counts."""
        size = f"{decimal_text(self.length or Fraction(0))}s" if self.seconds else self.parts or str(counts)
        if self.names:
            size += f" ({', '.join(self.names)})"
        return " ".join(part for part in (self.kind, self.side, size, *self.said) if part)


def chain_of(line: Line) -> list[Typed] | None:
    """The numbers of a line that is nothing but a row of them, two to four; None for any other."""
    numbers: list[Typed] = []
    between: set[str] = set()
    index, tokens = 0, [token for token in line.tokens if token.kind not in (Kind.FILLER, Kind.COUNTS, Kind.FOR)]
    while index < len(tokens):
        token = tokens[index]
        if token.kind is not Kind.NUMBER:
            return None
        numbers.append(token)
        index += 1
        if index < len(tokens) and tokens[index].kind is Kind.SECONDS:
            index += 1
        if index < len(tokens) and tokens[index].is_mark(*_CHAIN):
            between.add(tokens[index].value)
            index += 1
            if index == len(tokens):
                return None
        elif index < len(tokens):
            between.add(" ")
    return numbers if 2 <= len(numbers) <= 4 and len(between) == 1 else None


def read_round(line: Line, clauses: Clauses) -> str:
    """The round that is left of a line, as notation; a count length that decimals ask for goes into `clauses`.

    Raises:
        NotationError: it is none, or says what is not understood.
    """
    if clauses.a_minute is not None and all(token.kind is Kind.FILLER for token in line.tokens):
        clauses.assumed = "in and out alike, 4 counts each"
        return "4-4"
    if not line.tokens:
        raise line.fail(None, "no breath is written", "write for example 4-2-8")
    numbers = chain_of(line)
    families = [token for token in line.tokens if token.kind is Kind.FAMILY]
    if numbers is None and len(families) == 1 and len([t for t in line.tokens if t.kind is Kind.NUMBER]) < 2:
        line.tokens = [families[0], *(token for token in line.tokens if token is not families[0])]  # "4 count box"
    if numbers is None and line.kind(0) is Kind.FAMILY:
        numbers = _family(line, clauses)
    if numbers is None and line.kind(len(line.tokens) - 1) is Kind.FAMILY:
        numbers = chain_of(Line(line.text, line.tokens[:-1]))
        if numbers is not None and len(numbers) != _FAMILIES[line.tokens[-1].value]:
            raise line.fail(line.tokens[-1], f"{len(numbers)} numbers", "leave the name out, or write its number alone")
    if numbers is not None:
        counts = _counts(line, numbers, [number.number for number in numbers], clauses)
        if clauses.counting is None:
            return "-".join(map(str, counts))
        return ", ".join(f"{kind} {count} {clauses.counting}" for kind, count in zip(SHORT[len(counts)], counts))
    phases = _phases(line, clauses)
    lengths = [phase.length or Fraction(0) for phase in phases if not phase.seconds and not phase.parts]
    whole = iter(_counts(line, [phase.token for phase in phases], lengths, clauses) if lengths else [])
    written = []
    for phase in phases:
        if clauses.counting is not None and not phase.said:
            phase.said.append(clauses.counting)
        written.append(phase.written(0 if phase.seconds or phase.parts else next(whole)))
    return ", ".join(written)


def _family(line: Line, clauses: Clauses) -> list[Typed]:
    family = line.tokens[0]
    rest = [t for t in line.tokens[1:] if t.kind not in (Kind.FILLER, Kind.COUNTS, Kind.ROUNDS, Kind.SECONDS, Kind.FOR)]
    rest = [t for t in rest if not t.is_mark(":", ",", "-", "=")]
    size = _FAMILIES[family.value]
    if not rest:
        usual = _USUAL[family.value]
        clauses.assumed = f"{line.text[family.begin : family.end]}: {usual} counts each, as usual"
        return [replace(family, kind=Kind.NUMBER, value=str(usual), number=Fraction(usual))] * size
    if any(token.kind is not Kind.NUMBER for token in rest):
        odd = next(token for token in rest if token.kind is not Kind.NUMBER)
        raise line.fail(odd, "this is not understood", f"write for example {family.value} 4 x6")
    if len(rest) == 1:
        return rest * size
    if len(rest) == size and len({token.number for token in rest}) == 1:
        return rest
    raise line.fail(
        rest[1], f"{len(rest)} numbers for {family.value}", "write one number, or the round without its name"
    )


def _counts(line: Line, tokens: list[Typed], lengths: list[Fraction], clauses: Clauses) -> list[int]:
    try:
        counts, one = whole_counts(lengths)
    except ValueError:
        raise line.fail(
            tokens[0], "these lengths make no whole counts", "write whole counts, and seconds a count after @"
        ) from None
    if one != 1:
        if clauses.count_length not in (None, one):
            raise line.fail(tokens[0], "seconds and another count length", "write whole counts before @")
        clauses.count_length = one
    return counts


def _phases(line: Line, clauses: Clauses) -> list[Typing]:
    """Phases in words: `in 4`, `inhale for 4`, `4 in`, `left in 4`, in any of these orders, but one in a line."""
    tokens = with_numbers(_sound_first(line.tokens))
    first = next((token for token in tokens if token.kind in (Kind.PHASE, Kind.NUMBER, Kind.PARTS)), None)
    if first is None or not any(token.kind is Kind.PHASE for token in tokens):
        raise _no_round(line)
    number_first = first.kind is not Kind.PHASE
    side_first = tokens[0].kind is Kind.SIDE
    phases: list[Typing] = []
    ahead: list[Typed] = []  # what was read before the phase that it belongs to
    sound = ""  # said before everything: that of every exhale
    broken = True  # a comma, or the beginning: what follows may belong to the next phase
    for index, token in enumerate(tokens):
        phase = phases[-1] if phases else None
        if token.kind is Kind.PHASE and _is_preposition(line, tokens, index):
            continue
        if token.kind is Kind.SOUND and not any(each.kind is Kind.PHASE for each in tokens[:index]):
            sound = token.value
        elif token.kind is Kind.PHASE:
            phases.append(_begun(token, phases))
            for early in ahead:
                _put(line, phases[-1], early, index)
            ahead, broken = [], False
        elif token.kind is Kind.MARK:
            if token.value not in ",;-+=:/.>&":
                raise line.fail(token, f"{token.value!r} does not belong here", "write for example in 4, out 6")
            broken = broken or token.value not in "=:"
        elif token.kind in (Kind.FILLER, Kind.FOR, Kind.COUNTS, Kind.AT, Kind.PER, Kind.THEN):
            continue
        elif (
            (number_first and token.kind in (Kind.NUMBER, Kind.PARTS))
            or (number_first and token.kind in (Kind.SECONDS, Kind.MINUTES) and ahead)
            or (
                token.kind in _EARLY
                and (
                    phase is None
                    or (token.kind is Kind.SIDE and side_first)
                    or (broken and _next_is_phase(tokens, index))
                )
            )
        ):
            ahead.append(token)
        elif phase is None:
            raise line.fail(token, "this is not understood", "write for example in 4, out 6")
        else:
            _put(line, phase, token, index)
    if ahead:
        raise line.fail(ahead[0], "this belongs to no phase", "write in, hold or out next to it")
    _side_of_all(tokens, phases)
    for phase in phases:
        if sound and phase.kind == "out" and sound not in phase.said:
            phase.said.append(sound)
    _bare_holds(phases, clauses)
    for phase in phases:
        if phase.length is None and not phase.parts:
            raise line.fail(phase.token, "how many counts is missing", f"write for example {phase.kind} 4")
    return phases


def _bare_holds(phases: list[Typing], clauses: Clauses) -> None:
    """Holds without a number are as long as the breaths, where all of these are alike."""
    bare = [phase for phase in phases if phase.kind.startswith("hold") and phase.length is None and not phase.parts]
    lengths = {phase.length for phase in phases if phase not in bare}
    if bare and len(lengths) == 1 and len(phases) - len(bare) > 1 and None not in lengths:
        for phase in bare:
            phase.length = next(iter(lengths))
        clauses.assumed = "; ".join(filter(None, (clauses.assumed, "holds as long as the breaths")))


def _sound_first(tokens: list[Typed]) -> list[Typed]:
    """`hum on the exhale, in 4 out 8`: the sound alone, where its phase has no number of its own."""
    comma = next((n for n, token in enumerate(tokens) if token.is_mark(",")), 0)
    head = [token for token in tokens[:comma] if token.kind is not Kind.FILLER]
    return [head[0], *tokens[comma:]] if [t.kind for t in head] == [Kind.SOUND, Kind.PHASE] else tokens


def _is_preposition(line: Line, tokens: list[Typed], index: int) -> bool:
    """Whether `in` stands between a phase and its number: "inspira in 4"."""
    word = line.text[tokens[index].begin : tokens[index].end].lower()
    return word == "in" and index > 0 and tokens[index - 1].kind is Kind.PHASE


def _side_of_all(tokens: list[Typed], phases: list[Typing]) -> None:
    """A side that is said once, after everything else, is that of the whole breath."""
    said = [token for token in tokens if token.kind not in (Kind.FILLER, Kind.MARK)]
    sides = [token for token in said if token.kind is Kind.SIDE]
    comma = any(token.is_mark(",") for token in tokens[-3:])
    begins = len(sides) == 1 and said[0] is sides[0]  # "left side: in 4, out 6"
    both = begins and (sides[0].value == "both" or any(token.is_mark(":") for token in tokens[1:3]))
    if both or (comma and len(sides) == 1 and said[-1] is sides[0]):
        for phase in phases:
            phase.side = sides[0].value if phase.kind in ("in", "out") else phase.side


def _no_round(line: Line) -> NotationError:
    numbers = [token for token in line.tokens if token.kind is Kind.NUMBER]
    if len(numbers) == 1 and len(line.tokens) == 1:
        return line.fail(numbers[0], "one number is not a round", "write in and out")
    odd = next((token for token in line.tokens if token.kind is Kind.UNKNOWN), line.tokens[0])
    if len(numbers) > 4 and odd.kind is Kind.NUMBER:
        return line.fail(numbers[4], "a fifth number", "write longer rounds in words: in 4, hold 2, out 6, ...")
    return line.fail(odd, "this is not understood", "write for example 4-2-8 x6, or in 4, out 6")


def _next_is_phase(tokens: list[Typed], index: int) -> bool:
    after = next((t for t in tokens[index + 1 :] if t.kind is not Kind.FILLER), None)
    return after is not None and after.kind is Kind.PHASE


def _begun(token: Typed, phases: list[Typing]) -> Typing:
    kind = token.value
    if kind == "hold":
        before = next((phase.kind for phase in reversed(phases) if phase.kind in ("in", "out")), "out")
        kind = "hold-full" if before == "in" else "hold-empty"
    return Typing(kind, token)


def _put(line: Line, phase: Typing, token: Typed, index: int) -> None:
    """What one token says of a phase."""
    kind, said = token.kind, phase.said
    if kind is Kind.NUMBER:
        if said and said[-1] == "to":
            said[-1] = f"to {_fraction(line, token, index)}"
        elif said and said[-1].startswith("to ") and token.begin and line.text[token.begin - 1] == "/":
            pass  # the second half of a fraction
        elif phase.length is not None or phase.parts:
            raise line.fail(token, "a second number for one phase", "write in, hold or out before it")
        else:
            phase.length = token.number
    elif kind is Kind.PARTS:
        phase.parts = token.value
    elif kind is Kind.SECONDS:
        phase.seconds = phase.kind.startswith("hold") and _in_seconds(line)
    elif kind is Kind.MINUTES:
        if not phase.kind.startswith("hold") or phase.length is None:
            raise line.fail(
                token, "a breath of minutes", "write its counts; minutes are for holds, or for the whole set"
            )
        phase.length, phase.seconds = 60 * phase.length, True
    elif kind is Kind.TIME and phase.kind.startswith("hold") and phase.length is None:
        phase.length, phase.seconds = token.number, True
    elif kind is Kind.FULLNESS and phase.kind.startswith("hold"):
        phase.kind = f"hold-{token.value}"
    elif kind is Kind.SIDE:
        if phase.side:
            raise line.fail(token, "two sides for one phase", "write one of them, or both")
        phase.side = token.value
    elif kind in (Kind.ROUTE, Kind.SOUND, Kind.COUNTING):
        said.append(token.value)
    elif kind is Kind.QUOTE:
        said.append(f'"{token.value}"')
    elif kind is Kind.TO:
        said.append("to")
    elif kind is Kind.UNKNOWN and phase.parts and re.fullmatch(r"[^\W\d_]+", token.value):
        phase.names.append(token.value)
    else:
        raise line.fail(
            token, "this is not understood", "say a side, a route, a sound, how it is counted, or words in quotes"
        )


def _fraction(line: Line, token: Typed, index: int) -> str:
    if line.mark(index + 1, "/") and line.kind(index + 2) is Kind.NUMBER:
        return f"{token.value}/{line.tokens[index + 2].value}"
    return token.value


def _in_seconds(line: Line) -> bool:
    """Whether seconds stand at holds alone: where every phase has them, they are counts of a second."""
    seconds = sum(token.kind is Kind.SECONDS for token in line.tokens)
    return seconds < sum(token.kind is Kind.PHASE for token in line.tokens)
