"""The session sheet: a timed page to read from, with every set written out round by round; to print, or as text."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction

from nafas.languages import handed
from nafas.script.edits.session_edits import block_name
from nafas.script.model.blocks import BreathSet, Rest, Strokes
from nafas.script.model.exact import decimal_text
from nafas.script.model.guidance import Level
from nafas.script.notation.block import notation_for_readers
from nafas.script.notation.phases import format_pattern
from nafas.timing.bodies.strokes import DEMONSTRATION
from nafas.timing.clock import clock
from nafas.timing.timeline import Event, EventKind, TimedBlock, Timeline

_LEVELS = {Level.FULL: "counted", Level.CUES: "cue_words", Level.CHIMES: "chimes_only", Level.SILENT: "silent"}


@dataclass(frozen=True)
class SheetLine:
    """A line. `kind`: "block", "talk", "about" (a fact), "rounds" or "words"; `at`: session time or None."""

    kind: str
    text: str
    at: Fraction | None = None


def sheet(timeline: Timeline) -> list[SheetLine]:
    """The lines of a session's sheet, in order and in its language."""
    language = timeline.session.language
    return [line for block in timeline.blocks for line in _block(block, language)]


def _block(block: TimedBlock, language: str) -> Iterator[SheetLine]:
    words = handed(language)
    yield SheetLine("block", f"{block_name(block.block, language)}   {clock(block.length, tenths=True)}", block.start)
    if isinstance(block.block, BreathSet | Strokes) and (notation := notation_for_readers(block.block, language)):
        yield SheetLine("about", notation)
    elif isinstance(block.block, Rest):
        yield SheetLine("about", f"{words['natural']}, {_number(block.block.seconds, words)} s")
    if block.block.manner:
        yield SheetLine("about", block.block.manner)
    yield from _said(block, words)


def _number(value: Fraction, words: Mapping[str, str]) -> str:
    return decimal_text(value).replace(".", words["point"])


_SPANS = (EventKind.PREPARE, EventKind.ROUND, EventKind.EASE, EventKind.STROKES, EventKind.TALK)


def _said(block: TimedBlock, words: Mapping[str, str]) -> Iterator[SheetLine]:
    """Everything that is said in a block, in order of time; rounds that are alike are one line."""
    events = block.body.events
    starts = [n for n, event in enumerate(events) if event.kind in _SPANS]
    rounds: list[tuple[Event, tuple[str, ...]]] = []
    before: tuple[str, ...] = ()
    for begin, end in zip(starts, [*starts[1:], len(events)]):
        event = events[begin]
        said = tuple(each.text for each in events[begin + 1 : end] if each.said)
        if event.kind is EventKind.ROUND:
            if rounds and not _alike(block, rounds[-1], (event, said)):
                yield from _rounds(block, rounds, before, words)
                before, rounds = rounds[-1][1], []
            rounds.append((event, said))
            continue
        yield from _rounds(block, rounds, before, words)
        before, rounds = rounds[-1][1] if rounds else before, []
        if event.kind is EventKind.TALK:
            yield SheetLine("talk", event.text, block.at(event))
            continue
        what = {
            EventKind.PREPARE: "counted_in" if isinstance(block.block, Strokes) else "before",
            EventKind.EASE: "natural",
            EventKind.STROKES: "shown" if event.round == DEMONSTRATION else "strokes",
        }[event.kind]
        number = f"{event.count} " if event.kind is EventKind.STROKES else ""
        seconds = _number(Fraction(event.length, block.body.per_second), words)
        yield SheetLine("rounds", f"{number}{words[what]}, {seconds} s", block.at(event))
        if said:
            yield SheetLine("words", ", ".join(said))
    yield from _rounds(block, rounds, before, words)


def _alike(block: TimedBlock, one: tuple[Event, tuple[str, ...]], other: tuple[Event, tuple[str, ...]]) -> bool:
    first, second = (block.rounds[event.round - 1] for event, _ in (one, other))
    facts = [(each.phases, each.count_length, each.level, each.seconds) for each in (first, second)]
    return facts[0] == facts[1] and one[1] == other[1]


def _rounds(
    block: TimedBlock,
    rounds: list[tuple[Event, tuple[str, ...]]],
    before: tuple[str, ...],
    words: Mapping[str, str],
) -> Iterator[SheetLine]:
    """A run of rounds that are alike; `before` is what was said in the round before them."""
    if not rounds:
        return
    (event, said), last = rounds[0], rounds[-1][0].round
    first = block.rounds[event.round - 1]
    alone = last == event.round
    which = words["round"].format(n=last) if alone else words["rounds"].format(first=event.round, last=last)
    about = f"{words['a_count'].format(n=_number(first.count_length, words))}, {words[_LEVELS[first.level]]}"
    if len({one.phases for one in block.rounds}) > 1:
        about = f"{format_pattern(first.phases)}, {about}"
    seconds = _number(first.seconds, words)
    length = f"{seconds} s" if alone else words["each"].format(n=seconds)
    yield SheetLine("rounds", f"{which}: {about}, {length}", block.at(event))
    if said and said != before:
        yield SheetLine("words", ", ".join(said))


def sheet_text(timeline: Timeline) -> str:
    """The sheet as plain text, 100 columns wide at most where words allow it."""
    session, words = timeline.session, handed(timeline.session.language)
    length = words["long"].format(length=clock(timeline.length))
    lines = [session.title or words["untitled"], f"{length}, {session.language}", ""]
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
