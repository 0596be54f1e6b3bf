"""The voice's level from block to block, as the session plans it."""

from collections.abc import Callable

from nafas.timing.timeline import Timeline
from nafas.voice.placement import Placement


def voice_gains(timeline: Timeline, rate: int) -> Callable[[Placement], float]:
    """What says how much louder something spoken goes into the mix than it was read, linear."""
    planned = {
        timed.block.id: (timed.block.voice, float(timed.start), float(timed.length))
        for timed in timeline.blocks
        if timed.block.voice is not None
    }

    def gain(placement: Placement) -> float:
        level, start, length = planned.get(placement.moment.block, (None, 0.0, 0.0))
        if level is None:
            return 1.0
        way = (placement.target / rate - start) / length if length > 0 else 0.0
        return float(10 ** (level.at(way) / 20))

    return gain
