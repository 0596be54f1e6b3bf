"""What is said of a whole set in a typed line: rounds, length, seconds a count, the way up, the voice, the counting.

Each clause is taken out of the line's tokens where it stands; what is left over is the round.
"""

from dataclasses import dataclass, field
from fractions import Fraction

from nafas.script.model.exact import decimal_text
from nafas.script.model.pacing import MAX_ROUNDS
from nafas.script.model.phase import MAX_COUNTS
from nafas.script.notation.typed.calls import take_calls
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.vocabulary import Kind, Typed

_MOST_BREATHS = 12
"""A rate up to this is breaths a minute, above it counts (our own)."""
_CHAIN_MARKS = ("-", "/", ":", ".", ",")


@dataclass
class Clauses:
    """What was found; None where nothing was said. `a_minute` are breaths; `assumed` is what a name usually means."""

    rounds: int | None = None
    a_minute: Fraction | None = None
    assumed: str = ""
    lasts: Fraction | None = None
    grows: str | None = None
    count_length: Fraction | None = None
    counting: str | None = None
    fade: list[str] = field(default_factory=list)
    verbatim: list[str] = field(default_factory=list)


def take_clauses(line: Line) -> Clauses:
    """Take every clause out of a line. Raises NotationError for one that is out of bounds or written twice."""
    clauses = Clauses()
    for take in (_calls, _verbatim, _voice, _growing, _a_minute, _count_length, _length, _rounds, _counting):
        while take(line, clauses):
            pass
    return clauses


def _once(line: Line, index: int, there: object, what: str) -> None:
    if there is not None:
        raise line.fail(line.at(index), f"{what} written twice", "keep one")


def _calls(line: Line, clauses: Clauses) -> bool:
    """`announce the rounds`, `calling every 5 rounds and half way`: what is said of where one is."""
    calls = take_calls(line)
    clauses.verbatim += [calls] * bool(calls)
    return bool(calls)


def _verbatim(line: Line, clauses: Clauses) -> bool:
    """Clauses of the notation itself, as they stand, up to the next one."""
    for begin, token in enumerate(line.tokens):
        if token.kind is Kind.CLAUSE:
            end = begin + 1
            while end < len(line.tokens) and not (
                line.tokens[end].kind in (Kind.CLAUSE, Kind.AT, Kind.FOR) or line.mark(end, "x", ";")
            ):
                end += 1
            clauses.verbatim.append(line.text[token.begin : line.tokens[end - 1].end])
            line.cut(begin, end)
            return True
    return False


def _voice(line: Line, clauses: Clauses) -> bool:
    """`voice 2 silent 5`, `2 with voice, 5 silent`: a fade by rounds."""
    for begin, token in enumerate(line.tokens):
        if token.kind is not Kind.VOICE:
            continue
        ahead = line.kind(begin + 1) is Kind.NUMBER
        parts: list[str] = []
        index = begin if ahead else begin - 1
        first = index
        while (word := line.at(index)) is not None:
            if ahead and (word.kind is Kind.VOICE or word.value == "silent") and line.kind(index + 1) is Kind.NUMBER:
                level, rounds, step = word, line.whole(index + 1, "rounds", MAX_ROUNDS), 2
            elif not ahead and word.kind is Kind.NUMBER and (after := line.at(index + 1)) is not None:
                if after.kind is not Kind.VOICE and after.value != "silent":
                    break
                level, rounds, step = after, line.whole(index, "rounds", MAX_ROUNDS), 2
            elif parts and (word.is_mark(",", "/") or word.kind in (Kind.FILLER, Kind.ROUNDS, Kind.THEN)):
                index += 1
                continue
            else:
                break
            parts.append(f"{'full' if level.kind is Kind.VOICE else 'silent'} {rounds}")
            index += step
        if not parts:
            raise line.fail(token, "how many rounds are spoken is missing", "write for example voice 2 silent 5")
        clauses.fade = [*clauses.fade, *parts]
        line.cut(first, index)
        return True
    return False


def _growing(line: Line, clauses: Clauses) -> bool:
    """`a little slower each round`, `a count more every round`, `getting slower`: how the set changes as it goes on."""
    for begin, token in enumerate(line.tokens):
        if token.kind is not Kind.GROWTH:
            continue
        first, end = begin, begin + 1
        while line.kind(end) is Kind.COUNTS or line.kind(end) is Kind.FILLER:
            end += 1
        rounds = line.kind(end) is Kind.PER and line.kind(end + 1) in (Kind.ROUNDS, Kind.TIMES)
        end += 2 * rounds
        while line.kind(first - 1) in (Kind.FILLER, Kind.COUNTS, Kind.PER) or _is_one(line, first - 1):
            first -= 1
        every = any(line.kind(n) is Kind.PER for n in range(first, end))
        if token.value == "more" and not (every and rounds):
            continue
        if clauses.grows != token.value:
            _once(line, begin, clauses.grows, "how it grows is")
        clauses.grows = token.value
        line.cut(first, end)
        return True
    return _adding(line, clauses)


