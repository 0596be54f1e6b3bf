"""Words that change a block that is there: "a little slower", "two more rounds", "out 8 instead of 6"."""

from fractions import Fraction
from itertools import pairwise

from nafas.script.expansion import set_seconds
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes
from nafas.script.model.pacing import LONGEST_COUNT, MAX_ROUNDS, SHORTEST_COUNT
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Phase, PhaseKind, Side
from nafas.script.notation.block import read_block
from nafas.script.notation.tokens import LONGEST, NotationError
from nafas.script.notation.typed.clauses import rounds_for, take_clauses
from nafas.script.notation.typed.lexer import plain, tokens_of
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.vocabulary import Kind, Typed

_PACE = Fraction(11, 10)
"""How much longer a count becomes by "slower", where no number is said (our own)."""
_SWAPPED = {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}
_SAYS_NOTHING = (Kind.FILLER, Kind.FOR, Kind.AT, Kind.TO, Kind.COUNTS, Kind.THEN)


def changed(block: Block, text: str, count_length: Fraction = Fraction(1)) -> Block | None:
    """A block as a line asks to change it; None where the line says nothing of the kind.

    Args:
        block: a breath set, strokes or natural breath; talk is never changed so.
        text: a line in words of any of seven languages.
        count_length: seconds a count where the set has none of its own.

    Raises:
        ValueError: what the line asks for is out of bounds.
    """
    if len(text) > LONGEST:
        return None
    words = [t for t in tokens_of(plain(text)) if t.kind not in _SAYS_NOTHING and not t.is_mark(",", ".", ":", "=")]
    if not words or any(token.kind is Kind.UNKNOWN for token in words):
        return None
    if isinstance(block, BreathSet):
        return _changed_set(block, text, words, count_length)
    seconds = _length(text)
    way = next((token.value for token in words if token.kind is Kind.GROWTH), "")
    if isinstance(block, Rest) and seconds is not None:
        return block.replace(seconds=_moved(block.seconds, seconds, way))
    if isinstance(block, Strokes) and way in ("slower", "faster"):
        return block.replace(per_minute=block.per_minute * (1 / _PACE if way == "slower" else _PACE))
    if isinstance(block, Strokes) and len(words) <= 2 and words[0].kind is Kind.NUMBER:
        return block.replace(strokes=int(_moved(Fraction(block.strokes), words[0].number, way)))
    return None


def _moved(now: Fraction, by: Fraction, way: str) -> Fraction:
    return now + by if way == "more" else now - by if way == "less" else by


def _changed_set(block: BreathSet, text: str, words: list[Typed], count_length: Fraction) -> Block | None:
    kinds = [token.kind for token in words]
    way = next((token.value for token in words if token.kind is Kind.GROWTH), "")
    change = next((token.value for token in words if token.kind is Kind.CHANGE), "")
    number = next((token.number for token in words if token.kind is Kind.NUMBER), None)
    own = block.count_length or count_length
    if (change == "swap" and Kind.SIDE in kinds) or (change == "swap" and len(words) == 1):
        return block.replace(pattern=_swapped(block.pattern))
    if Kind.PHASE in kinds:
        return _with_phases(block, words, way, change)
    if way in ("slower", "faster") and number is None:
        length = own * (_PACE if way == "slower" else 1 / _PACE)
        length = min(LONGEST_COUNT, max(SHORTEST_COUNT, Fraction(round(length * 100), 100)))
        return block.replace(count_length=length, count_from=None)
    if way in ("more", "less") and Kind.ROUNDS in kinds:
        return block.replace(rounds=int(_moved(Fraction(block.rounds), number or Fraction(1), way)))
    if way in ("more", "less") and (seconds := _length(text)) is not None:
        each = set_seconds(block.replace(rounds=1, pacing=None, fade=()), own)
        return block.replace(rounds=max(1, int(_moved(Fraction(block.rounds), Fraction(round(seconds / each)), way))))
    return _with_clauses(block, text, own)


def _length(text: str) -> Fraction | None:
    """A length that a line says, in seconds."""
    line = Line(plain(text), [t for t in tokens_of(plain(text)) if t.kind is not Kind.GROWTH])
    tokens = [token for token in line.tokens if token.kind is not Kind.FILLER]
    for token, after in pairwise(tokens):
        if token.kind is Kind.NUMBER and after.kind in (Kind.SECONDS, Kind.MINUTES):
            return token.number * (60 if after.kind is Kind.MINUTES else 1)
    try:
        return take_clauses(line).lasts
    except NotationError:
        return None


def _with_clauses(block: BreathSet, text: str, own: Fraction) -> Block | None:
    """Rounds, a length, a count length or calls alone: "x12", "for five minutes", "at 1.2 s", "announce the rounds"."""
    line = Line(plain(text), tokens_of(plain(text)))
    try:
        clauses = take_clauses(line)
    except NotationError:
        return None
    if any(token.kind not in _SAYS_NOTHING for token in line.tokens) or clauses.fade:
        return None
    fields = _called(block, clauses.verbatim)
    if clauses.count_length is not None:
        fields |= {"count_length": clauses.count_length, "count_from": None}
    if clauses.rounds is not None:
        fields["rounds"] = clauses.rounds
    if clauses.counting is not None:
        fields["style"] = block.style.replace(counting=clauses.counting)
    if clauses.lasts is not None:
        each = set_seconds(block.replace(rounds=1, pacing=None, fade=()), clauses.count_length or own)
        fields["rounds"] = min(MAX_ROUNDS, rounds_for(clauses.lasts, each)[0])
    return block.replace(**fields) if fields else None


def _called(block: BreathSet, clauses: list[str]) -> dict[str, object]:
    """Calls that are typed for a set, next to those it has; {} for other clauses."""
    if not clauses or not all(clause.startswith(("announce ", "say last")) for clause in clauses):
        return {}
    said = read_block(f"4-4 x2 {' '.join(clauses)}")
    assert isinstance(said, BreathSet)
    calls = {name: getattr(said.calls, name) for name in said.calls.model_fields_set}
    style = block.style.replace(announce_last=block.style.announce_last or said.style.announce_last)
    return {"calls": block.calls.replace(**calls), "style": style}


def _with_phases(block: BreathSet, words: list[Typed], way: str, change: str) -> Block | None:
    """Other counts for phases that are named: "out 8", "in 4 out 6", "hold 2 more"; "no hold" takes them out."""
    phases = list(block.pattern.phases)
    at, done = 0, False
    while at < len(words):
        token = words[at]
        if token.kind is not Kind.PHASE:
            at += 1
            continue
        near = [each.number for each in words[at + 1 : at + 3] if each.kind is Kind.NUMBER]
        near = near or [each.number for each in words[max(0, at - 1) : at] if each.kind is Kind.NUMBER]
        places = [n for n, phase in enumerate(phases) if _is_called(phase, token.value)]
        if change == "without":
            phases = [phase for n, phase in enumerate(phases) if n not in places]
            done = bool(places)
        elif near and near[0].denominator == 1:
            for n in places:
                phases[n] = phases[n].resized(int(_moved(phases[n].size, near[0], way)))
            done = done or bool(places)
        at += 1
    return block.replace(pattern=Pattern(phases=tuple(phases))) if done else None


def _is_called(phase: Phase, word: str) -> bool:
    return phase.kind.is_hold if word == "hold" else phase.kind is PhaseKind(word)


def _swapped(pattern: Pattern) -> Pattern:
    phases = (
        phase if phase.side not in _SWAPPED else phase.replace(side=_SWAPPED[phase.side]) for phase in pattern.phases
    )
    return Pattern(phases=tuple(phases))
