"""What parts, calls, a preparing breath and the ease between steps will do, in a sentence; and the usual ones to begin
with."""

from fractions import Fraction

from nafas.plain_text import pluralize
from nafas.script.expansion import expand
from nafas.script.model.blocks import BreathSet
from nafas.script.model.exact import decimal_text
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Call, Part, Phase, PhaseKind
from nafas.script.words.lexicon import Lexicon
from nafas.timing.clock import clock


def usual_parts(counts: int) -> tuple[Part, ...]:
    """Counts in three parts where they divide so, else in two; () for a single count."""
    if counts < 2:
        return ()
    pieces = 3 if counts % 3 == 0 else 2
    sizes = [counts * (n + 1) // pieces - counts * n // pieces for n in range(pieces)]
    return tuple(Part(counts=size) for size in sizes)


def parts_words(phase: Phase) -> str:
    """ "3 parts: belly 2, ribs 2, chest 2. A slight pause between, each counted from one."; "" for a whole phase."""
    if not phase.parts:
        return ""
    text = ", ".join(f"{part.word or 'unnamed'} {part.counts}" for part in phase.parts)
    how = "A slight pause between, each counted from one."
    if phase.smooth:
        how = "One smooth breath, the places named within it."
    elif phase.through:
        how = f"A slight pause between, counted through from one to {phase.counts}."
    return f"{len(phase.parts)} parts: {text}. {how}"


def usual_call(phase: Phase) -> Call | None:
    """The next usual call of a hold: half-way, five before the end, its release; None where all are there."""
    taken = {(call.at, call.units) for call in phase.calls}
    usual = [Call(at="half"), *([Call(at="left", units=5)] if phase.size > 5 else []), Call(at="release")]
    return next((call for call in usual if (call.at, call.units) not in taken), None)


def call_place(phase: Phase, call: Call) -> Fraction:
    """Where in a hold a call stands, in counts or seconds as the hold is written."""
    if call.at == "release":
        return phase.size
    if call.at == "half":
        return Fraction(int(phase.size / 2))
    return Fraction(call.units) if call.at == "in" else phase.size - call.units


def calls_words(phase: Phase, lexicon: Lexicon) -> str:
    """ "“halfway” after 15 s, “five more seconds” after 25 s, “and release” at its end."; "" without calls."""
    unit = " s" if phase.seconds is not None else " counts"
    text = []
    for call in sorted(phase.calls, key=lambda call: call_place(phase, call)):
        where = "at its end" if call.at == "release" else f"after {decimal_text(call_place(phase, call))}{unit}"
        text.append(f"“{call_text(phase, call, lexicon)}” {where}")
    return ", ".join(text) + "." if text else ""


def call_text(phase: Phase, call: Call, lexicon: Lexicon) -> str:
    """The words of a call: its own, or the language's."""
    if call.text is not None:
        return call.text
    if call.at == "left":
        return lexicon.left(call.units, phase.seconds is not None, phase.counting is not None or phase.seconds is None)
    if call.at == "in":
        return lexicon.count(call.units)
    return lexicon.find("half" if call.at == "half" else "release") or "…"


def prepare_words(pattern: Pattern | None, count_length: Fraction, lexicon: Lexicon) -> str:
    """What a preparing breath is, its length and its words; "" for none."""
    if pattern is None:
        return ""
    keys = {PhaseKind.INHALE: "normal_in", PhaseKind.EXHALE: "normal_out"}
    said = [phase.cue or lexicon.find(keys.get(phase.kind, "")) or "" for phase in pattern.phases if phase.size]
    quoted = ", ".join(f"“{words}”" for words in said if words)
    seconds = decimal_text(Fraction(round(pattern.length(count_length) * 100), 100))
    return f"{seconds} s before round one, named as it goes and not counted: {quoted}."


def steps_between(block: BreathSet, count_length: Fraction) -> int:
    """How many times there is ease between steps."""
    return sum(one.opens_step and one.number > 1 for one in expand(block, count_length))


def ease_words(block: BreathSet, count_length: Fraction) -> str:
    """ "20 s of natural breath, 4 times: 1:20 in all."; what is missing where there is none."""
    times = steps_between(block, count_length)
    if not times:
        return "There is one step only: nothing comes between." if block.ease else ""
    if not block.ease:
        return "One step follows the other without a rest."
    often = pluralize(times, "time")
    return f"{decimal_text(block.ease)} s of natural breath, {often}: {clock(block.ease * times)} in all."
