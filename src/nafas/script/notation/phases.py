"""Breath notation of phases: reading and writing one round.

4-2-8                       in 4, hold full 2, out 8 (two numbers: in, out; four: with an empty hold)
in 4, hold 7 silent, out 8 down "let it go"      `hold` is full after an inhale, empty after an exhale
in 2+2+2 (belly, ribs, chest), out 8             parts with slight pauses; 2~2~2: places in one smooth breath
in 2+2+2 (belly, ribs: arms out, chest) through  what the body does in a part; counted on through the parts
out 8 ahead 3               three counts of its own before it, in which its cue is said
in L 4, out R 4             sides; also nose, mouth, pursed, throat; to 2/3; hum, chant, sigh
hold 30s calls half 10 5 release                 a hold in seconds, with calls
in 4 long "breathe in softly" move "arms up"     said in the first round; `move always` in every one
"""

import re
from collections.abc import Iterable
from fractions import Fraction

from pydantic import ValidationError

from nafas.plain_text import pluralize
from nafas.script.model.exact import decimal_text
from nafas.script.model.phase import (
    LONGEST_HOLD,
    MAX_COUNTS,
    MAX_PHASES,
    Call,
    Counting,
    Movement,
    Part,
    Phase,
    PhaseKind,
    Route,
    Side,
    SoundKind,
)
from nafas.script.notation.tokens import Reader

SHORT = {
    2: (PhaseKind.INHALE, PhaseKind.EXHALE),
    3: (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE),
    4: (PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE, PhaseKind.HOLD_EMPTY),
}
KINDS = {
    "in": PhaseKind.INHALE,
    "inhale": PhaseKind.INHALE,
    "out": PhaseKind.EXHALE,
    "exhale": PhaseKind.EXHALE,
    "hold-full": PhaseKind.HOLD_FULL,
    "hold-empty": PhaseKind.HOLD_EMPTY,
}
_SIDES = {"l": Side.LEFT, "left": Side.LEFT, "r": Side.RIGHT, "right": Side.RIGHT, "both": Side.BOTH}
_FULLEST = Fraction(1)
_IN_SECONDS = re.compile(r"(?:/\d+)?\s*(s|sec|seconds)\b")


def parse_pattern(text: str) -> tuple[Phase, ...]:
    """Read a pattern alone.

    Raises:
        NotationError: with the character at fault and what was expected; also when rounds or a count length follow.
    """
    reader = Reader(text)
    phases = read_phases(reader)
    if not reader.done:
        raise reader.fail("a pattern ends here", "give rounds and count length in their own fields")
    return tuple(phases)


def read_phases(reader: Reader) -> list[Phase]:
    """Read one round. Raises NotationError."""
    if reader.done:
        raise reader.fail("nothing is written", "write for example 4-2-8")
    begin = reader.column()
    phases = _numbers(reader) if reader.peek("number") else _spelled(reader)
    if len(phases) > MAX_PHASES:
        raise reader.fail(f"{len(phases)} phases in one round", f"write at most {MAX_PHASES}", begin)
    return phases


def _numbers(reader: Reader) -> list[Phase]:
    counts = [reader.whole("counts", 0, MAX_COUNTS)]
    while reader.take("mark", "-", "–"):
        if len(counts) == 4:
            raise reader.fail("a fifth number", "write longer rounds in words: in 4, hold 2, out 6, ...")
        counts.append(reader.whole("counts", 0, MAX_COUNTS))
    if len(counts) == 1:
        raise reader.fail("one number is not a round", f"write in and out, for example {counts[0]}-{counts[0]}")
    return [Phase(kind=kind, counts=n) for kind, n in zip(SHORT[len(counts)], counts)]


def _spelled(reader: Reader) -> list[Phase]:
    phases: list[Phase] = []
    last_breath = PhaseKind.EXHALE
    while True:
        token = reader.take("word", *KINDS, "hold")
        if token is None:
            raise reader.fail("a phase is expected", "write in, out, hold, hold-full or hold-empty")
        word = token.value.lower()
        if word == "hold":
            full = last_breath is PhaseKind.INHALE
            kind = PhaseKind.HOLD_FULL if full else PhaseKind.HOLD_EMPTY
        else:
            kind = KINDS[word]
        if not kind.is_hold:
            last_breath = kind
        phases.append(_phase(reader, kind, token.begin))
        if not reader.take("mark", ","):
            return phases


