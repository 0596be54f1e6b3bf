"""A line as a producer types it: how it is read, how else it could be, and what to write where it is not understood.

Nothing is read as something else in silence: what is assumed is said with the reading, and a round without an inhale or
an exhale is asked about.
"""

import re
from contextlib import suppress
from dataclasses import dataclass, replace
from fractions import Fraction

from nafas.script.expansion import set_seconds
from nafas.script.model.blocks import LONGEST_RECOVERY, Block, BreathSet, Rest, Strokes
from nafas.script.model.exact import decimal_text
from nafas.script.model.pacing import MAX_ROUNDS, Glide, steps_of
from nafas.script.model.phase import PhaseKind
from nafas.script.notation.block import block_notation, read_block
from nafas.script.notation.tokens import LONGEST, NotationError
from nafas.script.notation.typed.clauses import Clauses, rounds_for, take_clauses
from nafas.script.notation.typed.growth import growth
from nafas.script.notation.typed.leftover import as_far
from nafas.script.notation.typed.lexer import plain, tokens_of
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.offers import offers
from nafas.script.notation.typed.others import read_rest, read_stroke_groups, read_strokes
from nafas.script.notation.typed.phrases import chain_of, read_round
from nafas.script.notation.typed.vocabulary import Kind, Typed

_USUAL = Fraction(1)
_SLOWER, _FASTER = Fraction(5, 4), Fraction(4, 5)
"""What counts become of a set that grows slower, or faster (our own)."""
_USUAL_STEPS = 5
"""Rounds of a set that grows, where their number is not said (our own)."""
_HOLD_AFTER_STROKES = "each hold after two slow breaths and a breath in to two thirds, as in the library"
_LASTING = re.compile(r"\bfor\s+\d")


@dataclass(frozen=True)
class Reading:
    """One way to read a line.

    Attributes:
        blocks: what it becomes, one or several, each with an id of its own.
        notation: the same in breath notation, one line for each block.
        note: what was assumed, in words; "" where nothing was.
        unused: what the line says that is not in the blocks, in quotes; "" where all of it is.
        left_out: from which letter of the line to which that stands.
    """

    blocks: tuple[Block, ...]
    note: str = ""
    unused: str = ""
    left_out: tuple[tuple[int, int], ...] = ()

    @property
    def notation(self) -> str:
        return "\n".join(block_notation(block) for block in self.blocks)


@dataclass(frozen=True)
class Interpretation:
    """How a line is read.

    Attributes:
        readings: the likeliest first; () where it is not understood.
        fault: what is not understood, with its place; None where all of it is.
        offers: lines that could be meant, where not all of it is understood.
        partial: readings of a part of the line, each with what it does not use.
    """

    readings: tuple[Reading, ...]
    fault: NotationError | None = None
    offers: tuple[str, ...] = ()
    partial: tuple[Reading, ...] = ()

    @property
    def ways(self) -> tuple[Reading, ...]:
        """The readings of the whole line, or else of a part of it."""
        return self.readings or self.partial


def interpret(text: str, count_length: Fraction = _USUAL, whole: bool = False) -> Interpretation:
    """Read a typed line.

    Args:
        text: one line, in words of any of seven languages, in breath notation, or both.
        count_length: seconds a count where the line says none, for lengths in minutes.
        whole: look for readings of all of the line only, which is quick: no part of it, and no other lines.
    """
    try:
        if len(text) > LONGEST:
            raise NotationError(
                text, 0, f"{len(text):,} characters are too long for a line of notation", "write a shorter one"
            )
        return Interpretation(_readings(text, count_length))
    except NotationError as fault:
        if whole or len(text) > LONGEST:
            return Interpretation((), fault)
        partial = as_far(plain(text), lambda line: _typed(line, count_length))
        readings = () if partial is None else partial.readings
        if partial is not None:
            left = partial.left_out
            readings = tuple(replace(r, unused=partial.unused, left_out=left) for r in readings)
        return Interpretation((), fault, _checked(offers(text), count_length), readings)


