"""How full the breath is over a session: what a bed may swell with, and what can be drawn.

Points are (seconds from the session's start, fullness from 0 empty to 1 full), in rising order; between them the breath
goes straight. Before the first and after the last, and wherever nothing is counted, it rests half full.
"""

from nafas.script import PhaseKind
from nafas.timing.timeline import EventKind, TimedBlock, Timeline

RESTING = 0.5
_SETTLES = 2.0  # seconds from the end of a counted breath to natural breath


def breath_points(timeline: Timeline) -> list[tuple[float, float]]:
    """The breath over a timeline. A phase begins as full as the one before left it; () where nothing is breathed."""
    points: list[tuple[float, float]] = []
    for block in timeline.blocks:
        _add_block(points, block)
    if points:
        points.append((points[-1][0] + _SETTLES, RESTING))
    return points


def _add_block(points: list[tuple[float, float]], block: TimedBlock) -> None:
    fills = {
        (number, index): float(phase.fill)
        for number, one in enumerate(block.rounds, 1)
        for index, phase in zip(one.numbers, one.phases)
        if phase.fill
    }
    for event in block.body.events:
        if event.kind is not EventKind.PHASE or event.phase_kind is None:
            continue
        begin = float(block.at(event))
        end = begin + event.length / block.body.per_second
        level = points[-1][1] if points else RESTING
        if not points or begin - points[-1][0] > 1e-6:  # after a pause
            if points and begin - points[-1][0] > 2 * _SETTLES:
                points += [(points[-1][0] + _SETTLES, RESTING), (begin - _SETTLES, RESTING)]
            first_low = event.phase_kind in (PhaseKind.INHALE, PhaseKind.HOLD_EMPTY)
            level = 0.0 if first_low else 1.0
            points.append((begin, level))
        if event.phase_kind is PhaseKind.INHALE:
            level = fills.get((event.round, event.phase), 1.0)
        elif event.phase_kind is PhaseKind.EXHALE:
            level = 0.0
        points.append((end, level))
