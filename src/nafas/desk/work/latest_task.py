"""Work on a thread of its own, one piece at a time: what was asked for last is what is done; older work is stopped."""

import contextlib
import threading
from typing import Any

from PySide6.QtCore import QObject, Signal

from nafas.errors import Cancelled, InputError
from nafas.log import logger


class LatestTask(QObject):
    """Subclasses say in `work` what is done for what was asked, on the thread, and take what came of it in `take`.

    Signals:
        failed: why what was asked for last could not be done, for people.
    """

    failed = Signal(str)
    _ended = Signal(object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self.wanted: Any = None
        self._ended.connect(self._end)

    def ask(self, what: Any) -> None:
        """Do this, unless it is done already or being done."""
        if self.wanted == what:
            return
        self.wanted = what
        self._stop.set()
        if self._thread is None:
            self._begin(what)

    def stop(self) -> None:
        """Stop, and wait a little for that; what is in the middle of a long step ends by itself, unheard."""
        self.wanted = None
        self._stop.set()
        if self._thread is not None:
            self._thread.join(timeout=2)

    def work(self, what: Any, stop: threading.Event) -> object:
        """What comes of it; None for nothing. Raises Cancelled when it was stopped."""
        return what

    def take(self, made: Any) -> None:
        """Take what came of what is still wanted."""

    def _begin(self, what: Any) -> None:
        self._stop = threading.Event()
        name = type(self).__name__.lower()
        self._thread = threading.Thread(target=self._run, args=(what, self._stop), name=name, daemon=True)
        self._thread.start()

    def _run(self, what: Any, stop: threading.Event) -> None:
        made: object = None
        try:
            made = self.work(what, stop)
        except Cancelled:
            made = None
        except InputError as error:
            made = error
        except Exception as error:  # a thread's error must reach the person, and the next piece must be done
            logger.exception("%s", type(self).__name__)
            made = error
        with contextlib.suppress(RuntimeError):  # the window may be gone by now
            self._ended.emit(what, made)

    def _end(self, what: Any, made: object) -> None:
        if self._thread is not None:
            self._thread.join()
        self._thread = None
        if self.wanted == what:
            if isinstance(made, Exception):
                self.failed.emit(str(made) if isinstance(made, InputError) else repr(made))
            elif made is not None:
                self.take(made)
        elif self.wanted is not None:
            self._begin(self.wanted)