def _adding(line: Line, clauses: Clauses) -> bool:
    """`add a count every round`."""
    for begin in range(len(line.tokens)):
        one = line.kind(begin) is Kind.FILLER or _is_one(line, begin)
        if one and line.kinds(begin + 1, (Kind.COUNTS,), (Kind.PER,), (Kind.ROUNDS, Kind.TIMES)):
            first = begin - (line.kind(begin - 1) is Kind.UNKNOWN)
            clauses.grows = "more"
            line.cut(first, begin + 4)
            return True
    return False


def _is_one(line: Line, index: int) -> bool:
    return line.kind(index) is Kind.NUMBER and line.number(index) == 1


def _count_length(line: Line, clauses: Clauses) -> bool:
    """`@ 1.2s`, `@ 60 bpm`, `at 50 per minute`, `60 bpm`, `1.2 s a count`, `counts of 1.2 s`."""
    for begin, token in enumerate(line.tokens):
        end, length = begin, None
        if token.kind is Kind.AT and line.kind(begin + 1) is Kind.NUMBER:
            end, length = _pace_after(line, begin + 1, line.number(begin + 1))
        elif token.kind is Kind.NUMBER and line.kind(begin + 1) is Kind.BPM:
            end, length = begin + 2, 60 / token.number if token.number else None
        elif token.kind is Kind.NUMBER and line.kind(begin + 1) is Kind.SECONDS:
            middle = begin + 2 + (line.kind(begin + 2) in (Kind.PER, Kind.FILLER) or line.mark(begin + 2, "/"))
            if line.kind(middle) is Kind.COUNTS and middle > begin + 2:
                end, length = middle + 1, token.number
        elif line.kinds(begin, (Kind.COUNTS,), (Kind.FILLER, Kind.AT), (Kind.NUMBER,)):
            said = line.kind(begin + 3) is Kind.SECONDS
            if said or line.number(begin + 2).denominator > 1:
                end, length = begin + 3 + said, line.number(begin + 2)
        if length is not None:
            _once(line, begin, clauses.count_length, "the count length is")
            if not Fraction(1, 5) <= length <= 6:
                given = line.text[token.begin : line.tokens[end - 1].end]
                raise line.fail(token, f"a count of {given} is not allowed", "write 0.2 to 6 seconds")
            clauses.count_length = length
            line.cut(begin, end)
            return True
    return False


def _a_minute(line: Line, clauses: Clauses) -> bool:
    """`six breaths a minute`, `7 breaths per minute`: the length of a whole round."""
    for begin in range(len(line.tokens)):
        named = line.kind(begin + 1) is Kind.ROUNDS
        bare = line.kind(begin - 1) is Kind.AT and line.kind(begin + 1) in (Kind.PER, Kind.FILLER, Kind.FOR)
        if line.kind(begin) is not Kind.NUMBER or not (named or (bare and line.number(begin) <= _MOST_BREATHS)):
            continue
        end = begin + 1 + named
        end += line.kind(end) in (Kind.PER, Kind.FILLER, Kind.FOR) or line.mark(end, "/")
        if line.kind(end) is Kind.MINUTES:
            _once(line, begin, clauses.a_minute, "breaths a minute are")
            number = line.number(begin)
            if not 1 <= number <= 60:
                raise line.fail(line.at(begin), f"{number} breaths a minute", "write 1 to 60")
            clauses.a_minute = number
            line.cut(begin - (line.kind(begin - 1) is Kind.AT), end + 1)
            return True
    return False


def _pace_after(line: Line, index: int, number: Fraction) -> tuple[int, Fraction | None]:
    """Where a pace ends that begins with a number, and its seconds a count."""
    if line.kind(index + 1) is Kind.BPM:
        return index + 2, 60 / number if number else Fraction(0)
    if (line.mark(index + 1, "/") or line.kind(index + 1) in (Kind.PER, Kind.FILLER, Kind.FOR)) and (
        line.kind(index + 2) is Kind.MINUTES
    ):
        return index + 3, 60 / number if number else Fraction(0)
    end = index + 1 + (line.kind(index + 1) is Kind.SECONDS)
    middle = end + (line.kind(end) in (Kind.PER, Kind.FILLER))
    return (middle + 1 if line.kind(middle) is Kind.COUNTS and middle > end else end), number


