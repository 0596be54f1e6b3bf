"""The Takes view put together: its three parts, the dialogs that fill the take book, and what one tells the others."""

from pathlib import Path

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from nafas.desk.dialogs.folder import ask_folder
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.document import Document
from nafas.desk.takes.fit_side import FitSide
from nafas.desk.takes.import_dialog import ImportDialog
from nafas.desk.takes.reading_dialog import ReadingDialog
from nafas.desk.takes.record_dialog import RecordDialog
from nafas.desk.takes.sheet_list import SheetList
from nafas.desk.takes.shelf import Shelf
from nafas.desk.takes.view import TakesView
from nafas.desk.work.preparation import Preparation
from nafas.desk.work.work_dialog import WorkDialog
from nafas.script.edits.session_edits import change
from nafas.script.model.voice import MOST_SHORTENED
from nafas.suggest.line_remedies import Remedy
from nafas.tasks.import_takes import ImportResult, ListedAgain
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.line_status import places_of
from nafas.voice.recording.booth import Booth
from nafas.voice.takebook.book import Take

_BEFORE, _AFTER = 3.0, 1.5


class TakesRoom(QObject):
    """Signals: said: words for the status line; play: a stretch of the session, from and to in seconds."""

    said = Signal(str)
    play = Signal(float, float)

    def __init__(self, document: Document, preparation: Preparation, window: QWidget) -> None:
        super().__init__(window)
        self.window, self.document, self.preparation = window, document, preparation
        self.shelf = Shelf(document, preparation, self)
        self.list, self.view, self.side = SheetList(), TakesView(self.shelf), FitSide(self.shelf)
        self.dialog: WorkDialog | None = None
        self.recording: RecordDialog | None = None
        self.shelf.changed.connect(self._show)
        self.shelf.said.connect(self.said)
        self.view.said.connect(self.said)
        self.view.next_line.connect(self._next)
        self.view.in_place.connect(self._in_place)
        self.list.chose.connect(self._chose)
        self.list.record.connect(self.record)
        self.list.import_.connect(self.import_)
        self.side.apply.connect(self._apply)
        self.side.record.connect(self.record)
        self.side.shorten_words.connect(self._shorten)
        self.side.begin.connect(self.begin_book)
        self.side.choose.connect(self.choose_book)
        self.side.copy.connect(self.copy_book)
        self.side.unlisted.connect(self.list_again)
        self.list.list.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The bench's keys work from the call sheet too: a hand need not leave the keyboard."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            return self.view.key(event)
        return super().eventFilter(watched, event)

    def refresh(self) -> None:
        """Show the session as it stands now."""
        self.shelf.refresh()

    def _show(self) -> None:
        self.list.show_statuses(self.shelf.statuses)

    def _chose(self, number: int) -> None:
        standing = self.shelf.statuses[number] if 0 <= number < len(self.shelf.statuses) else None
        self.view.show_line(standing)
        self.side.show_line(standing)

    def _next(self) -> None:
        if not self.list.next_urgent():
            self.said.emit("Every line is recorded, fits, and is sure")

    def _in_place(self, take: Take | None) -> None:
        """Play where a take is used; where it is not, where its line first is."""
        cast, standing = self.preparation.cast, self.view.standing
        if cast is None or standing is None:
            return
        places = places_of(standing.line, cast)
        own = [p for p in places if take is not None and p.clip.name == take.file]
        if take is not None and not own and places:
            self.said.emit(f"{take.file} is not cast: {places[0].clip.name} is heard")
        worst = standing.misfit.placement if standing.misfit is not None and not own else None
        chosen = worst or next(iter(own or places), None)
        if chosen is not None:
            self.play.emit(max(0.0, chosen.start / cast.rate - _BEFORE), chosen.end / cast.rate + _AFTER)

    def _apply(self, remedy: Remedy) -> None:
        if remedy.session is not None:
            self.document.edit(remedy.session, remedy.title.split(":")[0].lower())
            self.said.emit(f"{remedy.title}. Ctrl+Z takes it back")

    def _shorten(self, on: bool) -> None:
        session = self.document.session
        voice = session.voice.model_copy(update={"shorten": MOST_SHORTENED if on else 0.0})
        self.document.edit(change(session, voice=voice), "shorten words" if on else "shorten nothing")

    # -- the take book

    def choose_book(self) -> None:
        """Ask for a take book that is there."""
        start = self.shelf.folder or self.document.folder
        name = ask_folder(self.window, "Choose a take book: the folder that holds takes.json", str(start))
        if name and self.shelf.use_book(Path(name)):
            self.said.emit(f"The session speaks with {name}")

    def begin_book(self) -> bool:
        """Begin a new take book: next to the session's file, or where the person says."""
        folder = self._usual_folder()
        if folder is None or folder.exists():
            start = str(self.document.folder)
            name = ask_folder(self.window, "An empty folder for the new take book", start)
            if not name:
                return False
            folder = Path(name)
        return self.shelf.begin_book(folder)

    def _usual_folder(self) -> Path | None:
        path = self.document.path
        return path.with_name(f"{path.stem} takes") if path is not None else None

    def have_book(self) -> bool:
        """Whether there is a take book to write into; the person is asked where it is not so yet."""
        if self.shelf.trouble is not None:
            self.said.emit("The take book is not found: choose it, or begin a new one, on the right")
            return False
        if self.shelf.book is None:
            return self.begin_book()
        return self.copy_book() if self.shelf.kept_as_it_is else True

    def copy_book(self) -> bool:
        """Copy the take book to a folder the person chooses, and go on with the copy."""
        name = ask_folder(self.window, "An empty folder for a copy of the take book", str(self.document.folder))
        return bool(name) and self.shelf.copy_book(Path(name))

    # -- filling it

    def record(self) -> None:
        """Record line by line, beginning with the chosen line."""
        if not self.have_book() or self.shelf.edited is None:
            return
        booth = Booth(self.shelf.lines, self.shelf.edited, CachedEngine(Espeak()))
        index = self.list.place if self.list.place >= 0 else None
        self.recording = RecordDialog(booth, index, self.window)
        self.recording.finished.connect(lambda _: self.shelf.after_recording())
        self.recording.open()

    def import_(self, recording: Path | None = None, labels: Path | None = None) -> None:
        """Cut up a recording, or a folder of clips; named already, or to be chosen."""
        if not self.have_book() or self.shelf.book is None:
            return
        self.dialog = ImportDialog(self.shelf.lines, self.shelf.book.folder, self.document.session.title, self.window)
        self.dialog.imported.connect(self._imported)
        if recording is not None:
            self.dialog.recording.setText(str(recording))
            self.dialog.labels.setText(str(labels or ""))
        self.dialog.open()

    def list_again(self) -> None:
        """Give recordings that no line has their lines again."""
        from nafas.desk.takes.unlisted_dialog import UnlistedDialog

        if self.shelf.book is not None and self.shelf.unlisted:
            paths, lines, folder = self.shelf.unlisted, self.shelf.lines, self.shelf.book.folder
            self.dialog = UnlistedDialog(paths, lines, folder, self.window)
            self.dialog.imported.connect(self.shelf.reread)
            self.dialog.open()

    def _imported(self, made: ImportResult | ListedAgain) -> None:
        self.shelf.reread()
        if isinstance(made, ImportResult) and made.found.unsure:
            self.list.show_filter(2)

    @property
    def busy(self) -> bool:
        return self.dialog is not None and self.dialog.running

    # -- the call sheet on paper and on the screen

    def read(self) -> None:
        """The call sheet in large type."""
        ReadingDialog(self.shelf.lines, self.window).open()

    def save_sheet(self, start: Path) -> None:
        """Ask where, and write the call sheet as PDF, CSV or plain text."""
        kinds = "PDF (*.pdf);;CSV table (*.csv);;Plain text (*.txt)"
        path = ask_save_name(self.window, "Save the call sheet", start, kinds, (".pdf", ".csv", ".txt"))
        if path is not None:
            self.write_sheet(path)

    def write_sheet(self, path: Path) -> None:
        """Write the call sheet; what kind of file, its name says."""
        from nafas.drawing.paper.call_sheet import write_call_sheet
        from nafas.errors import InputError

        try:
            written = write_call_sheet(self.shelf.lines, self.shelf.books, self.document.session.title, path)
            self.said.emit(f"Call sheet saved to {written}")
        except InputError as error:
            self.said.emit(str(error))

    def focus(self) -> None:
        QTimer.singleShot(0, lambda: self.list.list.setFocus(Qt.FocusReason.OtherFocusReason))
