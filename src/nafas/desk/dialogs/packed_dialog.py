"""Open a packed session into a folder of its own, with progress and cancel."""

from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from nafas.desk.widgets.labels import Label
from nafas.desk.work.work_dialog import WorkDialog
from nafas.tasks.pack import UnpackRequest, run


class PackedDialog(WorkDialog):
    """Signals: opened: the script of the session, in its folder."""

    help_place = "deliver"

    opened = Signal(object)

    stages: ClassVar = {"unpacking": (0, 100)}
    failed = "Not opened."

    def __init__(self, path: Path, parent: QWidget | None = None) -> None:
        super().__init__("A packed session", "Open", parent)
        self.setMinimumWidth(520)
        self._path, self.folder = path, _free_folder(path.with_suffix(""))
        self.box.addWidget(Label(path.name, objectName="heading"))
        about = Label(f"It is opened into a folder of its own: {self.folder}", wordWrap=True)
        self.box.addWidget(about)

    def begin(self) -> None:
        path, folder = self._path, self.folder
        self.run(lambda note: run(UnpackRequest(path, folder), note).path)

    def ended(self, made: object) -> str:
        self.opened.emit(made)
        self.accept()
        return ""


def _free_folder(wanted: Path) -> Path:
    free, number = wanted, 2
    while free.exists():
        free, number = wanted.with_name(f"{wanted.name} {number}"), number + 1
    return free