def _readings(text: str, count_length: Fraction) -> tuple[Reading, ...]:
    try:
        block = read_block(text)
        _can_be_breathed(block, text)
        if not _LASTING.search(text):  # a length in time has a neighbour, and takes the session's counts
            return (Reading((block,)),)
        with suppress(NotationError):
            return _typed(plain(text), count_length)
        return (Reading((block,)),)
    except NotationError as strict:
        try:
            return _typed(plain(text), count_length)
        except NotationError as loose:
            # A line that is written in notation is answered by the notation: it knows its own clauses best.
            raise strict if _is_notation(text) else _of(loose, text) from None


def _of(fault: NotationError, text: str) -> NotationError:
    """The same fault of the line as it was typed."""
    return NotationError(text, min(fault.column, len(text)), fault.problem, fault.remedy)


def _is_notation(text: str) -> bool:
    return re.search(r"\b(step|ladder|glide|fade|calls|move|long|drop|ease|say)\b", text) is not None


def _checked(lines: list[str], count_length: Fraction) -> tuple[str, ...]:
    """Offers that can be taken: each is read itself."""
    checked = []
    for line in dict.fromkeys(lines):
        try:
            _readings(line, count_length)
        except NotationError:
            continue
        checked.append(line)
    return tuple(checked[:3])


def _can_be_breathed(block: Block, text: str) -> None:
    """A round that only goes one way is no round: it is asked about. Raises NotationError."""
    if not isinstance(block, BreathSet):
        return
    for step in steps_of(block.pattern, block.rounds, block.pacing, block.count_length or _USUAL):
        kinds = {phase.kind for phase in step.phases if phase.size}
        for kind, word in ((PhaseKind.INHALE, "inhale"), (PhaseKind.EXHALE, "exhale")):
            if kind not in kinds:
                short = "in 4" if kind is PhaseKind.INHALE else "out 4"
                raise NotationError(text, len(text.rstrip()), f"a round without an {word}", f"add it, such as {short}")


def _typed(text: str, count_length: Fraction) -> tuple[Reading, ...]:
    tokens = tokens_of(text)
    if not tokens:
        raise NotationError(text, 0, "nothing is written", "write for example 4-2-8")
    groups = read_stroke_groups(Line(text, tokens))
    if groups is not None:
        return (_with_ids(Reading(tuple(map(read_block, groups)), _HOLD_AFTER_STROKES)),)
    blocks: list[tuple[Reading, ...]] = []
    sets: list[list[Typed]] = []

    def close() -> None:
        if sets:
            blocks.append(_sets(text, list(sets), count_length))
            sets.clear()

    for part in _parts(text, tokens):
        other = read_rest(Line(text, list(part))) or read_strokes(Line(text, list(part)))
        if other is None:
            sets.append(part)
            continue
        close()
        blocks.append((Reading((read_block(other),)),))
    close()
    # Several ways to read one part are several ways to read the line; every other part is read the likeliest way.
    first = Reading(
        tuple(b for ways in blocks for b in ways[0].blocks), "; ".join(w[0].note for w in blocks if w[0].note)
    )
    readings = [first]
    for index, ways in enumerate(blocks):
        for way in ways[1:]:
            chosen = [way if n == index else other[0] for n, other in enumerate(blocks)]
            readings.append(Reading(tuple(b for each in chosen for b in each.blocks), way.note))
    return tuple(_with_ids(_recovering(reading)) for reading in readings)


def _recovering(reading: Reading) -> Reading:
    """Strokes with the rest that is written after them as their recovery."""
    blocks = list(reading.blocks)
    for at in range(len(blocks) - 1, 0, -1):
        strokes, rest = blocks[at - 1], blocks[at]
        if isinstance(strokes, Strokes) and isinstance(rest, Rest) and rest.seconds <= LONGEST_RECOVERY:
            blocks[at - 1 : at + 1] = [strokes.replace(recovery=rest.seconds)]
    return replace(reading, blocks=tuple(blocks))


def _with_ids(reading: Reading) -> Reading:
    if len(reading.blocks) == 1:
        return reading
    named = (block.model_copy(update={"id": f"set-{n}"}) for n, block in enumerate(reading.blocks, 1))
    return replace(reading, blocks=tuple(named))


