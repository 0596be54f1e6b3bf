"""A performance as takes of its lines: the best of each line in use, the rest kept aside."""

from collections.abc import Callable
from math import exp
from pathlib import Path

from nafas.rehearsal.performance import Performance, PerformedWord
from nafas.timing.timeline import EventKind, Timeline
from nafas.voice.call_sheet import call_sheet
from nafas.voice.segmentation.add_takes import add_takes
from nafas.voice.segmentation.segment import Cut, Segmentation
from nafas.voice.segmentation.source import Source
from nafas.voice.takebook.book import SURE, Take, line_key
from nafas.voice.takebook.writing import change_book

_STEADY = 0.15
"""Seconds off its count at which a take is worth some third of one on it."""


def performance_takes(
    source: Source,
    timeline: Timeline,
    performance: Performance,
    folder: Path,
    title: str,
    progress: Callable[[str, float], None] = lambda stage, done: None,
) -> tuple[list[Take], list[Take]]:
    """Put a performance into a take book.

    Of each line as many of its takes as are wanted, those nearest to their count, are in use; the others are set aside.

    Args:
        source, performance: the recording, and what was found in it.
        timeline: of the session it belongs to.
        folder: the take book's; made where it is missing.
        title: of a new take book.

    Returns:
        the takes in use, and those set aside.

    Raises:
        InputError: a file cannot be written; the book is then as it was.
        Cancelled: when `progress` does; likewise.
    """
    lines = [line for line in call_sheet([timeline]) if not line.book]  # takes of a block's own are another person's
    places = {line.key: position for position, line in enumerate(lines)}
    cuts = []
    for word in performance.words:
        position = places.get(line_key(word.moment.text, timeline.speaking_at(word.moment).language))
        if position is not None and word.start is not None and word.end is not None:
            cuts.append(Cut(position, word.start, word.end, worth(word)))
    made = add_takes(source, Segmentation(tuple(lines), tuple(cuts), (), ()), folder, title, progress)
    wanted = {line.key: line.wanted for line in lines}
    best: dict[tuple[str, str], list[Take]] = {}
    for take in sorted(made, key=lambda take: -(take.confidence or 0.0)):
        best.setdefault(line_key(take.text, take.language), []).append(take)
    rest = {take.file for key, takes in best.items() for take in takes[max(1, wanted.get(key, 1)) :]}
    change_book(
        folder,
        lambda index: index.model_copy(
            update={
                "takes": tuple(
                    take.model_copy(update={"aside": True}) if take.file in rest else take for take in index.takes
                )
            }
        ),
    )
    return [take for take in made if take.file not in rest], [take for take in made if take.file in rest]


def worth(word: PerformedWord) -> float:
    """How good a take a word is, from `SURE` to 1: which line it is is known, so that only its steadiness counts."""
    if word.late is None or word.moment.kind is EventKind.TALK:
        return 1.0
    return round(SURE + (1 - SURE) * exp(-abs(word.late) / _STEADY), 3)
