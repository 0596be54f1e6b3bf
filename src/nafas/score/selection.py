"""What is chosen on the page, and what is chosen next by the arrow keys."""

from dataclasses import dataclass

from nafas.score.layout import Layout
from nafas.score.row import Row
from nafas.timing import EventKind


@dataclass(frozen=True)
class Chosen:
    """What is selected: a block, and within a set a round and a phase (0: none)."""

    block: int = -1
    round: int = 0
    phase: int = 0


def row_stepped(layout: Layout, chosen: Chosen, now: Row | None, by: int) -> Chosen | None:
    """The row after or before the chosen one, a round or a block's title; None where there is none at all.

    Args:
        now: the row of what is chosen.
        by: 1 or -1.
    """
    near = range(chosen.block - 1, chosen.block + 2)
    rows = [row for n in near for row in layout.rows_of(n) if row.kind in ("title", "round")]
    if not rows:
        return None
    index = rows.index(now) + by if now in rows else 0
    row = rows[min(max(0, index), len(rows) - 1)]
    return Chosen(row.block.index, row.round, max(1, chosen.phase) if row.round else 0)


def phase_stepped(chosen: Chosen, row: Row | None, by: int) -> Chosen | None:
    """The phase after or before the chosen one in its round; None outside a round, and in an ease after one."""
    phases = [] if row is None else [event.phase for event in row.events if event.kind is EventKind.PHASE]
    if row is None or not row.round or not phases:
        return None
    index = phases.index(chosen.phase) + by if chosen.phase in phases else 0
    return Chosen(chosen.block, chosen.round, phases[min(max(0, index), len(phases) - 1)])