def _parts(text: str, tokens: list[Typed]) -> list[list[Typed]]:
    """The sets (and rests, and strokes) of a line: between `then`, `;`, or `,` and `+` where both sides are whole."""
    parts: list[list[Typed]] = [[]]
    for index, token in enumerate(tokens):
        before, after = parts[-1], tokens[index + 1 :]
        if not before:
            if token.kind is not Kind.THEN:
                before.append(token)
        elif token.kind is Kind.THEN and _is_whole(text, before) and (not _is_phase(after) or _is_whole(text, after)):
            parts.append([])
        elif token.is_mark("/") and not any(t.is_mark("x") or t.kind in (Kind.ROUNDS, Kind.MINUTES) for t in before):
            before.append(token)
        elif token.is_mark(";", ",", "+", "&", "/") and _is_whole(text, before) and _begins_whole(text, before, after):
            parts.append([])
        else:
            before.append(token)
    return [part for part in parts if part]


def _is_phase(tokens: list[Typed]) -> bool:
    return bool(tokens) and tokens[0].kind is Kind.PHASE


def _is_whole(text: str, tokens: list[Typed]) -> bool:
    """Whether tokens by themselves are a set, a rest or strokes."""
    line = Line(text, list(tokens))
    if read_rest(line) or any(token.kind is Kind.STROKES for token in tokens):
        return True
    kinds = [token.value for token in tokens if token.kind is Kind.PHASE]
    if kinds:
        return "in" in kinds and "out" in kinds
    try:
        clauses = take_clauses(line)
    except NotationError:
        return False
    counted = clauses.lasts or clauses.rounds or any(token.kind is Kind.NUMBER for token in line.tokens)
    return chain_of(line) is not None or (line.kind(0) is Kind.FAMILY and bool(counted))


def _begins_whole(text: str, before: list[Typed], tokens: list[Typed]) -> bool:
    """Whether what comes after a comma begins a set of its own, and is no clause of the one before."""
    if not tokens:
        return False
    first = tokens[0]
    if first.kind is Kind.REST and any(token.kind is Kind.PHASE for token in before):
        # Between phases a pause of so many counts is a hold; one of so many seconds is natural breath.
        return any(token.kind in (Kind.SECONDS, Kind.MINUTES, Kind.TIME) for token in tokens[1:4])
    if first.kind in (Kind.FAMILY, Kind.STROKES, Kind.REST):
        return True
    end = next(
        (n for n, t in enumerate(tokens) if n and (t.is_mark(";", ",", "+") or t.kind is Kind.THEN)), len(tokens)
    )
    return _is_whole(text, tokens[:end])


def _sets(text: str, parts: list[list[Typed]], count_length: Fraction) -> tuple[Reading, ...]:
    """Sets one after another, as the steps of one set; one alone may be read in several ways."""
    if len(parts) == 1:
        return _one_set(text, parts[0], count_length)
    written, notes = [], []
    for part in parts:
        reading = _one_set(text, part, count_length)[0]
        written.append(reading.notation)
        notes += [reading.note] if reading.note else []
    block = read_block("; ".join(written))
    _can_be_breathed(block, text)
    return (Reading((block,), "; ".join(notes)),)


def _one_set(text: str, tokens: list[Typed], count_length: Fraction) -> tuple[Reading, ...]:
    if any(token.kind is Kind.PHASE for token in tokens):  # a pause between breaths is a hold
        tokens = [replace(t, kind=Kind.PHASE, value="hold") if t.kind is Kind.REST else t for t in tokens]
    line = Line(text, list(tokens))
    clauses = take_clauses(line)
    grown = growth(line)
    written = grown or read_round(line, clauses)
    if clauses.count_length is None and count_length != 1 and _in_seconds(line):
        clauses.count_length = Fraction(1)  # what is written in seconds lasts so many, whatever the session's count
    average = Fraction(1)  # of a round's length, of a set that glides
    if clauses.grows is not None:
        if grown is not None or (clauses.grows == "more" and clauses.lasts is not None):
            raise line.fail(None, "it grows in two ways, or to a length", "write its rounds, and one way")
        written = _growing(line, written, clauses, count_length)
        average = {"slower": (1 + _SLOWER) / 2, "faster": (1 + _FASTER) / 2}.get(clauses.grows, average)
    if clauses.a_minute is not None:
        _at_that_rate(line, written, clauses, count_length)
    ending = _ending(clauses)
    if clauses.lasts is None:
        rounds = "" if clauses.rounds is None else f" x{clauses.rounds}"
        return (replace(_read(text, written, rounds, ending), note=clauses.assumed),)
    if clauses.rounds is not None:
        raise line.fail(None, "rounds and a length", "keep one of them")
    one = _read(text, written, " x1", ending).blocks[0]
    assert isinstance(one, BreathSet)
    plain_ = one.replace(pacing=None) if isinstance(one.pacing, Glide) else one
    each = average * set_seconds(plain_, one.count_length or count_length)
    near = rounds_for(clauses.lasts, each)
    if near[0] > MAX_ROUNDS:
        raise line.fail(None, f"{near[0]} rounds", f"keep a set within {MAX_ROUNDS} rounds")
    readings = []
    for number in near:
        over = number * each - clauses.lasts
        exact = f"{number} rounds are {_clock(number * each)}"
        off = f"{exact}, {decimal_text(round(abs(over), 2))} s {'over' if over > 0 else 'under'}" if over else ""
        note = "; ".join(filter(None, (clauses.assumed, off)))
        readings.append(replace(_read(text, written, f" x{number}", ending), note=note))
        if not over:
            break
    return tuple(readings)


