"""What stands in the script and is probably not meant: said next to the block, never forbidden."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from nafas.script.expansion import expand
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes
from nafas.script.model.phase import Side
from nafas.script.model.session import Session

LANDING = 30
"""Seconds of natural breath after vigorous work, at least (common practice, no source)."""

_About = Literal["begins", "ends", "landing"]
_Said = tuple[_About, str]
_NAMES = {Side.LEFT: "left", Side.RIGHT: "right", Side.BOTH: "both sides"}


@dataclass(frozen=True)
class Flag:
    """Something to look at.

    Attributes:
        block: its place in the session.
        about: "begins" or "ends" of a side, or "landing" after vigorous work.
        text: what is so, and what to do.
    """

    block: int
    about: _About
    text: str


def flags(session: Session) -> tuple[Flag, ...]:
    """Everything to look at, in the order of the script."""
    advice: list[Flag] = []
    for index, block in enumerate(session.blocks):
        texts = _sides(session, block) if isinstance(block, BreathSet) else _landing(block, session.blocks[index + 1 :])
        advice += [Flag(index, about, text) for about, text in texts]
    return tuple(advice)


def _sides(session: Session, block: BreathSet) -> list[_Said]:
    rounds = expand(block, session.count_length_of(block))
    named = [phase.side for one in rounds for phase in one.phases if phase.side is not None]
    if not {Side.LEFT, Side.RIGHT} <= set(named):
        return []
    advice: list[_Said] = []
    ends: tuple[tuple[_About, Side], ...] = (("begins", named[0]), ("ends", named[-1]))
    for word, side in ends:
        if side is not block.starts_on:
            where, chosen = _NAMES[side], _NAMES[block.starts_on]
            remedy = f"choose the side it starts on ({where}), or write the sides the other way round"
            if word == "ends":
                remedy = f"add or take a step so that its last breath is {chosen}"
            advice.append((word, f"{word} on the {where}, not on the {chosen}: {remedy}"))
    return advice


def _landing(block: Block, following: Sequence[Block]) -> list[_Said]:
    """What comes after strokes: natural breath, or first the hold that belongs to them."""
    if not isinstance(block, Strokes):
        return []
    after = next((each for each in following if not _holds(each)), None)
    rest = block.recovery + (after.seconds if isinstance(after, Rest) else 0)
    if rest >= LANDING:
        return []
    return [("landing", f"only {float(rest):g} s of natural breath after it: give it {LANDING} s or more to settle")]


def _holds(block: Block) -> bool:
    """Whether a set is a retention: a round with a hold in seconds."""
    return isinstance(block, BreathSet) and any(phase.seconds is not None for phase in block.pattern.phases)
