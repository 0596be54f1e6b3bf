"""Work in the background of which only the last matters: what was asked for last is done; older work is stopped."""

from typing import Any

from PySide6.QtCore import QObject, Signal

from nafas.desk.work.background import Background, Note, Outcome


class LatestTask(QObject):
    """Subclasses say in `work` what is done for what was asked, on a thread, and take what came of it in `take`.

    Signals:
        failed: why what was asked for last could not be done, for people.
    """

    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.background = Background(type(self).__name__.lower(), self)
        self.background.ended.connect(self._end)
        self.wanted: Any = None
        self._doing: Any = None

    def ask(self, what: Any) -> None:
        """Do this, unless it is done already or being done."""
        if self.wanted is what or self.wanted == what:
            return
        self.wanted = what
        self.background.cancel()
        if not self.background.running:
            self._begin(what)

    def stop(self) -> None:
        """Stop, and wait a little for that; what is in the middle of a long step ends by itself, unheard."""
        self.wanted = None
        self.background.stop(2)

    def work(self, what: Any, note: Note) -> object:
        """What comes of it; None for nothing. Raises Cancelled when it was stopped."""
        return what

    def take(self, made: Any) -> None:
        """Take what came of what is still wanted."""

    def _begin(self, what: Any) -> None:
        self._doing = what
        self.background.run(lambda note: self.work(what, note))

    def _end(self, outcome: Outcome) -> None:
        if self.wanted is self._doing or self.wanted == self._doing:
            if outcome.error is not None:
                self.failed.emit(outcome.words)
            elif outcome.made is not None:
                self.take(outcome.made)
        elif self.wanted is not None:
            self._begin(self.wanted)
