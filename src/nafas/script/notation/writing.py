"""Breath notation of a whole set, written: the one way Nafas always writes it."""

from fractions import Fraction

from nafas.script.model.blocks import CountStyle
from nafas.script.model.exact import decimal_text
from nafas.script.model.guidance import FadeStep
from nafas.script.model.pacing import Glide, Ladder, Pacing, StepUp, Table
from nafas.script.model.pattern import Pattern
from nafas.script.model.round_calls import RoundCalls
from nafas.script.notation.announce import write_calls
from nafas.script.notation.phases import format_pattern
from nafas.script.notation.style import write_style


def format_count(count_length: Fraction | None, count_from: str | None) -> str:
    """`1.2s`, `as long-exhale`, or "" for the session's."""
    if count_from is not None:
        return f"as {count_from}"
    return "" if count_length is None else f"{decimal_text(count_length)}s"


def format_fade(fade: tuple[FadeStep, ...]) -> str:
    """`full 3 cues 2 silent about 60s`."""
    words = []
    for step in fade:
        words.append(step.level.value)
        if step.seconds is not None:
            words.append(f"{step.rule} {decimal_text(step.seconds)}s")
        elif step.rounds is not None:
            words.append(str(step.rounds))
    return " ".join(words)


def format_pacing(pacing: Pacing | None) -> str:
    """`step 1 to 8`, `ladder 1 3/2 2`, `glide to 1.2s`, `6-8 x2; 4-6 x3`; "" for none."""
    if isinstance(pacing, StepUp):
        on = f" on {' '.join(kind.value for kind in pacing.on)}" if pacing.on else ""
        return f"step {pacing.by}{on} to {pacing.limit}"
    if isinstance(pacing, Ladder):
        rounding = "" if pacing.rounding == "up" else f" round {pacing.rounding}"
        return f"ladder {' '.join(map(str, pacing.ratios))}{rounding}"
    if isinstance(pacing, Glide):
        return f"glide to {decimal_text(pacing.to)}s"
    if isinstance(pacing, Table):
        return "; ".join(format_set(step.pattern, step.rounds, step.count_length) for step in pacing.steps_after)
    return ""


def format_set(
    pattern: Pattern,
    rounds: int,
    count_length: Fraction | None,
    count_from: str | None = None,
    pacing: Pacing | None = None,
    drop_hold: str | None = None,
    fade: tuple[FadeStep, ...] = (),
    ease: Fraction | None = None,
    style: CountStyle | None = None,
    calls: RoundCalls | None = None,
) -> str:
    """Write a whole set: `4-4-4-4 x6 @ 1.2s`; the count length only where the set has its own.

    `parse_set` reads it back as it was.
    """
    text = f"{format_pattern(pattern.phases)} x{rounds}"
    if count_length is not None:
        text += f" @ {decimal_text(count_length)}s"
    elif count_from is not None:
        text += f" @ as {count_from}"
    if pacing is not None:
        text += f"{'; ' if isinstance(pacing, Table) else ' '}{format_pacing(pacing)}"
    if drop_hold not in (None, "keep"):
        text += f" drop {drop_hold}"
    if fade:
        text += f" fade {format_fade(fade)}"
    if ease:
        text += f" ease {decimal_text(ease)}s"
    said = "" if style is None else write_style(style)
    text += f" say {said}" if said else ""
    called = "" if calls is None else write_calls(calls)
    return f"{text} announce {called}" if called else text
