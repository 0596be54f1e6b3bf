"""What lies under a point of the score: a phase, the edge of one, a word, the foot of a set."""

from dataclasses import dataclass
from fractions import Fraction
from typing import NamedTuple

from nafas.score.breath_line import span
from nafas.score.layout import Layout
from nafas.score.row import LEFT, PAUSE, PAUSE_TOP, RIGHT, TALK_LINE, Row
from nafas.score.selection import Chosen
from nafas.score.spoken_lines import COUNT_BOTTOM, COUNT_TOP, CUE_TOP, LINE, is_count
from nafas.script.edits.round_edits import WordTarget, word_target
from nafas.script.model.exact import decimal_text
from nafas.timing import Event, EventKind

_NEAR = 5  # px


class Area(NamedTuple):
    """A rectangle of the page, px."""

    left: int
    top: int
    width: int
    height: int


@dataclass(frozen=True)
class Edge:
    """The end of a phase in a round, to be dragged. `unit` is pixels a count, or a second of a hold in seconds."""

    block: int
    round: int
    phase: int
    size: int
    unit: float


@dataclass(frozen=True)
class Pause:
    """The pause after a sentence, in seconds, to be dragged or typed; `sentence` is its number in the block."""

    block: int
    sentence: int
    seconds: Fraction


@dataclass(frozen=True)
class Word:
    """Words that can be retyped, and where. `target` is "title", a sentence's number, a pause, or a word of a round."""

    block: int
    round: int
    target: "str | int | WordTarget | Pause"
    text: str
    area: Area


def chosen_at(layout: Layout, row: Row, x: float) -> Chosen:
    """What a click chooses."""
    phase = 0
    if row.kind == "round" and row.event is not None:
        tick = row.event.tick + layout.time_at(row, x) * row.block.body.per_second
        for each in row.events:
            if each.kind is EventKind.PHASE and each.tick <= tick < each.tick + each.length:
                phase = each.phase
    return Chosen(row.block.index, row.round if row.kind == "round" else 0, phase)


def edge_at(layout: Layout, row: Row, x: float, y: float) -> Edge | None:
    """The phase whose end lies at a point of the curve, or None."""
    if row.kind != "round" or row.one is None or not 2 <= y - row.y <= 44:
        return None
    phases = dict(zip(row.one.numbers, row.one.phases))
    for event in row.events:
        if event.kind is EventKind.PHASE and abs(span(layout, row, event)[1] - x) <= _NEAR:
            phase = phases[event.phase]
            unit = float(row.one.count_length) if phase.seconds is None else 1.0
            return Edge(row.block.index, row.round, event.phase, int(phase.size), unit * layout.scale)
    return None


def pause_at(layout: Layout, row: Row, x: float, y: float) -> Pause | None:
    """The pause written at a point at the right of a sentence, or None."""
    if row.kind != "talk" or row.pause is None or row.event is None:
        return None
    over = layout.page - RIGHT - PAUSE <= x <= layout.page - RIGHT + 4 and row.y + PAUSE_TOP <= y < row.y + row.height
    return Pause(row.block.index, row.event.count, row.pause) if over else None


def word_at(layout: Layout, row: Row, x: float, y: float, width: int) -> Word | str | None:
    """The words at a point. Text says why what is there cannot be retyped; None: there are none."""
    index = row.block.index
    if row.kind == "title":
        return Word(index, 0, "title", row.block.block.title, Area(LEFT - 7, row.y + 9, width - LEFT - RIGHT, 28))
    pause = pause_at(layout, row, x, y)
    if pause is not None:
        seconds = decimal_text(Fraction(round(pause.seconds * 100), 100))
        return Word(index, 0, pause, seconds, Area(layout.page - RIGHT - 64, row.y + PAUSE_TOP - 5, 64, 26))
    if row.kind == "talk" and row.event is not None:
        height = max(28, TALK_LINE + 5)
        return Word(index, 0, row.event.count, row.event.text, Area(LEFT - 7, row.y - 3, width - LEFT - RIGHT, height))
    if row.kind == "write":
        return Word(index, 0, "new", "", Area(LEFT - 7, row.y - 4, width - LEFT - RIGHT, 30))
    if row.kind != "round" or row.one is None:
        return None
    said = [e for e in row.events if e.kind in (EventKind.COUNT, EventKind.CUE, EventKind.CALL) and e.text]
    inside = [e for e in said if e.kind is EventKind.CALL and e.phase_kind is not None and e.phase_kind.is_hold]
    if 12 <= y - row.y <= 42 and inside:  # calls stand inside their hold: the nearest is meant
        under = [e for e in inside if abs(span(layout, row, e)[0] - x) < 60]
        under = sorted(under, key=lambda e: abs(span(layout, row, e)[0] - x))[:1]
    elif CUE_TOP <= y - row.y <= COUNT_BOTTOM + LINE * (row.opening_lines - 1):
        counts = y - row.y >= COUNT_TOP + LINE * (row.opening_lines - 1)
        under = [e for e in said if e not in inside and span(layout, row, e)[0] - 3 <= x]
        on_line = [e for e in under if is_count(e, row.block.language) is counts]
        under = on_line or under
    else:
        return None
    if not under:
        return None
    event = max(under, key=lambda e: e.tick)
    number = is_count(event, row.block.language)
    target = word_target(row.one, event.phase, event.count, _nth_call(said, event), number)
    if target is None:
        return "Numbers follow from the counting, the language and the carrier word: change those in the details"
    left = span(layout, row, event)[0]
    return Word(index, row.round, target, _written(row, target, event), Area(int(left) - 8, row.y + 43, 170, 26))


def word_of(layout: Layout, row: Row, chosen: Chosen, width: int) -> Word | str | None:
    """The words of what is chosen: what opens its phase, or a block's title."""
    x, y = 0.0, row.y + 20.0
    if row.kind == "round":
        said = (EventKind.COUNT, EventKind.CUE)
        first = next((e for e in row.events if e.kind in said and e.phase == max(1, chosen.phase)), None)
        if first is None:
            return None
        x, y = layout.x_of(row, float(row.block.at(first))) + 1, row.y + 52.0
    return word_at(layout, row, x, y, width)


def _nth_call(said: list[Event], event: Event) -> int | None:
    if event.kind is not EventKind.CALL:
        return None
    return [e.tick for e in said if e.kind is EventKind.CALL and e.phase == event.phase].index(event.tick)


def _written(row: Row, target: WordTarget, event: Event) -> str:
    """What is retyped: a part's own name, not the cue it is said with."""
    assert row.one is not None
    if target.kind == "part":
        return row.one.phases[row.one.numbers.index(target.phase)].parts[target.index].word
    return event.text