def _phase(reader: Reader, kind: PhaseKind, column: int) -> Phase:
    said: dict[str, object] = {"kind": kind}
    side = reader.take("word", *_SIDES)
    if side is not None:
        said["side"] = _SIDES[side.value.lower()]
    columns = {"": column, "length": reader.column()}
    _length(reader, said)
    while _attribute(reader, said, columns):
        pass
    try:
        return Phase.model_validate(said)
    except ValidationError as error:
        index, problem, remedy = _of_model(error)
        raise reader.fail(problem, remedy, columns.get(index, column)) from None


def _of_model(error: ValidationError) -> tuple[str, str, str]:
    """Where in the phase, problem and remedy of a model's own error."""
    first = error.errors(include_url=False)[0]
    words = str(first.get("ctx", {}).get("error") or first["msg"])
    problem, _, remedy = words.partition("; ")
    if first["loc"]:
        index = str(first["loc"][0])
        if "error" not in first.get("ctx", {}):
            return index, "these words cannot be said here", "write 1 to 80 plain characters"
        return index, problem, remedy or "change it"
    for word, index in (
        ("call", "calls"),
        ("sounded", "sound"),
        ("fill", "fill"),
        ("seconds", "length"),
        ("counted through", "through"),
    ):
        if word in problem:
            return index, problem, remedy
    return "", problem, remedy


def _length(reader: Reader, said: dict[str, object]) -> None:
    number = reader.peek("number")
    if number is not None and _IN_SECONDS.match(reader.text, number.end):
        said["seconds"] = reader.exact("a hold of seconds", Fraction(1), LONGEST_HOLD, "hold 30s")
        if reader.take("word", "s", "sec", "seconds") is None:
            raise reader.fail("this is not understood", "write seconds as 30s")
        return
    counts = [reader.whole("counts", 0, MAX_COUNTS)]
    joint = reader.peek("mark", "+", "~")
    while joint is not None and reader.take("mark", joint.value):
        counts.append(reader.whole("counts", 1, MAX_COUNTS))
    if reader.peek("mark", "+", "~"):
        raise reader.fail("two kinds of parts", "join them all with + (pauses) or all with ~ (one smooth breath)")
    total = sum(counts)
    if reader.take("mark", "=") and reader.whole("the sum", 0, MAX_COUNTS) != total:
        parts = "+".join(map(str, counts))
        raise reader.fail(f"parts {parts} make {total}", f"write ={total}, or change a part", reader.last)
    if total > MAX_COUNTS:
        raise reader.fail(f"parts that make {total} counts", f"keep a phase within {MAX_COUNTS}", reader.last)
    said["counts"] = total
    if reader.take("word", "through"):  # the canonical place is behind the names
        said["through"] = True
    at = reader.column()
    words = reader.places()
    if words and len(words) != len(counts):
        named = f"{pluralize(len(words), 'place')} for {pluralize(len(counts), 'part')}"
        raise reader.fail(named, "name every part once, as in 2+2+2 (belly, ribs, chest)", at)
    if len(counts) > 1:
        words = words or [""] * len(counts)
        try:
            said["parts"] = [_part(n, word) for n, word in zip(counts, words)]
        except ValueError:
            raise reader.fail("these places cannot be said", "write at most 40 plain characters each", at) from None
        said["smooth"] = joint is not None and joint.value == "~"


def _part(counts: int, words: str) -> Part:
    """A part from `belly`, `belly: arms out` or `belly: always arms out`."""
    word, colon, movement = (each.strip() for each in words.partition(":"))
    if colon and not movement:
        raise ValueError("nothing follows the colon")
    bare = movement.removeprefix("always ").strip()
    return Part(counts=counts, word=word, movement=Movement(words=bare, always=bare != movement) if colon else None)


def _write_part(part: Part) -> str:
    if part.movement is None:
        return part.word
    return f"{part.word}: {'always ' if part.movement.always else ''}{part.movement.words}".strip()


