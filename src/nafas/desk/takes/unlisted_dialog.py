"""Recordings in the take book's folder that no line has: given their lines again where they lie."""

from collections.abc import Sequence
from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from nafas.desk.takes.import_dialog import summary
from nafas.desk.widgets.labels import Label
from nafas.desk.work.work_dialog import WorkDialog
from nafas.tasks.import_takes import ImportRequest, ListedAgain, run
from nafas.voice.call_sheet import Line


class UnlistedDialog(WorkDialog):
    """Holds them against the call sheet on a thread of its own. Signals: imported: takes were added to the book."""

    stages: ClassVar = {"listening": (0, 0.3), "reading the call sheet": (0.3, 0.6), "comparing": (0.6, 1)}
    cancelled = "Cancelled. The take book is as it was."
    failed = "Nothing was changed."

    imported = Signal()

    def __init__(
        self, paths: Sequence[Path], lines: Sequence[Line], folder: Path, parent: QWidget | None = None
    ) -> None:
        super().__init__("Recordings without a line", "Find their lines", parent)
        self.setMinimumWidth(560)
        self._lines, self._folder = list(lines), folder
        number = len(paths)
        heading = f"{number} recording{'s' * (number > 1)} without a line"
        self.box.addWidget(Label(heading, objectName="heading"))
        about = Label(
            "These files are in the take book's folder, but not in its index: an import stopped half-way, or somebody "
            "put them there. Nafas compares each with the call sheet, by name and sound, and adds it as a take. No "
            "file is changed or moved.",
            objectName="muted",
            wordWrap=True,
        )
        self.box.addWidget(about)
        some = ", ".join(path.name for path in paths[:12]) + (f" and {number - 12} more" if number > 12 else "")
        names = Label(some, wordWrap=True)
        self.box.addWidget(names)

    def begin(self) -> None:
        """Start looking for their lines."""
        request = ImportRequest(self._folder, self._lines, self._folder, "")
        self.run(lambda note: run(request, note))

    def ended(self, made: object) -> str:
        """What became of them; and the view is told."""
        assert isinstance(made, ListedAgain)
        self.start.setEnabled(False)
        self.imported.emit()
        return summary(made.lines())
