"""A session made of a recording: its sets on an exact grid, and the performer's own words as takes.

What lies between sets becomes natural breath of the same length: talk is not written down, and stays in the recording.
"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from nafas.errors import InputError
from nafas.review.audit.audit import Audit
from nafas.review.audit.performed import PerformedSet
from nafas.script.edits.session_edits import change
from nafas.script.expansion import set_seconds
from nafas.script.model.assets import Asset
from nafas.script.model.blocks import Block, BreathSet, CountStyle, Rest
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Counting, Phase
from nafas.script.model.session import Session, Voice
from nafas.timing.compile import compile_session, paced
from nafas.voice.call_sheet import call_sheet
from nafas.voice.segmentation.add_takes import add_takes
from nafas.voice.segmentation.segment import Cut, Segmentation
from nafas.voice.segmentation.source import Source

_FINEST = Fraction(1, 100)
"""Seconds to which a count is brought: finer says nothing of what was meant."""
_LEAST_ROUNDS = 2
_LEAST_OVER = 18.0
"""LU by which words must stand over what sounds with them, to be taken out of a recording."""
_MOST_OPENING = 100
"""Seconds before the first set that are taken for the opening."""
_NAME = 60


@dataclass(frozen=True)
class Moved:
    """A word of the performance and where the session has it: seconds it is moved by, within its set."""

    text: str
    at: float
    by: float


@dataclass(frozen=True, eq=False)
class Inferred:
    """A session made of a recording.

    Attributes:
        session: its sets on an exact grid.
        moved: how far each word is moved by that.
        takes: words that became takes; 0 where none could.
        notes: what could not be done, and why.
    """

    session: Session
    moved: tuple[Moved, ...]
    takes: int
    notes: tuple[str, ...]


def infer(
    found: Audit, folder: Path | None = None, progress: Callable[[str, float], None] = lambda stage, done: None
) -> Inferred:
    """Make a session of a recording.

    Args:
        found: the recording put to the test.
        folder: where the session is to stand, and a take book of its own beside it. None: without takes.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: no set was heard in it; a take book of its name is there already, or a take cannot be written.
    """
    sets = [one for one in found.sets if len(one.rounds) >= _LEAST_ROUNDS and one.count_length is not None]
    if not sets:
        problem = "holds no set of two rounds or more whose count can be heard"
        raise InputError(str(found.path), problem, "choose a recording of counted breathing in English")
    blocks: list[Block] = []
    at = 0.0
    for number, one in enumerate(sets, 1):
        before = one.start - at - (0 if blocks else min(_MOST_OPENING, one.start))
        if before >= 1:
            rest = Fraction(round(before * 10), 10)
            blocks.append(Rest(id=f"between-{number}", title="What was said here", seconds=min(rest, Fraction(3600))))
        block = _block(one, number)
        blocks.append(block)
        at = one.start + float(_seconds(block))
    opening = Fraction(round(min(_MOST_OPENING, sets[0].start) * 10), 10)
    session = Session(title=found.path.stem[:120], opening=opening, end_bell=False, bed=None, blocks=tuple(blocks))
    notes = [f"what was said between the sets is in {found.path.name} only: write it into the session, or record it"]
    left = len(found.sets) - len(sets)
    if left:
        notes.append(f"{left} of the sets heard had too little to go by")
    written = [block for block in blocks if isinstance(block, BreathSet)]
    moved = tuple(move for one, block in zip(sets, written) for move in _moved(one, block))
    takes = 0
    if folder is not None and found.voice_over_rest >= _LEAST_OVER:
        book = folder / f"{found.path.stem[:_NAME]}-takes"
        if book.exists():
            raise InputError(str(book), "is there already", "choose another folder, or move it away")
        takes = _take(found, session, book, progress)
        session = change(session, voice=Voice(take_book=Asset(path=book.name)))
    elif folder is not None:
        over = found.voice_over_rest
        notes.append(
            f"the words cannot be taken out of it: they stand {over:.0f} LU over what sounds with them, and "
            f"{_LEAST_OVER:.0f} are needed, or the music would be heard in every word"
        )
    return Inferred(session, moved, takes, tuple(notes))


def _block(one: PerformedSet, number: int) -> BreathSet:
    assert one.count_length is not None
    usual = next(r for r in one.rounds if tuple((p.kind, p.counts) for p in r) == one.pattern)
    phases = tuple(
        Phase(kind=phase.kind, counts=phase.counts, counting=Counting.DOWN if phase.falls else None) for phase in usual
    )
    rising = [phase.numbers[0] for phase in usual if phase.numbers and not phase.falls]
    ahead = bool(rising) and set(rising) == {1}
    silent = not any(phase.numbers for phase in usual)
    return BreathSet(
        id=f"set-{number}",
        title=f"Set {number}",
        pattern=Pattern(phases=phases),
        rounds=len(one.rounds),
        count_length=max(_FINEST, round(Fraction(one.count_length) / _FINEST) * _FINEST),
        style=CountStyle(cue="ahead" if ahead else "on-one", counting=Counting.SILENT if silent else Counting.UP),
    )


def _seconds(block: BreathSet) -> Fraction:
    return set_seconds(block, block.count_length or Fraction(1))


def _moved(one: PerformedSet, block: BreathSet) -> list[Moved]:
    """How far each word of a set lies beside the grid that begins with its first."""
    count = float(block.count_length or 1)
    per_round = float(_seconds(block)) / block.rounds
    found = []
    for number, phases in enumerate(one.rounds):
        due = number * per_round
        for phase in phases:
            for place, word in enumerate(phase.words):
                steps = place if not word.number or phase.falls else word.number - 1
                found.append(Moved(word.text, word.beat, due + steps * count - (word.beat - one.start)))
            due += phase.counts * count
    return found


def _take(found: Audit, session: Session, book: Path, progress: Callable[[str, float], None]) -> int:
    lines = call_sheet([compile_session(session, paced())])
    places = {line.text.lower(): place for place, line in enumerate(lines)}
    cuts = tuple(
        Cut(places[word.text], word.start, word.end, word.confidence) for word in found.words if word.text in places
    )
    segmentation = Segmentation(tuple(lines), cuts, (), ())
    return len(add_takes(Source(found.path), segmentation, book, session.title, progress))
