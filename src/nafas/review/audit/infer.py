"""A session made of a recording: its sets on an exact grid, and the performer's own words and talk as takes."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from nafas.errors import InputError
from nafas.review.audit.audit import Audit
from nafas.review.audit.draft import Draft, drafted
from nafas.script.edits.session_edits import change
from nafas.script.expansion import set_seconds
from nafas.script.model.assets import Asset
from nafas.script.model.blocks import BreathSet
from nafas.script.model.session import Session
from nafas.script.model.voice import Voice
from nafas.script.performed import PerformedSet
from nafas.timing.compile import compile_session, paced
from nafas.voice.call_sheet import call_sheet
from nafas.voice.segmentation.add_takes import add_takes
from nafas.voice.segmentation.segment import Cut, Segmentation
from nafas.voice.segmentation.source import Source

_LEAST_OVER = 18.0
"""LU by which words must stand over what sounds with them, to be taken out of a recording."""
_NAME = 60
_SURE = 0.98
"""How sure a sentence is: where it begins and ends is seen, whatever its words are."""


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
        session: its sets on an exact grid, its talk between them.
        moved: how far each word is moved by that.
        takes: words and sentences that became takes; 0 where none could.
        notes: what could not be done, and why; what is to be read once more.
    """

    session: Session
    moved: tuple[Moved, ...]
    takes: int
    notes: tuple[str, ...]


def infer(
    audit: Audit, folder: Path | None = None, progress: Callable[[str, float], None] = lambda stage, done: None
) -> Inferred:
    """Make a session of a recording.

    Args:
        audit: the recording put to the test.
        folder: where the session is to stand, and a take book of its own next to it. None: without takes.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: no set was heard in it; a take book of its name is there already, or a take cannot be written.
    """
    draft = drafted(audit.path.stem, audit.sets, audit.talk, audit.language)
    if draft is None:
        problem = "holds no set of two rounds or more whose count can be heard"
        raise InputError(str(audit.path), problem, "choose a recording of counted breathing")
    session, notes = draft.session, []
    if draft.talk:
        notes.append("what is said between the sets is written down as it was heard: read it, and correct the words")
    elif not audit.transcribed:
        notes.append(f"what was said between the sets is in {audit.path.name} only: it was not listened to")
    if draft.left:
        notes.append(f"{draft.left} of the sets heard had too little to go by")
    moved = tuple(move for one, block in zip(draft.sets, draft.blocks) for move in _moved(one, block))
    takes = 0
    if folder is not None and audit.voice_over_rest >= _LEAST_OVER:
        book = folder / f"{audit.path.stem[:_NAME]}-takes"
        if book.exists():
            raise InputError(str(book), "is there already", "choose another folder, or move it away")
        takes = _take(audit, draft, book, progress)
        session = change(session, voice=Voice(take_book=Asset(path=book.name)))
    elif folder is not None:
        over = audit.voice_over_rest
        notes.append(
            f"the words cannot be taken out of it: they stand {over:.0f} LU over what sounds with them, and "
            f"{_LEAST_OVER:.0f} are needed, or the music would be heard in every word"
        )
    return Inferred(session, moved, takes, tuple(notes))


def _moved(one: PerformedSet, block: BreathSet) -> list[Moved]:
    """How far each word of a set lies off the grid that begins with its first."""
    count = float(block.count_length or 1)
    per_round = float(set_seconds(block, block.count_length or 1)) / block.rounds
    moved = []
    for number, phases in enumerate(one.rounds):
        due = number * per_round
        for phase in phases:
            for index, word in enumerate(phase.words):
                steps = index if not word.number or phase.falls else word.number - 1
                moved.append(Moved(word.text, word.beat, due + steps * count - (word.beat - one.start)))
            due += phase.counts * count
    return moved


def _take(audit: Audit, draft: Draft, book: Path, progress: Callable[[str, float], None]) -> int:
    lines = call_sheet([compile_session(draft.session, paced())])
    places = {line.text.lower(): index for index, line in enumerate(lines)}
    cuts = [
        Cut(places[word.text], word.start, word.end, word.confidence) for word in audit.words if word.text in places
    ]
    for text, said in draft.talk.items():
        cuts += [Cut(places[text.lower()], each.start, each.end, _SURE) for each in said if text.lower() in places]
    segmentation = Segmentation(tuple(lines), tuple(cuts), (), ())
    return len(add_takes(Source(audit.path), segmentation, book, draft.session.title, progress))
