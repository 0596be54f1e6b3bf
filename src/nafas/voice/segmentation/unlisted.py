"""Recordings in a take book's folder that its index does not name: an import was killed, or somebody put them there.

They are offered back: each is held against the call sheet by its name and its sound, and becomes a take where it lies.
"""

from collections.abc import Callable, Sequence
from pathlib import Path

from nafas.errors import InputError
from nafas.files import file_digest
from nafas.voice.call_sheet import Line
from nafas.voice.engines.engine import Engine
from nafas.voice.segmentation.clip_folder import SOUND_ENDINGS, ClipFolder
from nafas.voice.segmentation.segment import segment
from nafas.voice.segmentation.source import Source
from nafas.voice.takebook.book import Take, TakeBook, TakeIndex
from nafas.voice.takebook.writing import change_book, described

_BY_NAME = 0.2
"""Confidence of a take whose name alone says its line: it is to be listened to."""
_NEAR = 0.3  # seconds by which what was heard may reach over a clip's ends


def unlisted(book: TakeBook) -> list[Path]:
    """The recordings in a book's folder that its index does not name, by name. A folder that cannot be read: none."""
    named = {take.file for take in book.index.takes}
    try:
        paths = [p for p in book.folder.iterdir() if p.suffix.lower() in SOUND_ENDINGS and not p.name.startswith(".")]
    except OSError:
        return []
    return sorted(path for path in paths if path.name not in named)


def list_again(
    folder: Path,
    lines: Sequence[Line],
    engine: Engine,
    progress: Callable[[str, float], None] = lambda stage, done: None,
) -> tuple[list[Take], list[Path]]:
    """Give recordings without a line their lines, as takes in the book; no file is touched.

    Args:
        folder: the take book's.
        lines: the call sheet they are held against.
        engine: the stand-in, for comparison.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop, and then nothing has changed.

    Returns:
        the takes that were added, and the recordings that are on no line or cannot be read.

    Raises:
        InputError: the book cannot be read or written.
    """
    left, clips = [], []
    for path in unlisted(TakeBook(folder)):
        try:
            clips.append(Source(path).path)
        except InputError:
            left.append(path)
    if not clips:
        return [], left
    source = ClipFolder(folder, clips)
    labels = source.labels(list(lines))
    try:
        segmentation = segment(source, lines, engine, labels, progress, ordered=False)
        cuts = segmentation.cuts
    except InputError:  # nothing but silence: their names are all there is
        cuts = ()
    places = {line.text: number for number, line in enumerate(lines)}
    named = {label.start: places[label.text] for label in labels}
    takes = []
    for clip, at in source.clips:
        begin, end = at / source.rate, at / source.rate + clip.seconds
        own = [cut for cut in cuts if begin - _NEAR <= cut.start and cut.end <= end + _NEAR]
        best = max(own, key=lambda cut: cut.confidence, default=None)
        line = named.get(begin) if best is None else best.line
        if line is None:
            left.append(clip.path)
            continue
        speech = (0.0, clip.seconds)
        if best is not None:
            speech = (max(0.0, best.start - begin), min(clip.seconds, best.end - begin))
        samples = clip.read(0, clip.frames)
        take = described(
            samples, clip.rate, speech, lines[line], "found in the folder", clip.path.name, file_digest(clip.path)
        )
        takes.append(take.replace(confidence=_BY_NAME if best is None else round(best.confidence, 3)))

    def with_takes(index: TakeIndex) -> TakeIndex:
        there = {take.file for take in index.takes}
        return index.model_copy(update={"takes": (*index.takes, *(t for t in takes if t.file not in there))})

    if takes:
        change_book(folder, with_takes)
    return takes, sorted(left)
