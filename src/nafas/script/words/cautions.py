"""The usual cautions, by the kind of work that asks for them (common practice, no source).

Nafas shows them and defers to licensed practice. The words are ready to be spoken.
"""

from fractions import Fraction

from nafas.languages import printed_cautions
from nafas.script.expansion import expand
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes, Talk
from nafas.script.model.phase import Phase

CAUTIONS: dict[str, str] = {
    "every": (
        "If you feel light-headed, tingling, short of breath or uneasy, stop, and breathe naturally. Never force it. "
        "Do not practise while driving, in or near water, or at a machine. This does not replace medical care. "
        "If you are pregnant, or live with a heart, lung, eye-pressure, seizure or mental-health condition, ask a "
        "clinician first."
    ),
    "rapid": (
        "Leave out the rapid breathing if you are pregnant, or live with high blood pressure, heart disease, epilepsy "
        "or a hernia, or after recent abdominal surgery. Do it on an empty stomach. A slow breath in and a longer one "
        "out is always a good choice instead."
    ),
    "holds": (
        "Leave out the holds if you are pregnant, or live with high blood pressure or heart or lung disease. Never "
        "strain to hold, and let go whenever you want to."
    ),
    "steps": "As the counts grow, stay with the easier one, or go back to it, whenever that is better for you.",
    "sleep": "Practise this lying down where you can safely fall asleep.",
}
"""Each key with its words. "every" belongs in every session."""

HOLD = 4
"""Counts from which a hold asks for the caution about holds here."""


def cautions_for(block: Block) -> tuple[str, ...]:
    """The keys of `CAUTIONS` that a block asks for, beyond "every"."""
    if isinstance(block, Talk | Rest):
        return ()
    if isinstance(block, Strokes):
        return ("rapid",)
    assert isinstance(block, BreathSet)
    rounds = expand(block, block.count_length or Fraction(1))  # only which holds there are matters
    phases = [phase for one in rounds for phase in one.phases]
    keys = ["holds"] if any(map(_is_long_hold, phases)) else []
    if max(one.counts for one in rounds) > rounds[0].counts:
        keys.append("steps")
    return tuple(keys)


def _is_long_hold(phase: Phase) -> bool:
    return phase.kind.is_hold and (phase.seconds is not None or phase.counts >= HOLD)


def caution_words(keys: tuple[str, ...], language: str = "en") -> tuple[str, ...]:
    """Paragraphs to speak or to print, one a key, in the order of `CAUTIONS`; in English what a language has not."""
    own = printed_cautions(language)
    return tuple(own.get(key, words) for key, words in CAUTIONS.items() if key in keys)
