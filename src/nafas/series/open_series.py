"""A series that is being worked on: its file is written at every change, and a change can be taken back."""

from contextlib import suppress
from os.path import relpath
from pathlib import Path

from nafas.errors import InputError
from nafas.files import file_digest, real_path
from nafas.script.edits.history import History
from nafas.script.file import load_session
from nafas.script.model.session import Session
from nafas.series.plan import Series, load_series, save_series


def begin_series(session: Path, path: Path) -> None:
    """Write a series without variants, of a session's file. Raises InputError."""
    session_path = Path(relpath(real_path(session), real_path(path).parent)).as_posix()
    save_series(Series(session=session_path), path)


class OpenSeries:
    """A series and its file.

    Attributes:
        path: of the file.
        series: as it stands in it.
        session: that it is of, as it was read last.

    Raises:
        InputError: it, or its session, cannot be read.
    """

    def __init__(self, path: Path) -> None:
        self.path, self._digest = path, file_digest(path)
        self._history = History(load_series(path))
        self.session: Session = load_session(self.folder / self.series.session)

    @property
    def series(self) -> Series:
        return self._history.present

    @property
    def folder(self) -> Path:
        """Where its relative paths begin."""
        return self.path.parent

    def change(self, series: Series) -> None:
        """Write it changed, as one step.

        Raises:
            FileChanged: another program has written the file since; it stays as it is.
            InputError: it cannot be written; the series is as it was.
        """
        self._digest = save_series(series, self.path, self._digest)
        self._history.change(series, "change the series")

    def undo(self) -> bool:
        """Take the last step back; False where there is none. Raises as `change`; the step can be tried again then."""
        if not self._history.undo():
            return False
        try:
            self._digest = save_series(self.series, self.path, self._digest)
        except InputError:
            self._history.redo()
            raise
        return True

    def read_session(self) -> None:
        """Read its session again; where it cannot be read it stays the one that was."""
        with suppress(InputError):
            self.session = load_session(self.folder / self.series.session)
