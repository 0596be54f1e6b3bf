"""A series that is being worked on: its file is written at every change, and a change can be taken back."""

from contextlib import suppress
from os.path import relpath
from pathlib import Path

from nafas.errors import InputError
from nafas.files import file_digest
from nafas.script.file import load_session
from nafas.script.model.session import Session
from nafas.series.plan import Series, load_series, save_series


def begin_series(session: Path, path: Path) -> None:
    """Write a series without variants, of a session's file. Raises InputError."""
    beside = Path(relpath(session.resolve(), path.resolve().parent)).as_posix()
    save_series(Series(session=beside), path)


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
        self.series = load_series(path)
        self.session: Session = load_session(self.folder / self.series.session)
        self._before: list[Series] = []

    @property
    def folder(self) -> Path:
        """Where its relative paths begin."""
        return self.path.parent

    def change(self, series: Series) -> None:
        """Write it otherwise, as one step.

        Raises:
            FileChanged: another program has written the file since; it stays as it is.
            InputError: it cannot be written; the series is as it was.
        """
        before = self.series
        self._write(series)
        self._before.append(before)

    def undo(self) -> bool:
        """Take the last step back; False where there is none. Raises as `change`; the step can be tried again then."""
        if not self._before:
            return False
        self._write(self._before[-1])
        self._before.pop()
        return True

    def _write(self, series: Series) -> None:
        self._digest = save_series(series, self.path, self._digest)
        self.series = series

    def read_session(self) -> None:
        """Read its session again; where it cannot be read it stays the one that was."""
        with suppress(InputError):
            self.session = load_session(self.folder / self.series.session)