def _growing(line: Line, written: str, clauses: Clauses, count_length: Fraction) -> str:
    """The round with how it changes: its counts glide a quarter longer or a fifth shorter, or each round has one more.

    Both ends of a glide are our own; they are reported with the reading.
    """
    if clauses.grows == "more":
        rounds, clauses.rounds = clauses.rounds or _USUAL_STEPS, 1
        one = read_block(f"{written} x1")
        assert isinstance(one, BreathSet)
        longest = max(phase.counts for phase in one.pattern.phases)
        clauses.assumed = "; ".join(filter(None, (clauses.assumed, f"a count more each round, {rounds} rounds")))
        return f"{written} step 1 to {longest + rounds - 1}"
    start = clauses.count_length or count_length
    end = start * (_SLOWER if clauses.grows == "slower" else _FASTER)
    clauses.verbatim.append(f"glide to {decimal_text(end)}s")
    changes = f"{clauses.grows}: counts of {decimal_text(start)} s become {decimal_text(end)} s"
    clauses.assumed = "; ".join(filter(None, (clauses.assumed, changes)))
    return written


def _at_that_rate(line: Line, written: str, clauses: Clauses, count_length: Fraction) -> None:
    """The count length that makes so many rounds a minute."""
    if clauses.count_length is not None:
        raise line.fail(None, "breaths a minute and another count length", "keep one of them")
    one = read_block(f"{written} x1")
    assert isinstance(one, BreathSet) and clauses.a_minute is not None
    counts = set_seconds(one, Fraction(1))
    length = 60 / clauses.a_minute / counts
    if not Fraction(1, 5) <= length <= 6:
        raise line.fail(None, f"counts of {float(length):.2g} s", "write 0.2 to 6 seconds a count")
    clauses.count_length = None if length == count_length else length


def _in_seconds(line: Line) -> bool:
    """Whether every number of a round is written in seconds."""
    numbers = sum(token.kind is Kind.NUMBER for token in line.tokens)
    return numbers > 0 and numbers == sum(token.kind is Kind.SECONDS for token in line.tokens)


def _read(text: str, written: str, rounds: str, ending: str) -> Reading:
    head, step, tail = written.partition(" step ")
    block = read_block(f"{head}{rounds}{step}{tail}{ending}")
    _can_be_breathed(block, text)
    return Reading((block,))


def _ending(clauses: Clauses) -> str:
    parts = []
    if clauses.count_length is not None:
        parts.append(f"@ {decimal_text(clauses.count_length)}s" if "/" not in decimal_text(clauses.count_length) else
                     f"@ {decimal_text(60 / clauses.count_length)}/min")  # fmt: skip
    parts += clauses.verbatim
    if clauses.fade:
        parts.append(f"fade {' '.join(clauses.fade)}")
    return "".join(f" {part}" for part in parts)


def _clock(seconds: Fraction) -> str:
    whole = int(seconds)
    tenths = f".{int(10 * (seconds - whole))}" if seconds != whole else ""
    return f"{whole // 60}:{whole % 60:02}{tenths}"
