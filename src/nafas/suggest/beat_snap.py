"""Let every set begin on a beat of the bed: what comes before it pauses for less than a beat longer.

Talk lasts as long as it takes to say, so that sets after it begin between the beats, however well count and beat agree.
"""

import math
from dataclasses import dataclass
from fractions import Fraction

from nafas.script.edits.session_edits import block_name, with_blocks
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes, Talk
from nafas.script.model.session import Session
from nafas.sound.beat.beat_grid import TOGETHER, PlayingBeatGrid
from nafas.timing.timeline import Timeline

_FINEST = 1000  # pauses are written in whole thousandths of a second


@dataclass(frozen=True)
class OnBeats:
    """The session in which sets begin on beats, by how much it is longer, and the sets that could not be moved."""

    session: Session
    longer: Fraction
    left: tuple[str, ...]


def begin_on_beats(timeline: Timeline, beat: PlayingBeatGrid, begin: float = 0.0, end: float = math.inf) -> OnBeats:
    """Lengthen pauses so that the first count of every set falls on a beat.

    Args:
        timeline: of the session, with exact lengths of its talk.
        beat: of the bed as it plays; the first count from `begin` on stands on one.
        begin, end: seconds of the session between which the bed sounds.

    Returns:
        The new session. Each pause is off by at most half a thousandth of a second; that does not add up. A set that
        follows another at once cannot wait and is left, and named, unless it is within 30 ms of a beat.
    """
    blocks: list[Block] = [timed.block for timed in timeline.blocks]
    firsts: dict[str, float] = {}
    for moment in timeline.counted:
        firsts.setdefault(moment.block, float(moment.at))
    anchor = next((at for at in sorted(firsts.values()) if at >= begin - 1e-6), None)
    longer, left = Fraction(0), []
    for index, timed in enumerate(timeline.blocks):
        first = firsts.get(timed.block.id)
        if first is None or anchor is None or not begin - 1e-6 <= first < end or not isinstance(timed.block, BreathSet):
            continue
        off = (first + float(longer) - anchor) % beat.seconds
        wait = 0.0 if min(off, beat.seconds - off) < 1 / _FINEST else beat.seconds - off
        if not wait:
            continue
        exact = Fraction(round(wait * _FINEST), _FINEST)
        slower = _waiting(blocks[index - 1], exact) if index else None
        if slower is None:
            if min(off, beat.seconds - off) > TOGETHER:
                left.append(block_name(timed.block))
            continue
        blocks[index - 1] = slower
        longer += exact
    return OnBeats(with_blocks(timeline.session, blocks), longer, tuple(left))


def _waiting(block: Block, seconds: Fraction) -> Block | None:
    """A block that pauses longer at its end; None for one that has no pause there."""
    if isinstance(block, Talk):
        if block.slot is not None:
            return _with(block, slot=block.slot + seconds)
        return _with(block, pause_after=block.pause_after + seconds)
    if isinstance(block, Rest):
        return _with(block, seconds=block.seconds + seconds)
    if isinstance(block, Strokes):
        return _with(block, recovery=block.recovery + seconds)
    return None


def _with(block: Block, **fields: Fraction) -> Block | None:
    """The block with these fields; None where that is past their bounds."""
    try:
        return type(block).model_validate({**dict(block), **fields})
    except ValueError:
        return None
