"""Breath notation of a whole set, as typed, stored and printed back. Phases are in `phase_notation`.

    4-4-4-4 x6 @ 1.2s                    rounds, and seconds a count; or @ 50/min, or @ as an-earlier-set
    4-4-4-4 x2 step 1 to 8 drop step     one count more every two rounds, the last hold of each step left out
    4-4 x1 step 1 on out to 8            the exhale grows
    3-3 x4 ladder 1 3/2 2                the exhale's ratio grows, rounded up (else: round down, nearest, refuse)
    4-6 x8 glide to 1.25s                slower counts
    in 2+2+2, out 8 x3; 6-8 x2           steps written by hand
    4-6 x9 fade full 3 cues 2 chimes     the voice thins out; silent about 60s, silent at-least 60s
    4-4 x2 step 1 to 6 ease 20s          natural breath between steps
    4-6 x6 say long ahead 2 carrier "sea" last     how it is counted aloud: also down, silent, tick, alone, bare
    4-6 x20 announce round 5 half left 3 2 minute  where one is; phrases "I let go" "I am here": one in each round
    4-6 for 5min                         whole rounds nearest to a length, at the count length written or 1 s
    rapid 40 @ 60/min every 10 demo 5 @ 10/min rest 45s      strokes; also bellows ... arms
    rest 30s                             natural breath

Errors point at the character and say what was expected there.
"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

from pydantic import ValidationError

from nafas.script.faults import first_fault
from nafas.script.model.guidance import FadeStep, Level
from nafas.script.model.pacing import (
    LONGEST_COUNT,
    MAX_ROUNDS,
    SHORTEST_COUNT,
    Glide,
    Ladder,
    Pacing,
    StepUp,
    Table,
    TableStep,
    steps_of,
)
from nafas.script.model.pattern import Pattern
from nafas.script.notation.announce import read_calls
from nafas.script.notation.phases import KINDS, read_phases
from nafas.script.notation.style import read_style
from nafas.script.notation.tokens import NotationError, Reader


@dataclass(frozen=True)
class SetNotation:
    """What one line of notation says of a set. None or (): not written, so inherited or left to the caller."""

    pattern: Pattern
    rounds: int | None
    count_length: Fraction | None
    count_from: str | None = None
    pacing: Pacing | None = None
    drop_hold: str | None = None
    fade: tuple[FadeStep, ...] = ()
    ease: Fraction | None = None
    style: dict[str, object] | None = None
    calls: dict[str, object] | None = None

    def fields(self) -> dict[str, object]:
        """The fields of a BreathSet that are written."""
        return {name: value for name, value in vars(self).items() if value not in (None, ())}


def parse_set(text: str) -> SetNotation:
    """Read a whole set: a pattern, then what is said of it in any order.

    Raises:
        NotationError: with the character at fault and what was expected.
    """
    reader = Reader(text)
    first = _pattern(reader)
    said: dict[str, object] = {}
    _clauses(reader, said, {**_OWN, **_WHOLE})
    steps: list[TableStep] = []
    while reader.take("mark", ";"):
        if "pacing" in said:
            raise reader.fail("steps by hand and another pacing", "keep one of them", reader.last)
        pattern, own = _pattern(reader), dict[str, object]()
        _clauses(reader, own, _OWN)
        if "count_from" in own:
            raise reader.fail(
                "a later step cannot borrow its count", "write its seconds, for example @ 1.2s", reader.last
            )
        if len(steps) >= MAX_ROUNDS:
            raise reader.fail("too many steps", f"write at most {MAX_ROUNDS}", reader.last)
        steps.append(TableStep(pattern=pattern, rounds=own.get("rounds", 1), count_length=own.get("count_length")))
        _clauses(reader, said, {name: read for name, read in _WHOLE.items() if name not in ("step", "ladder", "glide")})
    if not reader.done:
        raise reader.fail("this is not understood", 'rounds are written "x6" and seconds a count "@ 1.2s"')
    if steps:
        said["pacing"] = Table(steps_after=tuple(steps))
    lasting = said.get("rounds")
    if isinstance(lasting, Lasting):
        said["rounds"] = _rounds_lasting(reader, first, said, steps, lasting.seconds)
    result = SetNotation(first, **{"rounds": None, "count_length": None, **said})  # type: ignore[arg-type]
    try:
        steps_of(first, result.rounds or 1, result.pacing, result.count_length or Fraction(1))
    except ValueError as fault:
        problem, _, remedy = str(fault).partition("; ")
        raise NotationError(text, _pacing_column(text), problem, remedy) from None
    return result


def _rounds_lasting(
    reader: Reader, first: Pattern, said: dict[str, object], steps: list[TableStep], seconds: Fraction
) -> int:
    """Whole rounds (of each step) nearest to a length, without what is said between steps."""
    if steps:
        raise reader.fail("a length and steps by hand", "write the rounds of each step", 0)
    count = said.get("count_length", Fraction(1))
    assert isinstance(count, Fraction)
    pacing: Pacing | None = said.get("pacing")  # type: ignore[assignment]
    each = steps_of(first, 1, None if isinstance(pacing, Glide) else pacing, count)
    one = sum(phase.length(step.count_length or count) * step.rounds for step in each for phase in step.phases)
    return max(1, min(MAX_ROUNDS, round(seconds / one)))


def _pacing_column(text: str) -> int:
    return max((text.rfind(word) for word in (" step ", " ladder ", " glide ", ";")), default=0) + 1


def _pattern(reader: Reader) -> Pattern:
    begin = reader.column()
    phases = read_phases(reader)
    try:
        return Pattern(phases=tuple(phases))
    except ValidationError as error:
        raise NotationError(reader.text, begin, *first_fault(error)) from None


def parse_count(text: str) -> tuple[Fraction | None, str | None]:
    """Read a count length alone: `1.2s`, `50/min`, or `as long-exhale`; empty text is the session's (None, None).

    Raises:
        NotationError: with the character at fault.
    """
    if not text.strip():
        return None, None
    reader = Reader(text)
    reader.take("mark", "@")
    result = (None, _set_id(reader)) if reader.take("word", "as") else (_count_length(reader), None)
    if not reader.done:
        raise reader.fail("this is not understood", "write 1.2s, 50/min, or as and an earlier set's id")
    return result


def parse_fade(text: str) -> tuple[FadeStep, ...]:
    """Read a fade alone: `full 3 cues 2 silent about 60s full`. Raises NotationError."""
    reader = Reader(text)
    steps = () if reader.done else _fade(reader)
    if not reader.done:
        raise reader.fail("this is not understood", "write for example full 3 cues 2 chimes")
    return steps


def parse_pacing(text: str) -> Pacing | None:
    """Read a pacing alone: `step 1 to 8`, `ladder 1 3/2 2`, `glide to 1.2s`, or further steps `6-8 x2; 4-6 x3`.
    Empty text is None. Raises NotationError."""
    if not text.strip():
        return None
    head = "1-1 " if Reader(text).peek("word", "step", "ladder", "glide") else "1-1; "
    try:
        result = parse_set(head + text).pacing
    except NotationError as error:
        if "first step" in error.problem or error.column < len(head):  # of the pattern it stands in for: not known here
            reader = Reader(text)
            read = _WHOLE.get((reader.take("word") or _NOTHING).value)
            if read is not None:
                return read[1](reader)  # type: ignore[return-value]
        raise NotationError(text, max(0, error.column - len(head)), error.problem, error.remedy) from None
    return result


@dataclass(frozen=True)
class _Nothing:
    value: str = ""


_NOTHING = _Nothing()


def _clauses(reader: Reader, said: dict[str, object], known: dict[str, tuple[str, Callable[[Reader], object]]]) -> None:
    """Read what is said after a pattern, as long as it is known."""
    while True:
        token = reader.take("word", *known)
        marks = [mark for mark in ("×", "*", "@") if mark in known]
        if token is None and marks:
            token = reader.take("mark", *marks)
        if token is None:
            return
        name, read = known[token.value.lower()]
        column = reader.last
        if name == "count_length" and reader.take("word", "as"):
            name, read = "count_from", _set_id
        clash = {"count_length", "count_from"} if name.startswith("count") else {name}
        if clash & said.keys():
            what = {"rounds": "rounds are", "count_length": "the count length is", "count_from": "the count length is"}
            raise reader.fail(f"{what.get(name, 'this is')} written twice", "keep one", column)
        said[name] = read(reader)


def _rounds(reader: Reader) -> int:
    rounds = reader.whole("rounds", 1, MAX_ROUNDS)
    reader.take("word", "rounds", "round")
    return rounds


def _count_length(reader: Reader) -> Fraction:
    begin = reader.column()
    if not reader.peek("number"):
        raise reader.fail("seconds a count missing", 'write for example "@ 1.2s" or "@ 50/min"')
    try:
        number = reader.exact("a count", Fraction(1, 100), Fraction(1000), "@ 1.2s")
    except NotationError:
        number = Fraction(0)
    length = number
    if reader.take("mark", "/"):
        if not reader.take("word", "min", "minute"):
            raise reader.fail("a minute is expected", "write counts a minute as 50/min")
        length = 60 / number if number else number
    else:
        reader.take("word", "s", "sec", "seconds")
    if not SHORTEST_COUNT <= length <= LONGEST_COUNT:
        given = reader.text[begin : reader.at].strip()[:16]
        raise reader.fail(f"a count of {given} is not allowed", "write 0.2 to 6 seconds (10 to 300 a minute)", begin)
    return length


def _set_id(reader: Reader) -> str:
    words = []
    while True:
        token = reader.take("word") or reader.take("number")
        if token is None:
            raise reader.fail("the name of an earlier set missing", "write its id, for example @ as long-exhale")
        words.append(token.value.lower())
        if not reader.take("mark", "-"):
            return "-".join(words)


def _kinds(reader: Reader) -> tuple[str, ...]:
    kinds = []
    while (token := reader.take("word", *KINDS)) is not None:
        kinds.append(KINDS[token.value.lower()].value)
    if not kinds:
        raise reader.fail("which phases is missing", "write in, out, hold-full or hold-empty")
    return tuple(dict.fromkeys(kinds))


def _step_up(reader: Reader) -> StepUp:
    down = reader.take("mark", "-", "–") is not None
    by = reader.whole("a step", 1, 20)
    on = _kinds(reader) if reader.take("word", "on") else ()
    if not reader.take("word", "to"):
        raise reader.fail("the limit missing", "write for example step 1 to 8")
    limit = reader.whole("a limit", 1, 60)
    return StepUp.model_validate({"by": -by if down else by, "limit": limit, "on": on})


def _ladder(reader: Reader) -> Ladder:
    ratios: list[Fraction] = []
    while reader.peek("number") or not ratios:
        ratios.append(reader.exact("a ratio", Fraction(1, 4), Fraction(6), "ladder 1 3/2 2"))
    rounding = "up"
    if reader.take("word", "round"):
        way = reader.take("word", "up", "down", "nearest", "refuse")
        if way is None:
            raise reader.fail("how to round is missing", "write round up, down, nearest or refuse")
        rounding = way.value.lower()
    return Ladder.model_validate({"ratios": ratios, "rounding": rounding})


def _glide(reader: Reader) -> Glide:
    reader.take("word", "to")
    return Glide(to=_count_length(reader))


def _drop(reader: Reader) -> str:
    token = reader.take("word", "step", "last")
    if token is None:
        raise reader.fail("which hold is dropped is missing", "write drop step (of each step) or drop last")
    return token.value.lower()


@dataclass(frozen=True)
class Lasting:
    """Rounds that are written as a length of seconds."""

    seconds: Fraction


def _length_in_time(reader: Reader) -> Fraction:
    number = reader.exact("a length", Fraction(1, 100), Fraction(14_400), "for 5min")
    if reader.take("word", "min", "minute", "minutes"):
        number *= 60
        if reader.peek("number"):
            number += reader.exact("seconds", Fraction(1), Fraction(59), "for 5min 30s")
            reader.take("word", "s", "sec", "seconds")
    elif not reader.take("word", "s", "sec", "seconds"):
        raise reader.fail("minutes or seconds are expected", "write for example for 5min")
    return number


def _seconds(reader: Reader, what: str, high: int) -> Fraction:
    seconds = reader.exact(what, Fraction(0), Fraction(high), "30s")
    reader.take("word", "s", "sec", "seconds")
    return seconds


def _fade(reader: Reader) -> tuple[FadeStep, ...]:
    steps: list[FadeStep] = []
    while (token := reader.take("word", *Level)) is not None:
        said: dict[str, object] = {"level": token.value.lower()}
        rule = reader.take("word", "about", "at-least")
        if rule is not None:
            said |= {"rule": rule.value.lower(), "seconds": _seconds(reader, "practice alone", 3600)}
        elif reader.peek("number"):
            said["rounds"] = reader.whole("rounds", 1, MAX_ROUNDS)
        steps.append(FadeStep.model_validate(said))
    if not steps:
        raise reader.fail("how much is said is missing", "write full, cues, chimes or silent, each with its rounds")
    return tuple(steps)


_OWN: dict[str, tuple[str, Callable[[Reader], object]]] = {
    **dict.fromkeys(("x", "×", "*"), ("rounds", _rounds)),
    "@": ("count_length", _count_length),
}
_WHOLE: dict[str, tuple[str, Callable[[Reader], object]]] = {
    "step": ("pacing", _step_up),
    "ladder": ("pacing", _ladder),
    "glide": ("pacing", _glide),
    "drop": ("drop_hold", _drop),
    "fade": ("fade", _fade),
    "say": ("style", read_style),
    "announce": ("calls", read_calls),
    "for": ("rounds", lambda reader: Lasting(_length_in_time(reader))),
    "ease": ("ease", lambda reader: _seconds(reader, "ease", 300)),
}
