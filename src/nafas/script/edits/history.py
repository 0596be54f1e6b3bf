"""Undo: a stack of values. A session, or a take book's index, is a value: going back is choosing an earlier one."""

from collections.abc import Callable
from typing import Generic, TypeVar

T = TypeVar("T")

DEPTH = 500


class History(Generic[T]):
    """What a document was, is, and can be again.

    Consecutive changes with the same `key` (typing into one field) fold into one step.
    """

    def __init__(self, present: T) -> None:
        self.present = present
        self._saved: T | None = present
        self._past: list[tuple[str, T]] = []
        self._future: list[tuple[str, T]] = []
        self._key: str | None = None

    def change(self, new: T, label: str, key: str | None = None) -> bool:
        """Take a new value as the present; False when it is the same as before."""
        if new == self.present:
            return False
        if key is None or key != self._key or not self._past:
            self._past.append((label, self.present))
            del self._past[:-DEPTH]
        self._key = key
        self._future.clear()
        self.present = new
        return True

    def undo(self, steps: int = 1) -> bool:
        """Go back; False at the beginning."""
        return sum(self._step(self._past, self._future) for _ in range(steps)) > 0

    @property
    def steps(self) -> list[str]:
        """What can be taken back, the last first."""
        return [label for label, _ in reversed(self._past)]

    def redo(self) -> bool:
        """Step forward again; False at the end."""
        return self._step(self._future, self._past)

    def _step(self, source: list[tuple[str, T]], target: list[tuple[str, T]]) -> bool:
        if not source:
            return False
        label, value = source.pop()
        target.append((label, self.present))
        self.present, self._key = value, None
        return True

    def rewrite(self, change: Callable[[T], T]) -> None:
        """Change the present and every value it may go back or forward to: what is not taken back by undo."""
        self.present = change(self.present)
        self._past = [(label, change(value)) for label, value in self._past]
        self._future = [(label, change(value)) for label, value in self._future]

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
        """The present value is what stands in the file."""
        self._saved = self.present
        self._key = None

    def mark_unsaved(self) -> None:
        """Nothing in any file is like the present (it was recovered, or is a copy)."""
        self._saved = None

    @property
    def dirty(self) -> bool:
        """Whether the present differs from the file."""
        return self.present != self._saved
