"""What stands in the script and is probably not meant: said beside the block, never forbidden."""

from dataclasses import dataclass

from nafas.script.expansion import expand
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes
from nafas.script.model.phase import Side
from nafas.script.model.session import Session

LANDING = 30
"""Seconds of natural breath after vigorous work, at least (common practice, no source)."""

_NAMES = {Side.LEFT: "left", Side.RIGHT: "right", Side.BOTH: "both sides"}


@dataclass(frozen=True)
class Flag:
    """Something to look at. `block` is its place in the session."""

    block: int
    text: str


def flags(session: Session) -> tuple[Flag, ...]:
    """Everything to look at, in the order of the script."""
    found: list[Flag] = []
    for place, block in enumerate(session.blocks):
        after = session.blocks[place + 1] if place + 1 < len(session.blocks) else None
        texts = _sides(session, block) if isinstance(block, BreathSet) else _landing(block, after)
        found += [Flag(place, text) for text in texts]
    return tuple(found)


def _sides(session: Session, block: BreathSet) -> list[str]:
    rounds = expand(block, session.count_length_of(block))
    named = [phase.side for one in rounds for phase in one.phases if phase.side is not None]
    if not {Side.LEFT, Side.RIGHT} <= set(named):
        return []
    found = []
    for word, side in (("begins", named[0]), ("ends", named[-1])):
        if side is not block.starts_on:
            where, chosen = _NAMES[side], _NAMES[block.starts_on]
            remedy = f"choose the side it starts on ({where}), or write the sides the other way round"
            if word == "ends":
                remedy = f"add or take a step so that its last breath is {chosen}"
            found.append(f"{word} on the {where}, not on the {chosen}: {remedy}")
    return found


def _landing(block: Block, after: Block | None) -> list[str]:
    if not isinstance(block, Strokes):
        return []
    rest = block.recovery + (after.seconds if isinstance(after, Rest) else 0)
    if rest >= LANDING:
        return []
    return [f"only {float(rest):g} s of natural breath after it: give it {LANDING} s or more to settle"]