def _attribute(reader: Reader, said: dict[str, object], columns: dict[str, int]) -> bool:
    """Read one thing said of a phase after its length; False where none follows."""
    column = reader.column()

    def put(name: str, value: object) -> bool:
        if name in said:
            raise reader.fail("this is written twice", "keep one", column)
        said[name], columns[name] = value, column
        return True

    for name, values in (("counting", Counting), ("route", Route), ("sound", SoundKind)):
        token = reader.take("word", *(value.value for value in values))
        if token is not None:
            return put(name, token.value.lower())
    if reader.peek("quote"):
        return put("cue", reader.quote("words"))
    if reader.take("word", "to"):
        return put("fill", reader.exact("fill", Fraction(1, 4), _FULLEST, "to 2/3"))
    if reader.take("word", "long"):
        return put("long_cue", reader.quote("the words of the first round"))
    if reader.take("word", "move"):
        always = reader.take("word", "always") is not None
        words = reader.quote("the words of the movement")
        return put("movement", {"words": words, "always": always})
    if reader.take("word", "ahead"):
        return put("cue_room", reader.whole("cue room", 0, 12))
    if reader.take("word", "through"):
        return put("through", True)
    if reader.take("word", "calls"):
        return put("calls", _calls(reader))
    return False


def _calls(reader: Reader) -> list[dict[str, object]]:
    calls: list[dict[str, object]] = []
    while True:
        if reader.take("word", "half"):
            call: dict[str, object] = {"at": "half"}
        elif reader.take("word", "release"):
            call = {"at": "release"}
        elif reader.take("mark", "+"):
            call = {"at": "in", "units": reader.whole("a call", 1, 300)}
        elif reader.peek("number"):
            call = {"at": "left", "units": reader.whole("a call", 1, 300)}
        elif calls:
            return calls
        else:
            raise reader.fail("a call is expected", "write half, release, 10 (ten left) or +20 (after twenty)")
        if reader.peek("quote"):
            call["text"] = reader.quote("words")
        calls.append(call)


def format_pattern(phases: Iterable[Phase]) -> str:
    """Write a round in breath notation, the one way Nafas always writes it."""
    phases = tuple(phases)
    if all(p.is_plain for p in phases) and tuple(p.kind for p in phases) == SHORT.get(len(phases)):
        return "-".join(str(phase.counts) for phase in phases)
    written, seen = [], PhaseKind.EXHALE
    for phase in phases:
        written.append(_spell(phase, seen))
        if not phase.kind.is_hold:
            seen = phase.kind
    return ", ".join(written)


def _spell(phase: Phase, before: PhaseKind) -> str:
    usual = PhaseKind.HOLD_FULL if before is PhaseKind.INHALE else PhaseKind.HOLD_EMPTY
    words = ["hold" if phase.kind is usual else phase.kind.value]
    if phase.side is not None:
        words.append(phase.side.value)
    words.append(write_length(phase))
    words += ["through"] * phase.through
    words += [value.value for value in (phase.counting, phase.route, phase.sound) if value is not None]
    if phase.fill is not None:
        words.append(f"to {phase.fill}")
    if phase.cue is not None:
        words.append(f'"{phase.cue}"')
    if phase.long_cue is not None:
        words.append(f'long "{phase.long_cue}"')
    if phase.cue_room is not None:
        words.append(f"ahead {phase.cue_room}")
    if phase.movement is not None:
        words.append(f'move {"always " if phase.movement.always else ""}"{phase.movement.words}"')
    if phase.calls:
        words += ["calls", write_calls(phase.calls)]
    return " ".join(words)


def write_length(phase: Phase) -> str:
    """How long a phase is, as written: `4`, `2+2+2 (belly, ribs, chest)`, `30s`."""
    if phase.seconds is not None:
        return f"{decimal_text(phase.seconds)}s"
    if not phase.parts:
        return str(phase.counts)
    text = ("~" if phase.smooth else "+").join(str(part.counts) for part in phase.parts)
    if any(part.word or part.movement for part in phase.parts):
        text += f" ({', '.join(map(_write_part, phase.parts))})"
    return text


def write_calls(calls: Iterable[Call]) -> str:
    """Calls in a hold as written: `half 10 5 release`."""
    return " ".join(map(_spell_call, calls))


def _spell_call(call: Call) -> str:
    return call.written if call.text is None else f'{call.written} "{call.text}"'
