"""The one way in which the window does anything long: on a thread, one piece at a time, with progress and cancel."""

import contextlib
import threading
from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from nafas.errors import Cancelled, InputError
from nafas.log import logger


class Note:
    """What a piece of work is handed: called with a stage and 0.0 to 1.0, it raises Cancelled where the work is to
    stop."""

    def __init__(self, cancel: threading.Event, tell: Callable[[str, float], None]) -> None:
        self._cancel, self._tell = cancel, tell

    def __call__(self, stage: str, done: float) -> None:
        if self._cancel.is_set():
            raise Cancelled
        with contextlib.suppress(RuntimeError):  # the window may be gone by now
            self._tell(stage, done)

    def stopped(self) -> bool:
        """Whether the work is to stop."""
        return self._cancel.is_set()


@dataclass(frozen=True)
class Outcome:
    """What came of a piece of work.

    Attributes:
        made: what it gave; None where it did not come to its end.
        error: what went wrong: an InputError is for the person as it stands, any other is in the log with its
            traceback; None when all is well, and when it was cancelled.
        cancelled: it was stopped.
    """

    made: object = None
    error: Exception | None = None
    cancelled: bool = False

    @property
    def words(self) -> str:
        """The error in words; "" for none."""
        if self.error is None:
            return ""
        return str(self.error) if isinstance(self.error, InputError) else repr(self.error)


class Background(QObject):
    """Does one piece of work at a time.

    Signals:
        progress: a stage and 0.0 to 1.0.
        ended: the `Outcome`, in the window's thread, when nothing runs any more.
    """

    progress = Signal(str, float)
    ended = Signal(object)
    _done = Signal(object)

    def __init__(self, name: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._name = name
        self._cancel = threading.Event()
        self._thread: threading.Thread | None = None
        self._done.connect(self._end)

    @property
    def running(self) -> bool:
        """From `run` until `ended`."""
        return self._thread is not None

    def run(self, work: Callable[[Note], object]) -> None:
        """Do `work`, which is handed what notes progress. Only while nothing runs."""
        if self.running:
            raise RuntimeError(f"{self._name} is at work already")
        self._cancel = threading.Event()
        arguments = (work, self._cancel)
        self._thread = threading.Thread(target=self._run, args=arguments, name=self._name, daemon=True)
        self._thread.start()

    def cancel(self) -> None:
        """Stop at the next note of progress."""
        self._cancel.set()

    def stop(self, seconds: float) -> None:
        """Cancel, and wait at most so long; what is in a long step ends by itself, unheard."""
        self.cancel()
        if self._thread is not None:
            self._thread.join(timeout=seconds)

    def _run(self, work: Callable[[Note], object], cancel: threading.Event) -> None:
        try:
            outcome = Outcome(work(Note(cancel, self.progress.emit)))
        except Cancelled:
            outcome = Outcome(cancelled=True)
        except InputError as error:
            outcome = Outcome(error=error)
        except Exception as error:  # it must reach the person, and the next piece must be done
            logger.exception("%s", self._name)
            outcome = Outcome(error=error)
        with contextlib.suppress(RuntimeError):
            self._done.emit(outcome)

    def _end(self, outcome: Outcome) -> None:
        if self._thread is not None:
            self._thread.join()
        self._thread = None
        self.ended.emit(outcome)
