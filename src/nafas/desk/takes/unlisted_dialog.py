"""Recordings in the take book's folder that no line has: given their lines again where they lie."""

from collections.abc import Sequence
from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from nafas.desk.widgets.labels import Label
from nafas.desk.work.work_dialog import WorkDialog
from nafas.voice.call_sheet import Line
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.segmentation.unlisted import list_again
from nafas.voice.takebook.book import Take


class UnlistedDialog(WorkDialog):
    """Holds them against the call sheet on a thread of its own. Signals: done: takes were added to the book."""

    stages: ClassVar = {"listening": (0, 30), "reading the call sheet": (30, 60), "comparing": (60, 100)}
    cancelled = "Cancelled. The take book is as it was."
    failed = "Nothing was changed."

    done = Signal()

    def __init__(
        self, paths: Sequence[Path], lines: Sequence[Line], folder: Path, parent: QWidget | None = None
    ) -> None:
        super().__init__("Recordings without a line", "Find their lines", parent)
        self.setMinimumWidth(560)
        self._lines, self._folder = list(lines), folder
        many = len(paths)
        heading = f"{many} recording{'s' * (many > 1)} without a line"
        self.box.addWidget(Label(heading, objectName="heading"))
        about = Label(
            "They lie in the take book's folder, and its index does not name them: an import was ended half-way, or "
            "they were put there by hand. Each is held against the call sheet by its name and its sound and becomes a "
            "take where it lies. No file is changed or moved.",
            objectName="muted",
        )
        about.setWordWrap(True)
        self.box.addWidget(about)
        some = ", ".join(path.name for path in paths[:12]) + (f" and {many - 12} more" if many > 12 else "")
        names = Label(some)
        names.setWordWrap(True)
        self.box.addWidget(names)

    def begin(self) -> None:
        """Start looking for their lines."""
        self.run(lambda note: list_again(self._folder, self._lines, CachedEngine(Espeak()), note))

    def ended(self, made: object) -> str:
        """What became of them; and the view is told."""
        takes: list[Take]
        left: list[Path]
        takes, left = made  # type: ignore[misc]
        self.start.setEnabled(False)
        self.done.emit()
        unsure = sum(not take.sure for take in takes)
        words = [f"{len(takes)} have a line again."]
        words += [f"{unsure} of them are not sure: they stand first, to be listened to."] if unsure else []
        if left:
            names = ", ".join(path.name for path in left[:8]) + (" and others" if len(left) > 8 else "")
            words.append(f"On no line of this call sheet: {names}. They stay where they are.")
        return " ".join(words)
