"""The session sheet: a timed page to read from, with every set written out round by round; to print, or as text."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from nafas.script.edits.session_edits import block_name
from nafas.script.expansion import runs
from nafas.script.model.blocks import BreathSet, Rest, Strokes
from nafas.script.model.exact import decimal_text
from nafas.script.model.guidance import Level
from nafas.script.notation.block import block_notation
from nafas.script.notation.phases import format_pattern
from nafas.timing.clock import clock
from nafas.timing.timeline import EventKind, TimedBlock, Timeline

GUIDANCE = {Level.FULL: "counted", Level.CUES: "cue words", Level.CHIMES: "chimes only", Level.SILENT: "silent"}


@dataclass(frozen=True)
class SheetLine:
    """A line. `kind`: "block", "talk", "about" (a fact), "rounds" or "words"; `at`: session time or None."""

    kind: str
    text: str
    at: Fraction | None = None


def sheet(timeline: Timeline) -> list[SheetLine]:
    """The lines of a session's sheet, in order."""
    return [line for block in timeline.blocks for line in _block(block)]


def _block(block: TimedBlock) -> Iterator[SheetLine]:
    yield SheetLine("block", f"{block_name(block.block)}   {clock(block.length, tenths=True)}", block.start)
    if isinstance(block.block, BreathSet):
        yield SheetLine("about", block_notation(block.block))
        yield from _rounds(block)
    elif isinstance(block.block, Strokes):
        yield SheetLine("about", block_notation(block.block))
    elif isinstance(block.block, Rest):
        yield SheetLine("about", f"natural breath, {decimal_text(block.block.seconds)} s")
    if block.block.bed is not None and block.block.bed.words:
        yield SheetLine("about", block.block.bed.words)
    for event in block.body.events:
        if event.kind is EventKind.TALK:
            yield SheetLine("talk", event.text, block.at(event))


def _rounds(block: TimedBlock) -> Iterator[SheetLine]:
    starts = {e.round: block.at(e) for e in block.body.events if e.kind is EventKind.ROUND}
    same = len({one.phases for one in block.rounds}) == 1
    said: tuple[str, ...] = ()
    for first, last in runs(block.rounds):
        which = f"round {first.number}" if first is last else f"rounds {first.number} to {last.number}"
        about = f"{decimal_text(first.count_length)} s a count, {GUIDANCE[first.level]}"
        if not same:
            about = f"{format_pattern(first.phases)}, {about}"
        each = "" if first is last else " each"
        yield SheetLine("rounds", f"{which}: {about}, {decimal_text(first.seconds)} s{each}", starts[first.number])
        words = tuple(event.text for event in block.body.events if event.round == first.number and event.text)
        if words and words != said:
            yield SheetLine("words", ", ".join(words))
        said = words


def sheet_text(timeline: Timeline) -> str:
    """The sheet as plain text, 100 columns wide at most where words allow it."""
    session = timeline.session
    lines = [session.title or "Untitled session", f"{clock(timeline.length)} long, {session.language}", ""]
    for line in sheet(timeline):
        time = clock(line.at) if line.at is not None else ""
        indent = "" if line.kind == "block" else "  "
        if line.kind == "block":
            lines.append("")
        lines += _wrapped(line.text, f"{time:>8}  {indent}")
    return "\n".join(lines) + "\n"


def _wrapped(text: str, head: str, width: int = 100) -> list[str]:
    import textwrap

    return textwrap.wrap(text, width, initial_indent=head, subsequent_indent=" " * len(head)) or [head.rstrip()]
