"""Import takes: a recording of the call sheet, or a folder of clips, cut up into a take book."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nafas.exchange.aac import decoded
from nafas.files import real_path
from nafas.plain_text import pluralize
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.progress import Note, quiet
from nafas.voice.call_sheet import Line, LineKind
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.segmentation.add_takes import add_takes
from nafas.voice.segmentation.clip_folder import ClipFolder, open_source
from nafas.voice.segmentation.labels import read_labels
from nafas.voice.segmentation.segment import Segmentation, segment
from nafas.voice.segmentation.unlisted import list_again
from nafas.voice.takebook.book import Take, line_key
from nafas.voice.takebook.writing import open_or_new

STAGES = {
    "listening": (0.0, 0.3), "reading the call sheet": (0.3, 0.45), "comparing": (0.45, 0.8), "writing": (0.8, 1.0),
}  # fmt: skip


@dataclass(frozen=True)
class ImportRequest:
    """What is to be cut up.

    Attributes:
        recording: a file of sound or a folder of clips; the take book itself: recordings in it that its index does not
            list become takes where they are.
        lines: of the call sheet.
        book: the folder of the take book; it is made where it is missing.
        title: of a new take book.
        labels: a label file, tab-separated, SRT or VTT; None for none.
    """

    recording: Path
    lines: Sequence[Line]
    book: Path
    title: str
    labels: Path | None = None


@dataclass(frozen=True)
class ImportResult:
    """The takes that were added, and how each line was found."""

    book: Path
    found: Segmentation
    takes: Sequence[Take]
    warnings: tuple[str, ...] = ()
    exit_code: ExitCode = ExitCode.DONE

    @property
    def _unsure(self) -> list[tuple[str, float, float]]:
        """Line, seconds and confidence of each that is not sure to be its line."""
        lines = self.found.lines
        return [(lines[cut.line].text, round(cut.start, 2), round(cut.confidence, 2)) for cut in self.found.unsure]

    def lines(self) -> list[str]:
        segmentation, repeated = self.found, self.found.repeated
        rows = [f"listen to: {text!r} at {at:.2f} s (confidence {sure:.2f})" for text, at, sure in self._unsure]
        rows += [f"missing: {line.text!r}" for line in segmentation.missing]
        if repeated:
            often = pluralize(len(repeated), "line was", "lines were")
            rows.append(f"{often} read more often than wanted; all takes are kept")
        on_beats = {line_key(line.text, line.language) for line in segmentation.lines if line.kind is not LineKind.TALK}
        beats = sum(not t.beat_sure for t in self.takes if line_key(t.text, t.language) in on_beats)
        if beats:
            rows.append(
                f"{pluralize(beats, 'felt beat is', 'felt beats are')} not sure: listen in Takes, which marks them"
            )
        if segmentation.unmatched:
            rows.append(f"on no line: {pluralize(len(segmentation.unmatched), 'sound')}")
        head = f"{self.book}: {len(self.takes)} takes of {len(segmentation.lines) - len(segmentation.missing)} lines"
        return [head, *(f"  {row}" for row in [*rows, *segmentation.notes])]

    def figures(self) -> dict[str, Any]:
        segmentation = self.found
        return {
            "takes": [take.model_dump(mode="json") for take in self.takes],
            "missing": [line.text for line in segmentation.missing],
            "repeated": {line.text: times for line, times in segmentation.repeated},
            "unsure": [{"line": text, "at": at, "confidence": sure} for text, at, sure in self._unsure],
            "unmatched": [[round(each.start, 3), round(each.end, 3)] for each in segmentation.unmatched],
            "notes": list(segmentation.notes),
        }


@dataclass(frozen=True)
class ListedAgain:
    """Recordings of a take book that have a line again, and those that have none."""

    book: Path
    takes: Sequence[Take]
    left: Sequence[Path]
    warnings: tuple[str, ...] = ()
    exit_code: ExitCode = ExitCode.DONE

    def lines(self) -> list[str]:
        unsure = [take for take in self.takes if not take.sure]
        return [
            f"{self.book}: {len(self.takes)} recordings have a line again",
            *(f"  listen to: {take.text!r} in {take.file} (confidence {take.confidence:.2f})" for take in unsure),
            *(f"  on no line of this session: {path.name}" for path in self.left),
        ]

    def figures(self) -> dict[str, Any]:
        return {
            "takes": [take.model_dump(mode="json") for take in self.takes], "left": [path.name for path in self.left],
        }  # fmt: skip


def run(request: ImportRequest, note: Note = quiet) -> ImportResult | ListedAgain:
    """Cut a recording up, and add what is found to the take book; the recording itself is never changed.

    Raises:
        InputError: the recording, the labels or the take book cannot be read, or no take can be written.
        Cancelled: when `note` does; the take book is as it was.
    """
    engine = CachedEngine(Espeak())
    if real_path(request.recording) == real_path(request.book):
        return ListedAgain(request.book, *list_again(request.book, list(request.lines), engine, note))
    labels = read_labels(request.labels) if request.labels is not None else []
    open_or_new(request.book, request.title)  # before an hour of listening, not after
    with decoded(request.recording) as sound:
        source, lines = open_source(sound or request.recording), list(request.lines)
        clips = isinstance(source, ClipFolder)
        if isinstance(source, ClipFolder) and not labels:
            labels = source.labels(lines)
        source.path = request.recording  # takes say where they are from
        segmentation = segment(source, lines, engine, labels, note, ordered=not clips)
        takes = add_takes(source, segmentation, request.book, request.title, note)
    return ImportResult(request.book, segmentation, takes)
