"""The breath of a round as pieces of a line: rises, plateaus, falls and rests, as full as each breath is. In pixels."""

from collections.abc import Iterator
from dataclasses import dataclass

from nafas.score.layout import Layout
from nafas.score.row import Row
from nafas.script import Phase, PhaseKind
from nafas.timing import Event, EventKind

TOP, BOTTOM = 10, 40
"""Of the curve, px below the row's top: full and empty."""


@dataclass(frozen=True)
class Piece:
    """One phase as drawn: from (x0, y0) to (x1, y1)."""

    event: Event
    phase: Phase | None
    x0: float
    y0: float
    x1: float
    y1: float


def span(layout: Layout, row: Row, event: Event) -> tuple[float, float]:
    """Where an event of a row begins and ends, in pixels."""
    assert row.event is not None
    per_second = row.block.body.per_second
    begin = (event.tick - row.event.tick) / per_second
    return layout.x_of(row, row.begin + begin), layout.x_of(row, row.begin + begin + event.length / per_second)


def pieces(layout: Layout, row: Row) -> Iterator[Piece]:
    """The phases of a row, each starting as full as the one before left the breath."""
    phases = dict(zip(row.one.numbers, row.one.phases)) if row.one else {}
    events = [event for event in row.events if event.kind is EventKind.PHASE]
    first = events[0].phase_kind if events else None
    level = 0.0 if first in (PhaseKind.INHALE, PhaseKind.HOLD_EMPTY) else 1.0
    for event in events:
        phase = phases.get(event.phase)
        x0, x1 = span(layout, row, event)
        y0 = _y(row, level)
        if event.phase_kind is PhaseKind.INHALE:
            level = float(phase.fill) if phase and phase.fill else 1.0
        elif event.phase_kind is PhaseKind.EXHALE:
            level = 0.0
        yield Piece(event, phase, x0, y0, x1, _y(row, level))


def _y(row: Row, level: float) -> float:
    return row.y + BOTTOM - level * (BOTTOM - TOP)


def inside_joints(piece: Piece) -> list[tuple[float, str]]:
    """Where the parts of a phase begin, after the first, and what each is called; and the first one's name."""
    phase = piece.phase
    if phase is None or not phase.parts:
        return []
    joints, at = [], 0
    for part in phase.parts:
        joints.append((piece.x0 + at / phase.counts * (piece.x1 - piece.x0), part.word))
        at += part.counts
    return joints
