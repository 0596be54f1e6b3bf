"""Undo: a stack of sessions. Since a session is a value, going back is only choosing an earlier one."""

from nafas.script.session import Session

DEPTH = 500


class History:
    """What a document was, is, and can be again.

    Consecutive changes with the same `key` (typing into one field) fold into one step.
    """

    def __init__(self, session: Session) -> None:
        self.session = session
        self._saved: Session | None = session
        self._past: list[tuple[str, Session]] = []
        self._future: list[tuple[str, Session]] = []
        self._key: str | None = None

    def change(self, session: Session, label: str, key: str | None = None) -> bool:
        """Take a new session as the present; False when it is the same as before."""
        if session == self.session:
            return False
        if key is None or key != self._key or not self._past:
            self._past.append((label, self.session))
            del self._past[:-DEPTH]
        self._key = key
        self._future.clear()
        self.session = session
        return True

    def undo(self) -> bool:
        """Step back; False at the beginning."""
        return self._step(self._past, self._future)

    def redo(self) -> bool:
        """Step forward again; False at the end."""
        return self._step(self._future, self._past)

    def _step(self, source: list[tuple[str, Session]], target: list[tuple[str, Session]]) -> bool:
        if not source:
            return False
        label, session = source.pop()
        target.append((label, self.session))
        self.session, self._key = session, None
        return True

    def part(self) -> None:
        """The next change is a step of its own, whatever its key."""
        self._key = None

    @property
    def undo_label(self) -> str | None:
        """What undo would take back, or None."""
        return self._past[-1][0] if self._past else None

    @property
    def redo_label(self) -> str | None:
        return self._future[-1][0] if self._future else None

    def mark_saved(self) -> None:
        """The present session is what stands in the file."""
        self._saved = self.session
        self._key = None

    def mark_unsaved(self) -> None:
        """Nothing in any file is like the present session (it was recovered, or is a copy)."""
        self._saved = None

    @property
    def dirty(self) -> bool:
        """Whether the present differs from the file."""
        return self.session != self._saved