def _length(line: Line, clauses: Clauses) -> bool:
    """`for 5 min`, `x 5min`, `5:00`, `2 minutes`, `90 s` after `for`: but not the length of a hold."""
    for begin, token in enumerate(line.tokens):
        if token.kind is Kind.TIME:
            end, lasts = begin + 1, token.number
        elif (parts := part_of_an_hour(line.tokens[begin:])) is not None:
            end, lasts = begin + parts[0], parts[1]
        elif token.kind is Kind.NUMBER and line.kind(begin + 1) is Kind.MINUTES:
            end, lasts = begin + 2, 60 * token.number
            if line.kind(end) is Kind.FILLER and line.kind(end + 2) is Kind.SECONDS:
                end += 1
            if line.kind(end) is Kind.NUMBER and line.kind(end + 1) is Kind.SECONDS:
                end, lasts = end + 2, lasts + line.number(end)
        elif token.kind is Kind.NUMBER and line.kind(begin + 1) is Kind.SECONDS and _by_itself(line, begin):
            end, lasts = begin + 2, token.number
        else:
            continue
        if _of_a_hold(line, begin):
            continue
        _once(line, begin, clauses.lasts, "the length is")
        clauses.lasts = lasts
        line.cut(begin - _lead_in(line, begin), end)
        return True
    return False


def part_of_an_hour(tokens: list[Typed]) -> tuple[int, Fraction] | None:
    """How many tokens say a length in words, and its seconds: `half a minute`, `a minute and a half`, `1/2 hour`,
    `2 hours`; None where a length in figures, or none, begins."""
    kinds = [Kind.FILLER if token.is_mark("/") else token.kind for token in tokens[:5]]
    units = {Kind.MINUTES: Fraction(60), Kind.HOURS: Fraction(3600)}
    if kinds[:1] == [Kind.HALF]:
        at = 1 + (kinds[1:2] == [Kind.FILLER])
        return (at + 1, units[kinds[at]] / 2) if at < len(kinds) and kinds[at] in units else None
    if kinds[:3:2] == [Kind.NUMBER, Kind.NUMBER] and len(kinds) > 3 and tokens[1].is_mark("/") and kinds[3] in units:
        return (4, tokens[0].number / tokens[2].number * units[kinds[3]]) if tokens[2].number else None
    one = kinds[:1] == [Kind.FILLER]
    if len(kinds) < 2 or kinds[1] not in units or not (one or kinds[0] is Kind.NUMBER):
        return None
    number = Fraction(1) if one else tokens[0].number
    for half in (2, 3, 4):  # "and a half"
        if kinds[half : half + 1] == [Kind.HALF] and all(kind is Kind.FILLER for kind in kinds[2:half]):
            return half + 1, (number + Fraction(1, 2)) * units[kinds[1]]
    return (2, number * units[kinds[1]]) if one or kinds[1] is Kind.HOURS else None


def _lead_in(line: Line, index: int) -> int:
    """How many tokens before a length belong to it: `for`, `x`, a comma."""
    lead = int(line.kind(index - 1) in (Kind.FOR, Kind.AT, Kind.PER) or line.mark(index - 1, "x"))
    return lead + int(line.mark(index - 1 - lead, ","))


def _by_itself(line: Line, index: int) -> bool:
    """Seconds that are the length of all: after `for` or `x`, with no phase that they could belong to."""
    if line.mark(index - 1, "x"):
        return True
    return line.kind(index - 1) is Kind.FOR and line.kind(index - 2) not in (Kind.PHASE, Kind.FULLNESS)


def _of_a_hold(line: Line, index: int) -> bool:
    before = index - 1
    while line.kind(before) in (Kind.FOR, Kind.FILLER, Kind.FULLNESS, Kind.SIDE) or line.mark(before, "=", ":"):
        before -= 1
    token = line.at(before)
    return token is not None and token.kind is Kind.PHASE and token.value.startswith("hold")


