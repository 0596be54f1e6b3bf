"""Put what was cut out of a recording into a take book."""

import contextlib
from collections.abc import Callable, Sequence
from pathlib import Path

from nafas.errors import InputError
from nafas.files import one_writer
from nafas.voice.segmentation.segment import Segmentation
from nafas.voice.segmentation.source import Source
from nafas.voice.takebook.book import INDEX, Take, TakeBook
from nafas.voice.takebook.writing import AFTER, BEFORE, begin_book, change_book, write_take

_MARGIN = 0.25  # seconds of the room kept in the file around the tails, for trims to be moved into


def add_takes(
    source: Source,
    segmentation: Segmentation,
    folder: Path,
    title: str,
    progress: Callable[[str, float], None] = lambda stage, done: None,
) -> list[Take]:
    """Write every cut into a take book, sure ones before unsure ones of the same line.

    Args:
        source, segmentation: a recording, and what was found in it.
        folder: the take book's; made where it is missing.
        title: of a new take book.

    Returns:
        the takes that were added.

    Raises:
        InputError: a file cannot be written; the book is then as it was.
        Cancelled: when `progress` does; likewise.
    """
    begun = begin_book(folder, title)
    written: list[Path] = []
    takes: list[Take] = []
    try:
        for number, cut in enumerate(sorted(segmentation.cuts, key=lambda cut: (cut.line, -cut.confidence))):
            progress("writing", number / max(1, len(segmentation.cuts)))
            line = segmentation.lines[cut.line]
            begin = max(0.0, cut.start - BEFORE - _MARGIN)
            end = min(source.seconds, cut.end + AFTER + _MARGIN)
            samples = source.read(int(begin * source.rate), int((end - begin) * source.rate))
            speech = (cut.start - begin, cut.end - begin)
            path, take = write_take(folder, samples, source.rate, speech, line, source.place(cut.start))
            written.append(path)
            takes.append(take.replace(confidence=round(cut.confidence, 3)))
        change_book(folder, lambda index: index.model_copy(update={"takes": (*index.takes, *takes)}))
    except BaseException:
        _take_away(folder, written, begun)
        raise
    return takes


def _take_away(folder: Path, written: Sequence[Path], begun: bool) -> None:
    """Remove files of an import that was stopped, but none that the index names by now, whoever wrote it; where that
    cannot be known, none. A book that was begun for it and is empty goes too."""
    try:
        named = {take.file for take in TakeBook(folder).index.takes}
    except InputError:
        return
    with contextlib.suppress(OSError):
        for path in written:
            if path.name not in named:
                path.unlink()
        if begun and not named:
            with one_writer(folder):
                # Another import may have written recordings by now, whose lines are still to come.
                if all(path.name == INDEX or path.name.startswith(".") for path in folder.iterdir()):
                    (folder / INDEX).unlink()
