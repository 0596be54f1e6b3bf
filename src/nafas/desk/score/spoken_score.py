"""The page as a screen reader reads it: every title, line, round and phase in order, with its time; counts can be
changed."""

from collections.abc import Callable, Sequence
from functools import partial

from nafas.desk.widgets.spoken_parts import SpokenPart
from nafas.plain_text import pluralize
from nafas.score.layout import Layout
from nafas.score.row import Row
from nafas.score.selection import Chosen
from nafas.script.edits.session_edits import block_name
from nafas.script.model.phase import Phase, PhaseKind
from nafas.timing.clock import clock

_KINDS = {
    PhaseKind.INHALE: "inhale", PhaseKind.HOLD_FULL: "hold full",
    PhaseKind.EXHALE: "exhale", PhaseKind.HOLD_EMPTY: "hold empty",
}  # fmt: skip

Choose = Callable[[Chosen], None]
Typed = Callable[[Chosen, int], None]
"""Takes a phase and its counts."""


def spoken_score(layout: Layout, rows: Sequence[Row], chosen: Chosen, choose: Choose, typed: Typed) -> list[SpokenPart]:
    """The parts of some rows of a page.

    Args:
        layout: the page.
        rows: of it.
        chosen: what is selected.
        choose: selects a block, round or phase.
        typed: called with another number of counts for a phase.
    """
    parts: list[SpokenPart] = []
    places = {id(block): number for number, block in enumerate(layout.blocks)}

    def add(name: str, place: Chosen, phase: Phase | None = None) -> None:
        change = None if phase is None or phase.seconds is not None else partial(_change, typed, place)
        value = str(phase.counts) if phase is not None and change is not None else ""
        parts.append(SpokenPart(name, value, place == chosen, partial(choose, place), change))

    for row in rows:
        block = places[id(row.block)]
        if row.kind == "title":
            add(
                f"{clock(row.block.start)}, {block_name(row.block.block)}, {clock(row.block.length)} long",
                Chosen(block),
            )
        elif row.one is not None and row.round:
            add(round_words(row), Chosen(block, row.round))
            for number, phase in zip(row.one.numbers, row.one.phases):
                length = pluralize(phase.counts, "count") if phase.seconds is None else _length(phase)
                name = f"{phase.cue or _KINDS[phase.kind]}, {length}, round {row.round}"
                add(name, Chosen(block, row.round, number), phase)
        elif row.lines:
            parts.append(
                SpokenPart(f"{clock(row.start)}, {' '.join(row.lines)}", choose=partial(choose, Chosen(block)))
            )
        elif row.kind in ("rest", "strokes", "prepare", "ease"):
            name = f"{clock(row.start)}, {row.kind}, {row.seconds:g} seconds"
            parts.append(SpokenPart(name, choose=partial(choose, Chosen(block))))
    return parts


def round_words(row: Row) -> str:
    """A round in words: "1:20, round 2: inhale 4, hold full 2, exhale 8; counts of 1 s"."""
    if row.one is None:
        return ""
    phases = ", ".join(f"{_KINDS[phase.kind]} {_length(phase)}" for phase in row.one.phases)
    return f"{clock(row.start)}, round {row.round}: {phases}; counts of {float(row.one.count_length):g} s"


def _length(phase: Phase) -> str:
    return str(phase.counts) if phase.seconds is None else f"{float(phase.seconds):g} seconds"


def _change(typed: Typed, place: Chosen, text: str) -> None:
    if text.strip().isdecimal():
        typed(place, int(text))