def _rounds(line: Line, clauses: Clauses) -> bool:
    """`x6`, `6 x`, `6x 4-7-8`, `5 rounds of`, `six times`, `rounds 6`, `twice`."""
    for begin, token in enumerate(line.tokens):
        first, end, rounds = begin, begin, None
        if token.is_mark("x"):
            after = line.kind(begin + 1) is Kind.NUMBER and not _in_chain(line, begin + 1, forward=True)
            if after:
                end = begin + 2 + (line.kind(begin + 2) is Kind.ROUNDS)
                rounds = line.whole(begin + 1, "rounds", MAX_ROUNDS)
            elif line.kind(begin - 1) is Kind.NUMBER and not _in_chain(line, begin - 1, forward=False):
                first, end, rounds = begin - 1, begin + 1, line.whole(begin - 1, "rounds", MAX_ROUNDS)
            else:
                raise line.fail(token, "how many rounds is missing", 'write for example "x6"')
        elif token.kind is Kind.NUMBER and line.kind(begin + 1) in (Kind.ROUNDS, Kind.TIMES):
            after_it = line.at(begin + 1)
            if after_it is not None and after_it.kind is Kind.TIMES and after_it.value.isdigit():
                continue
            end, rounds = begin + 2, line.whole(begin, "rounds", MAX_ROUNDS)
        elif (
            token.kind is Kind.ROUNDS
            and line.kind(begin + 1) is Kind.NUMBER
            and line.kind(begin - 1) is not Kind.NUMBER
        ):
            if _in_chain(line, begin + 1, forward=True):
                line.cut(begin, begin + 1)  # "box breath 4": a word that says nothing here
                return True
            end, rounds = begin + 2, line.whole(begin + 1, "rounds", MAX_ROUNDS)
            if line.tokens[0].kind is Kind.FAMILY and not any(
                each.kind is Kind.NUMBER for each in (*line.tokens[:begin], *line.tokens[end:])
            ):
                line.cut(begin, begin + 1)
                return True
        elif token.value == "repeat" and line.kind(begin + 1) is Kind.NUMBER and line.kind(begin + 2) is None:
            end, rounds = begin + 2, line.whole(begin + 1, "rounds", MAX_ROUNDS)
        elif token.kind is Kind.TIMES and token.value.isdigit():
            end, rounds = begin + 1, int(token.value)
        if rounds is not None:
            _once(line, begin, clauses.rounds, "rounds are")
            clauses.rounds = rounds
            lead = int(line.kind(first - 1) in (Kind.FOR, Kind.FILLER))
            line.cut(first - lead, end)
            return True
    return False


def _in_chain(line: Line, index: int, forward: bool) -> bool:
    """Whether a number is joined to another one on that side, as in 4-7-8 or 4 7 8."""
    step = 1 if forward else -1
    if line.mark(index + step, ",") and any(t.is_mark("-", "/", ":") or t.kind is Kind.PHASE for t in line.tokens):
        return False  # 4-6, 6x: the row has another mark between its numbers, or none
    if line.mark(index + step, *_CHAIN_MARKS):
        return line.kind(index + 2 * step) is Kind.NUMBER and not (
            line.mark(index + step, ",") and line.kind(index + 3 * step) is None
        )
    return line.kind(index + step) is Kind.NUMBER and not forward


def _counting(line: Line, clauses: Clauses) -> bool:
    """`counting down`, `count silently`, `down`: where it is said of the whole, that is, not right after a phase."""
    for begin, token in enumerate(line.tokens):
        if token.kind is not Kind.COUNTING:
            continue
        first = begin - (line.kind(begin - 1) is Kind.COUNTS)
        if token.value == "up" and first == begin and line.kind(begin + 1) is not Kind.TO:
            continue  # "warm up" counts nothing
        alone = not any(each.kind is Kind.PHASE for each in line.tokens)
        if alone or (line.mark(first - 1, ",") and begin == len(line.tokens) - 1):
            clauses.counting = token.value
            line.cut(first, begin + 1)
            return True
    return False


def rounds_for(lasts: Fraction, one: Fraction) -> tuple[int, int]:
    """Whole rounds nearest to a length, and the second nearest: of `one` seconds each, at least 1."""
    exact = lasts / one
    low = max(1, int(exact))
    high = low + 1
    nearest = (low, high) if exact - low <= high - exact else (high, low)
    return nearest if exact >= 1 else (1, 2)


def whole_counts(lengths: list[Fraction]) -> tuple[list[int], Fraction]:
    """Lengths as whole counts, and the seconds of a count that make them so: nearest to one second, written in few
    digits. Raises ValueError where there is none within the bounds."""
    if all(length.denominator == 1 for length in lengths):
        return [int(length) for length in lengths], Fraction(1)
    shortest = min(length for length in lengths if length)
    fits = []
    for counts in range(1, MAX_COUNTS + 1):
        one = shortest / counts
        if Fraction(1, 2) <= one <= 2 and all((each / one).denominator == 1 for each in lengths):
            fits.append(("/" in decimal_text(one), abs(float(one) - 1) + 0.2 * (one < 1), one))
    if not fits:
        raise ValueError("no count length makes whole counts of these")
    one = min(fits)[2]
    return [int(each / one) for each in lengths], one
