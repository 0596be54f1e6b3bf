"""The take book of the open session, and where each line of its call sheet stands: what the Takes view works on."""

import os
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

import nafas
from nafas.desk.document import Document
from nafas.desk.work.preparation import Preparation
from nafas.errors import InputError
from nafas.script.edits.session_edits import block_name, change
from nafas.script.model.assets import Asset
from nafas.state.permissions import asset_path, permit
from nafas.suggest.line_remedies import Remedy, remedies
from nafas.voice.call_sheet import Line, call_sheet, own_book
from nafas.voice.clip import Clip
from nafas.voice.line_status import LineStatus, line_statuses
from nafas.voice.segmentation.unlisted import unlisted
from nafas.voice.takebook.book import Take, TakeBook, TakeIndex
from nafas.voice.takebook.editor import TakeBookEditor
from nafas.voice.takebook.writing import copy_book

_SHIPPED = Path(nafas.__file__).resolve().parent


class Shelf(QObject):
    """Signals: changed: lines, takes or the book are others; said: words for the status line."""

    changed = Signal()
    said = Signal(str)

    def __init__(self, document: Document, preparation: Preparation, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document, self.preparation = document, preparation
        self.edited: TakeBookEditor | None = None
        self.trouble: InputError | None = None
        self.statuses: list[LineStatus] = []
        self._open: Path | None = None
        self.chosen = ""
        """Which take book is worked on, as `Line.book` has it: "" the session's, else one of a block's own."""

    # -- what there is

    @property
    def book(self) -> TakeBook | None:
        return self.edited.book if self.edited else None

    @property
    def unlisted(self) -> list[Path]:
        """Recordings in the book's folder that its index does not name."""
        return unlisted(self.book) if self.book is not None else []

    @property
    def folder(self) -> Path | None:
        """The folder of the chosen take book, whether it is there or not."""
        asset = self._asset
        return None if asset is None else Path(os.path.normpath(self.document.folder / asset.path))

    @property
    def _asset(self) -> Asset | None:
        session = self.document.session
        if not self.chosen:
            return session.voice.take_book
        return next((block.take_book for block in session.blocks if own_book(session, block) == self.chosen), None)

    @property
    def choices(self) -> dict[str, str]:
        """What each take book of the session is called, the session's own first."""
        session = self.document.session
        named: dict[str, list[str]] = {}
        for block in session.blocks:
            if book := own_book(session, block):
                named.setdefault(book, []).append(block_name(block))
        return {"": "The session's"} | {book: f"{Path(book).name}, of {names[0]}" for book, names in named.items()}

    @property
    def books(self) -> dict[str, TakeBook | None]:
        """The chosen take book by its name."""
        return {self.chosen: self.book}

    def choose(self, book: str) -> None:
        """Work on another of the session's take books."""
        self.chosen = book
        self.refresh()

    @property
    def lines(self) -> list[Line]:
        return [standing.line for standing in self.statuses]

    def refresh(self) -> None:
        """Take up the session as it stands now."""
        if self.chosen not in self.choices:
            self.chosen = ""
        folder, asset = self.folder, self._asset
        if folder != self._open or (self.trouble is not None and folder is not None):
            self._open, self.edited, self.trouble = folder, None, None
            if folder is not None and asset is not None:
                try:
                    asset_path(asset, self.document.folder)
                    TakeBook(folder)  # an empty place is no take book here: it was moved, or never made
                    self.edited = TakeBookEditor(folder)
                except InputError as error:
                    self.trouble = error
        timeline = self.preparation.timeline
        cast = self.preparation.cast if self.preparation.fresh else None
        lines = [line for line in call_sheet([timeline]) if line.book == self.chosen] if timeline is not None else []
        self.statuses = line_statuses(lines, self.book, cast)
        self.changed.emit()

    def takes(self, line: Line) -> tuple[Take, ...]:
        """Every take of a line: those that may be cast first, doubtful ones before all."""
        if self.book is None:
            return ()
        return tuple(sorted(self.book.every_take(line.text, line.language), key=lambda take: (take.aside, take.sure)))

    def clip(self, take: Take) -> Clip | None:
        """A take as it is heard; None, and said why, where it cannot be read."""
        try:
            return self.book.clip(take) if self.book else None
        except InputError as error:
            self.said.emit(str(error))
            return None

    def remedies(self, standing: LineStatus) -> list[Remedy]:
        """What can be done about a line that does not fit; [] while the session is still being prepared."""
        cast, narrator = self.preparation.cast, self.preparation.narrator
        if standing.misfit is None or cast is None or narrator is None or not self.preparation.fresh:
            return []
        return remedies(cast, standing.misfit, narrator)

    # -- what can be done

    def use_book(self, folder: Path) -> bool:
        """Speak with a take book that is there in place of the chosen one. False, and said why, where it cannot."""
        try:
            TakeBook(folder)
        except InputError as error:
            self.said.emit(str(error))
            return False
        self._name_book(folder, "choose a take book")
        return True

    def begin_book(self, folder: Path) -> bool:
        """Begin a new take book in an empty or a new folder."""
        try:
            tended = TakeBookEditor(folder, self.document.session.title)
            folder.mkdir(parents=True, exist_ok=True)
            tended.change(tended.index, "begin")
        except (InputError, OSError) as error:
            self.said.emit(str(error))
            return False
        self._name_book(folder, "begin a take book")
        return True

    def copy_book(self, folder: Path) -> bool:
        """Copy the chosen take book elsewhere, and speak with the copy."""
        if self.book is None:
            return False
        try:
            copy_book(self.book, folder)
        except InputError as error:
            self.said.emit(str(error))
            return False
        self._name_book(folder, "copy the take book")
        return True

    @property
    def kept_as_it_is(self) -> bool:
        """Whether the take book may not be changed: it is the demo's, or its folder cannot be written."""
        folder = self.book.folder.resolve() if self.book else None
        return folder is not None and (folder.is_relative_to(_SHIPPED) or not os.access(folder, os.W_OK))

    def _name_book(self, folder: Path, label: str) -> None:
        document = self.document
        relative = os.path.relpath(folder.resolve(), document.folder.resolve())
        permit([folder])
        asset, session = Asset(path=Path(relative).as_posix()), document.session
        if self.chosen:
            blocks = [
                block.replace(take_book=asset) if own_book(session, block) == self.chosen else block
                for block in session.blocks
            ]
            session, self.chosen = change(session, blocks=tuple(blocks)), asset.path
        else:
            session = change(session, voice=session.voice.model_copy(update={"take_book": asset}))
        self._open = None
        document.edit(session, label)
        self.refresh()

    def replace(self, old: Take, new: Take, label: str) -> bool:
        """Change one take; False, and said why, where that cannot be."""
        if self.edited is None:
            return False
        tended = self.edited
        return old == new or self._do(lambda: tended.replace(old, new, label))

    def change_index(self, index: TakeIndex, label: str) -> None:
        """Change something of the whole book."""
        if self.edited is not None:
            tended = self.edited
            self._do(lambda: tended.change(index, label))

    def undo(self) -> bool:
        """Take back the last change of the take book; False where there is none."""
        return self.edited is not None and self.edited.undo_label is not None and self._do(self.edited.undo)

    def redo(self) -> bool:
        return self.edited is not None and self.edited.redo_label is not None and self._do(self.edited.redo)

    def reread(self) -> None:
        """The book on disk has changed: something was imported or recorded."""
        if self.edited is not None:
            self._do(self.edited.reread)

    def after_recording(self) -> None:
        """Takes were recorded into the book that is open."""
        self._do(lambda: None)

    def _do(self, work: Callable[[], object]) -> bool:
        if self.kept_as_it_is:
            self.said.emit("This take book stays as it is: Copy to… on the right makes one of your own to change")
            return False
        try:
            work()
        except InputError as error:
            self.said.emit(str(error))
            self.refresh()  # another program may have changed the book
            return False
        self.preparation.reread_voice(self.document.session)
        self.refresh()
        return True
