"""The blocks along a line of time, as a screen reader reads them."""

from collections.abc import Callable
from functools import partial

from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.script.edits.session_edits import block_name
from nafas.timing import Timeline
from nafas.timing.clock import clock


def block_parts(timeline: Timeline, choose: Callable[[int], None], chosen: int = -1) -> list[SpokenPart]:
    """A part for every block.

    Args:
        choose: selects the block at a place.
        chosen: the place of the selected block.
    """
    parts = []
    for number, block in enumerate(timeline.blocks):
        name = f"{clock(block.start)}, {block_name(block.block)}, {clock(block.length)} long"
        parts.append(SpokenPart(name, chosen=number == chosen, choose=partial(choose, number)))
    return parts
