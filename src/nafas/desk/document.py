"""The open document: a session with its history, its file, and the recovery copy kept of unsaved work."""

import contextlib
import uuid
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from nafas.desk import preferences
from nafas.errors import InputError
from nafas.files import file_digest
from nafas.script import Session, save_session
from nafas.script.edits.history import History
from nafas.script.edits.session_edits import rebase_assets
from nafas.script.file import load_with_digest
from nafas.script.model.marks import MARKS, Mark
from nafas.state.permissions import permit_readable
from nafas.state.recent_files import note_recent
from nafas.state.recovery import Recovered, forget_recovery, keep_for_recovery

AUTOSAVE_MS = 2000
"""From the first change that is not kept yet to its recovery copy. It does not begin again at every further change: at
most five seconds of work are ever at stake, the pause of a text field included."""
_UNKNOWN = "unknown"  # no file has this sum: saving over any asks first
_WRITTEN_MS = 300  # a program that writes a file again does so in several steps


class Document(QObject):
    """One session being edited.

    Signals:
        changed: the session is another one now.
        marked: the marks of its rehearsals are others.
        state_changed: the file, the unsaved mark or the undo labels may have changed.
        opened: another document is there, before its session is shown.
        trouble: something went wrong that the person should read.
        not_kept: a recovery copy could not be written: words for the person.
        changed_outside: another program has written the session's file, or taken it away: words for the person.
    """

    changed = Signal()
    marked = Signal()
    state_changed = Signal()
    trouble = Signal(str)
    opened = Signal()
    changed_outside = Signal(str)
    not_kept = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._name = uuid.uuid4().hex
        self._history = History(Session())
        self.path: Path | None = None
        self.folder = Path.cwd()
        self._timer = QTimer(self, singleShot=True, interval=AUTOSAVE_MS)
        self._timer.timeout.connect(self.keep)
        self._digest: str | None = None
        """Of the file as this document knows it: "" for none; None where there is no telling."""
        self._taken_up: Path | None = None
        """The recovery copy that was taken up, as long as it is the only one."""
        self._keeper = ThreadPoolExecutor(1, "keep")
        self._watcher = QFileSystemWatcher(self)
        self._written = QTimer(self, singleShot=True, interval=_WRITTEN_MS)
        self._watcher.fileChanged.connect(lambda _: self._written.start())
        self._watcher.directoryChanged.connect(lambda _: self._written.start())
        self._written.timeout.connect(self.look_at_file)
        self._told = ""

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

    def _start(self, session: Session, path: Path | None, folder: Path, saved: bool, known: str | None = None) -> None:
        self._forget()
        self._history = History(session)
        if not saved:
            self._history.mark_unsaved()
        self._taken_up = None
        self._set_file(path, folder, known)
        if not saved:
            self._timer.start()
        self.opened.emit()
        self.changed.emit()
        self.state_changed.emit()

    def _set_file(self, path: Path | None, folder: Path, known: str | None) -> None:
        self.path, self.folder, self._digest, self._told = path, folder, known, ""
        self._watch()

    def new(self) -> None:
        """Start an empty session."""
        self._start(Session(language=preferences.new_language()), None, Path.cwd(), saved=True)

    def start(self, session: Session, folder: Path | None = None) -> None:
        """Start from a session that is no file yet; `folder` is where its relative paths begin."""
        self._start(session, None, folder or Path.cwd(), saved=False)

    def open(
        self, path: Path, as_copy: bool = False, before: Callable[[Session, Path], None] = lambda session, folder: None
    ) -> None:
        """Open a session file. Raises InputError; the document is then as before.

        Args:
            as_copy: the file itself is never written; saving asks for a name.
            before: told of the session and its folder before anything it names is read.
        """
        path = path.absolute()
        session, known = load_with_digest(path)
        before(session, path.parent)
        self._start(session, None if as_copy else path, path.parent, saved=True, known=known)
        if not as_copy:
            note_recent(path)

    def restore(self, work: Recovered) -> None:
        """Take up unsaved work again. Its copy goes once there is another: on a full disk it stays."""
        known = None if work.path is None else work.base or _UNKNOWN
        self._start(work.session, work.path, work.folder, saved=False, known=known)
        self._taken_up = work.kept
        self.keep()

    def save(self, path: Path, over: bool = False) -> None:
        """Save under a name; nothing is lost where that fails.

        Args:
            over: whatever stands in the file is replaced; else only what this document last read or wrote there, or
                what a file dialog has asked about.

        Raises:
            FileChanged: another program has written the open session's file.
            InputError: it cannot be written.
        """
        path = path.absolute()
        session = rebase_assets(self.session, self.folder, path.parent)
        expected = self._digest if path == self.path and not over and path.exists() else None
        known = save_session(session, path, expected)
        if session != self.session:
            permit_readable(self.session, self.folder)
            self._history.change(session, "save elsewhere")
        self._set_file(path, path.parent, known)
        self._history.mark_saved()
        self._forget()
        note_recent(path)
        self.changed.emit()
        self.state_changed.emit()

    def on_disk(self) -> Session | None:
        """The session that stands in the file now; None without one. Raises InputError for what cannot be read."""
        return load_with_digest(self.path)[0] if self.path is not None and self.path.exists() else None

    def take_theirs(self) -> None:
        """Take what stands in the file now as a step that can be undone. Raises InputError."""
        assert self.path is not None
        session, known = load_with_digest(self.path)
        self._set_file(self.path, self.folder, known)
        self._history.change(session, "take the file's version")
        self._history.mark_saved()
        self._forget()
        self.changed.emit()
        self.state_changed.emit()

    # -- the file, while other programs may write it

    def _watch(self) -> None:
        """Watch the file and, since a file is renamed over rather than written, its folder."""
        old = [*self._watcher.files(), *self._watcher.directories()]
        if old:
            self._watcher.removePaths(old)
        if self.path is not None:
            self._watcher.addPaths([str(p) for p in (self.path, self.path.parent) if p.exists()])

    def look_at_file(self) -> None:
        """See whether another program has written the file, and tell it once."""
        if self.path is None or self._digest is None:
            return
        if str(self.path) not in self._watcher.files() and self.path.exists():
            self._watcher.addPath(str(self.path))
        try:
            now = file_digest(self.path)
        except InputError:
            return
        if now in (self._digest, self._told):
            self._told = self._told if now == self._told else ""
            return
        self._told = now
        if now:
            self.changed_outside.emit(f"Another program has changed {self.path.name}. Nothing is overwritten unasked.")
        else:
            self.changed_outside.emit(f"{self.path.name} was moved or removed meanwhile; saving writes it again.")

    # -- editing

    def edit(self, session: Session, label: str, key: str | None = None) -> None:
        """Make `session` the present; `label` names the step for undo, equal `key`s fold into one step."""
        if self._history.change(session, label, key):
            self._keep_soon()
            self.changed.emit()
            self.state_changed.emit()

    def mark(self, marks: tuple[Mark, ...]) -> None:
        """Keep the marks of rehearsals: no step of its own, and nothing that undo takes back."""
        kept = MARKS.validate_python(marks)
        if kept != self.session.marks:
            self._history.rewrite(lambda session: session.model_copy(update={"marks": kept}))
            self._keep_soon()
            self.marked.emit()
            self.state_changed.emit()

    @property
    def steps(self) -> list[str]:
        """What can be taken back, the last first."""
        return self._history.steps

    def undo(self, steps: int = 1) -> None:
        if self._history.undo(steps):
            self._after_step()

    def redo(self) -> None:
        if self._history.redo():
            self._after_step()

    def _after_step(self) -> None:
        self._keep_soon()
        self.changed.emit()
        self.state_changed.emit()

    def part(self) -> None:
        """End a run of folded changes (the field was left)."""
        self._history.part()

    # -- recovery

    def _keep_soon(self) -> None:
        if not self._timer.isActive():
            self._timer.start()

    def keep(self) -> None:
        """Write the recovery copy now, if there is unsaved work; on a thread of its own, one after another."""
        self._timer.stop()
        if not self.dirty:
            self._forget()
            return
        state = (self.session, self.path, self.folder, self._name, self._digest)
        self._later(self._write_copy, state, self._taken_up)

    def _write_copy(self, state: tuple[Session, Path | None, Path, str, str | None], before: Path | None) -> None:
        try:
            keep_for_recovery(*state)
        except InputError as error:
            self.not_kept.emit(f"No recovery copy could be kept: {error}")
            return
        if before is not None:
            before.unlink(missing_ok=True)
            self._taken_up = None if self._taken_up == before else self._taken_up

    def kept(self) -> "Future[None]":
        """Done when all copies asked for until now are written."""
        return self._keeper.submit(lambda: None)

    def _later(self, work: Callable[..., None], *given: object) -> None:
        with contextlib.suppress(RuntimeError):  # the document is closed
            self._keeper.submit(work, *given)

    def close(self) -> None:
        """The document was saved or given up on purpose."""
        self._forget()
        self._keeper.shutdown()

    def _forget(self) -> None:
        self._timer.stop()
        name, before = self._name, self._taken_up
        self._taken_up = None

        def forget() -> None:
            forget_recovery(name)
            if before is not None:
                before.unlink(missing_ok=True)

        self._later(forget)
