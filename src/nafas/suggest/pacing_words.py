"""What a pacing and a voice fade will do, in a sentence; and the usual ones to begin with."""

from fractions import Fraction

from nafas.plain_text import pluralize
from nafas.script.expansion import expand
from nafas.script.model.blocks import BreathSet
from nafas.script.model.exact import decimal_text
from nafas.script.model.guidance import FadeStep, Level
from nafas.script.model.pacing import Glide, Ladder, Pacing, StepUp, Table
from nafas.script.model.phase import Phase
from nafas.script.notation.phases import format_pattern
from nafas.script.notation.set import parse_pacing

LEVEL_WORDS = {Level.FULL: "counted", Level.CUES: "cue words", Level.CHIMES: "chimes only", Level.SILENT: "silent"}


def usual_pacing(kind: type | None, block: BreathSet, count_length: Fraction) -> Pacing | None:
    """A pacing of a kind to begin with: two counts more, the usual ratios, a quarter slower, or the set by hand."""
    most = max((phase.counts for phase in block.pattern.phases), default=4)
    if kind is StepUp:
        return StepUp(limit=min(60, most + 2))
    if kind is Ladder:
        return Ladder(ratios=(Fraction(1), Fraction(3, 2), Fraction(2)))
    if kind is Glide:
        return Glide(to=min(Fraction(6), count_length * Fraction(5, 4)))
    if kind is Table:
        return parse_pacing(f"{format_pattern(block.pattern.phases)} x{min(block.rounds, 4)}")
    return None


def steps_words(block: BreathSet, count_length: Fraction) -> str:
    """Step by step: "3 steps of 2 rounds: 4-4, 5-5, 6-6; 6 rounds, 1:00 to 1:00"; "" where nothing changes."""
    rounds = expand(block, count_length)
    if block.pacing is None:
        return ""
    if isinstance(block.pacing, Glide):
        first, last = (decimal_text(Fraction(round(each.count_length * 100), 100)) for each in (rounds[0], rounds[-1]))
        return f"A count goes from {first} s to {last} s over {len(rounds)} rounds."
    steps: dict[int, list[str]] = {}
    for one in rounds:
        steps.setdefault(one.step, [_counts(one.phases)]).append("")
    shown = [each[0] for each in steps.values()]
    text = shown if len(shown) <= 6 else [*shown[:3], "…", shown[-1]]
    sizes = {len(each) - 1 for each in steps.values()}
    each = f" of {pluralize(sizes.pop(), 'round')}" if len(sizes) == 1 else ""
    return f"{len(steps)} steps{each}: {', '.join(text)}. {pluralize(len(rounds), 'round').capitalize()} in all."


def _counts(phases: tuple[Phase, ...]) -> str:
    """ "4-4-6", "4-20s-6": lengths alone."""
    return "-".join(f"{decimal_text(each.size)}{'s' if each.seconds is not None else ''}" for each in phases)


def fade_words(block: BreathSet, count_length: Fraction) -> str:
    """From round to round: "Rounds 1 to 3 counted, 4 and 5 cue words, 6 to 9 silent."; "" without a fade."""
    if not block.fade:
        return ""
    rounds = expand(block, count_length)
    text, first = [], rounds[0]
    for one, after in zip(rounds, [*rounds[1:], None]):
        if after is not None and after.level is first.level:
            continue
        span = f"{first.number} to {one.number}" if first is not one else f"{one.number}"
        seconds = ""
        if not first.level.speaks:
            alone = sum((each.seconds for each in rounds[first.number - 1 : one.number]), Fraction(0))
            seconds = f" ({decimal_text(Fraction(round(alone * 10), 10))} s)"
        text.append(f"{span} {LEVEL_WORDS[first.level]}{seconds}")
        if after is not None:
            first = after
    return f"Rounds {', '.join(text)}."


def usual_fade(fade: tuple[FadeStep, ...]) -> tuple[FadeStep, ...]:
    """A fade with one step more: counted at first, then cue words, then chimes, then silence."""
    order = [Level.FULL, Level.CUES, Level.CHIMES, Level.SILENT]
    if not fade:
        return (FadeStep(level=Level.FULL, rounds=3), FadeStep(level=Level.CUES, rounds=2))
    last = fade[-1]
    open_ended = last.rounds is None and last.seconds is None
    ended = (*fade[:-1], FadeStep(level=last.level, rounds=2)) if open_ended else fade
    return (*ended, FadeStep(level=order[min(order.index(last.level) + 1, 3)], rounds=2))
