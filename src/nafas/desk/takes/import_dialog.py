"""Import a recording of the call sheet, or a folder of clips: what to cut up, how far it is, and what was found."""

from collections.abc import Sequence
from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QFormLayout, QHBoxLayout, QLineEdit, QWidget

from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.labels import Label
from nafas.desk.work.work_dialog import WorkDialog
from nafas.tasks.import_takes import STAGES, ImportRequest, ImportResult, ListedAgain, run
from nafas.voice.call_sheet import Line

_SHOWN = 8  # lines
_AUDIO = "Recordings (*.wav *.flac *.aif *.aiff *.mp3 *.ogg *.opus *.m4a *.mp4)"


class ImportDialog(WorkDialog):
    """Cuts a recording up on a thread of its own. Signals: imported: takes were added to the book."""

    help_place = "takes#Cutting up without labels"

    stages: ClassVar = STAGES
    cancelled = "Cancelled. The take book is as it was."
    failed = "Nothing was imported."

    imported = Signal(object)

    def __init__(self, lines: Sequence[Line], folder: Path, title: str, parent: QWidget | None = None) -> None:
        super().__init__("Import takes", "Cut into takes", parent)
        self.setMinimumWidth(620)
        self._lines, self._folder, self._title = list(lines), folder, title
        self.box.addWidget(Label("Cut up a recording", objectName="heading"))
        about = Label(
            f"Nafas finds every line of the call sheet ({len(self._lines)}) by its sound, length and order. "
            "Skipped lines, coughs and second tries do no harm. The recording itself is never changed.",
            objectName="muted",
            wordWrap=True,
        )
        self.box.addWidget(about)
        form = QFormLayout()
        form.setSpacing(8)
        self.recording, self.labels = QLineEdit(), QLineEdit()
        self.recording.setAccessibleName("Recording or folder of clips")
        self.labels.setAccessibleName("Label file")
        self.labels.setPlaceholderText("none; tab-separated, SRT or VTT")
        file, clips, label = Button("Recording…"), Button("Folder…"), Button("Choose…")
        file.clicked.connect(self._choose_file)
        clips.clicked.connect(self._choose_folder)
        label.clicked.connect(self._choose_labels)
        for name, line, buttons in (("From", self.recording, (file, clips)), ("Labels", self.labels, (label,))):
            row = QHBoxLayout()
            row.addWidget(line, 1)
            for button in buttons:
                button.setAutoDefault(False)
                row.addWidget(button)
            form.addRow(name, row)
        self.box.addLayout(form)
        self.box.addWidget(Label(f"Into the take book {folder}", objectName="muted"))

    def _choose_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A recording of the call sheet", self.recording.text(), _AUDIO)
        if name:
            self.recording.setText(name)

    def _choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "A folder of clips", self.recording.text())
        if name:
            self.recording.setText(name)

    def _choose_labels(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Labels", self.recording.text(), "Labels (*.txt *.tsv *.srt *.vtt)")
        if name:
            self.labels.setText(name)

    def begin(self) -> None:
        """Start cutting up what is named."""
        recording, labels = self.recording.text().strip(), self.labels.text().strip()
        if not recording:
            self.tell("Choose a recording, or a folder of clips, first.", fault=True)
            return
        paths = (Path(recording).expanduser(), self._lines, self._folder, self._title)
        request = ImportRequest(*paths, Path(labels).expanduser() if labels else None)
        self.run(lambda note: run(request, note))

    def ended(self, made: object) -> str:
        """What was found; and the view is told."""
        assert isinstance(made, ImportResult | ListedAgain)
        self.start.setText("Cut up another")
        self.imported.emit(made)
        return summary(made.lines())


def summary(lines: list[str]) -> str:
    """The first lines of what was found, for a dialog: the view lists all of it."""
    more = f"\n  and {len(lines) - _SHOWN} more" if len(lines) > _SHOWN else ""
    return "\n".join(lines[:_SHOWN]) + more
