"""The open document: a session with its history, its file, and the recovery copy kept of unsaved work."""

import uuid
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from nafas.errors import InputError
from nafas.script import Session, load_session, save_session
from nafas.script.edit import rebase_assets
from nafas.script.history import History
from nafas.script.keeping import Recovered, forget_recovery, keep_for_recovery, note_recent

AUTOSAVE_MS = 2000


class Document(QObject):
    """One session being edited.

    Signals:
        changed: the session is another one now.
        state_changed: the file, the unsaved mark or the undo labels may have changed.
        opened: another document is there, before its session is shown.
        trouble: something went wrong that the person should read.
    """

    changed = Signal()
    state_changed = Signal()
    trouble = Signal(str)
    opened = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._name = uuid.uuid4().hex
        self._history = History(Session())
        self.path: Path | None = None
        self.folder = Path.cwd()
        self._timer = QTimer(self, singleShot=True, interval=AUTOSAVE_MS)
        self._timer.timeout.connect(self.keep)

    @property
    def session(self) -> Session:
        return self._history.present

    @property
    def dirty(self) -> bool:
        return self._history.dirty

    @property
    def undo_label(self) -> str | None:
        return self._history.undo_label

    @property
    def redo_label(self) -> str | None:
        return self._history.redo_label

    # -- opening and saving

    def _start(self, session: Session, path: Path | None, folder: Path, saved: bool) -> None:
        self._forget()
        self._history = History(session)
        if not saved:
            self._history.mark_unsaved()
        self.path, self.folder = path, folder
        if not saved:
            self._timer.start()
        self.opened.emit()
        self.changed.emit()
        self.state_changed.emit()

    def new(self) -> None:
        """Start an empty session."""
        self._start(Session(), None, Path.cwd(), saved=True)

    def start(self, session: Session) -> None:
        """Start from a session that is no file yet."""
        self._start(session, None, Path.cwd(), saved=False)

    def open(self, path: Path, as_copy: bool = False) -> None:
        """Open a session file. Raises InputError; the document is then as before.

        `as_copy`: the file itself is never written; saving asks for a name.
        """
        path = path.absolute()
        session = load_session(path)
        self._start(session, None if as_copy else path, path.parent, saved=True)
        if not as_copy:
            note_recent(path)

    def restore(self, found: Recovered) -> None:
        """Take up unsaved work again."""
        self._start(found.session, found.path, found.folder, saved=False)
        self.keep()
        found.kept.unlink(missing_ok=True)

    def save(self, path: Path) -> None:
        """Save under a name. Raises InputError; nothing is lost then."""
        path = path.absolute()
        session = rebase_assets(self.session, self.folder, path.parent)
        save_session(session, path)
        if session != self.session:
            self._history.change(session, "save elsewhere")
        self.path, self.folder = path, path.parent
        self._history.mark_saved()
        self._forget()
        note_recent(path)
        self.changed.emit()
        self.state_changed.emit()

    # -- editing

    def edit(self, session: Session, label: str, key: str | None = None) -> None:
        """Make `session` the present; `label` names the step for undo, equal `key`s fold into one step."""
        if self._history.change(session, label, key):
            self._timer.start()
            self.changed.emit()
            self.state_changed.emit()

    def undo(self) -> None:
        if self._history.undo():
            self._after_step()

    def redo(self) -> None:
        if self._history.redo():
            self._after_step()

    def _after_step(self) -> None:
        self._timer.start()
        self.changed.emit()
        self.state_changed.emit()

    def part(self) -> None:
        """End a run of folded changes (the field was left)."""
        self._history.part()

    # -- recovery

    def keep(self) -> None:
        """Write the recovery copy now, if there is unsaved work."""
        self._timer.stop()
        if not self.dirty:
            forget_recovery(self._name)
            return
        try:
            keep_for_recovery(self.session, self.path, self.folder, self._name)
        except InputError as error:
            self.trouble.emit(f"No recovery copy could be kept: {error}")

    def close(self) -> None:
        """The document was saved or given up on purpose."""
        self._forget()

    def _forget(self) -> None:
        self._timer.stop()
        forget_recovery(self._name)
