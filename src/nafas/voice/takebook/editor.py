"""A take book being tended: trims, beats, lines and what is set aside, each change undoable and written at once.

Changes are of the index alone. No audio file is altered or deleted, so nothing said is ever lost.
"""

from collections.abc import Callable
from pathlib import Path

from nafas.errors import InputError
from nafas.files import one_writer
from nafas.script.edits.history import History
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.level import speech_gain
from nafas.voice.takebook.book import INDEX, Take, TakeBook, TakeIndex
from nafas.voice.takebook.writing import begin_book, open_or_new, write_index

_SHORTEST = 0.02


class TakeBookEditor:
    """A take book that is open for change.

    Args:
        folder: of the take book; where there is none yet, it begins empty and is made with the first change.
        title: of a new one.

    Raises:
        InputError: the folder or its index cannot be used.
    """

    def __init__(self, folder: Path, title: str = "") -> None:
        self.folder = folder
        index = open_or_new(folder, title)
        self.book: TakeBook | None = TakeBook(folder) if (folder / INDEX).exists() else None
        self._written = self.book.sha256 if self.book else None  # the index as this one knows it
        self._history: History[TakeIndex] = History(index)

    @property
    def index(self) -> TakeIndex:
        return self._history.present

    @property
    def undo_label(self) -> str | None:
        return self._history.undo_label

    @property
    def redo_label(self) -> str | None:
        return self._history.redo_label

    def change(self, index: TakeIndex, label: str) -> TakeBook:
        """Write a new index.

        Raises:
            InputError: it cannot be written, or another program has changed the book; nothing is overwritten then.
        """
        if begin_book(self.folder, index.title):
            self._written = TakeBook(self.folder).sha256
        with one_writer(self.folder):
            self._check_own()
            write_index(self.folder, index)
        self._history.change(index, label)
        return self._reopened()

    def add(self, take: Take, label: str) -> TakeBook:
        """Add a take, also to a book that another program has changed meanwhile: nothing of either is lost.

        Raises:
            InputError: it cannot be written.
        """
        begin_book(self.folder, self.index.title)
        with one_writer(self.folder):
            if TakeBook(self.folder).sha256 != self._written:
                self.reread()
            index = self.index.model_copy(update={"takes": (*self.index.takes, take)})
            write_index(self.folder, index)
        self._history.change(index, label)
        return self._reopened()

    def undo(self) -> bool:
        """Take the last change back; False where there is none."""
        return self._step(self._history.undo, self._history.redo)

    def redo(self) -> bool:
        """Do again what was taken back; False where there is none."""
        return self._step(self._history.redo, self._history.undo)

    def _step(self, there: Callable[[], bool], back: Callable[[], bool]) -> bool:
        with one_writer(self.folder):
            self._check_own()
            if not there():
                return False
            try:
                write_index(self.folder, self.index)
            except Exception:
                back()
                raise
        self._reopened()
        return True

    def _check_own(self) -> None:
        """Read the book again, and say so, where another program has added to it: its takes must not be lost."""
        there = TakeBook(self.folder).sha256 if (self.folder / INDEX).exists() else None
        if there is not None and there != self._written:
            self.reread()
            file, problem = str(self.folder / INDEX), "was changed by another program meanwhile, and is read again"
            raise InputError(file, problem, "do that once more")

    def reread(self) -> TakeBook:
        """The book as it is on disk now: something else has added to it. What came before cannot be undone."""
        book = self._reopened()
        self._history = History(book.index)
        return book

    def _reopened(self) -> TakeBook:
        self.book = TakeBook(self.folder)
        self._written = self.book.sha256
        return self.book

    def replace(self, old: Take, new: Take, label: str) -> TakeBook:
        """The book with one take changed. Raises ValueError where `old` is not in it, InputError as `change`."""
        takes = list(self.index.takes)
        takes[takes.index(old)] = new
        return self.change(self.index.model_copy(update={"takes": tuple(takes)}), label)


def with_beat(take: Take, seconds: float) -> Take:
    """The take with its beat where a person heard it; `seconds` from the start of its trim, kept within it."""
    return take.replace(beat=min(max(0.0, seconds), take.seconds), beat_confidence=None)


def with_trim(take: Take, begin: float, end: float, file_seconds: float) -> Take:
    """The take trimmed again, its beat where it was in the sound; kept within the file and at least 20 ms long."""
    begin = min(max(0.0, begin), file_seconds - _SHORTEST)
    end = min(max(begin + _SHORTEST, end), file_seconds)
    at = take.trim[0] + take.beat
    return take.replace(trim=(begin, end), beat=min(max(0.0, at - begin), end - begin))


def with_line(take: Take, text: str, language: str) -> Take:
    """The take as a reading of another line, because a person says so."""
    return take.replace(text=text, language=language, confidence=None)


def accepted(take: Take) -> Take:
    """The take as a sure reading of its line, its beat as it stands."""
    return take.replace(confidence=None, beat_confidence=None, aside=False)


def estimated(book: TakeBook, take: Take) -> Take:
    """The take with level and beat found again. Raises InputError as `TakeBook.clip`."""
    mono, rate = book.sound(take)
    begin, end = (round(t * rate) for t in take.trim)
    levelled = take.replace(gain=speech_gain(mono[begin:end], rate))
    clip = book.clip(levelled)
    beat = find_beat(clip.samples, clip.rate)
    return levelled.replace(beat=min(beat.seconds, take.seconds), beat_confidence=round(beat.confidence, 3))
