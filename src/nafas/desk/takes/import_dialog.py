"""Import a recording of the call sheet, or a folder of clips: what to cut up, how far it is, and what was found."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QFormLayout, QHBoxLayout, QLineEdit, QPushButton, QWidget

from nafas.desk.widgets.labels import Label
from nafas.desk.work.background import Note
from nafas.desk.work.work_dialog import WorkDialog
from nafas.voice.call_sheet import Line
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.segmentation.add_takes import add_takes
from nafas.voice.segmentation.clip_folder import ClipFolder, open_source
from nafas.voice.segmentation.labels import read_labels
from nafas.voice.segmentation.segment import Segmentation, segment

_AUDIO = "Recordings (*.wav *.flac *.aif *.aiff *.mp3 *.ogg *.opus)"


@dataclass(frozen=True)
class Imported:
    """What came of it."""

    found: Segmentation
    takes: int


class ImportDialog(WorkDialog):
    """Cuts a recording up on a thread of its own. Signals: done: takes were added to the book."""

    stages: ClassVar = {
        "listening": (0, 30),
        "reading the call sheet": (30, 45),
        "comparing": (45, 80),
        "writing": (80, 100),
    }
    cancelled = "Cancelled. The take book is as it was."
    failed = "Nothing was imported."

    done = Signal(object)

    def __init__(self, lines: Sequence[Line], folder: Path, title: str, parent: QWidget | None = None) -> None:
        super().__init__("Import takes", "Cut it up", parent)
        self.setMinimumWidth(620)
        self._lines, self._folder, self._title = list(lines), folder, title
        self.box.addWidget(Label("Cut up a recording", objectName="heading"))
        about = Label(
            f"Every line of the call sheet ({len(self._lines)}) is looked for by its sound, its length and its order; "
            "what was skipped, coughed or read twice does no harm. The recording itself is never changed.",
            objectName="muted",
        )
        about.setWordWrap(True)
        self.box.addWidget(about)
        form = QFormLayout()
        form.setSpacing(8)
        self.recording, self.labels = QLineEdit(), QLineEdit()
        self.recording.setAccessibleName("Recording or folder of clips")
        self.labels.setAccessibleName("Label file")
        self.labels.setPlaceholderText("none; tab-separated, SRT or VTT")
        file, clips, label = QPushButton("Recording…"), QPushButton("Folder…"), QPushButton("Choose…")
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
        self.run(lambda note: self._work(Path(recording).expanduser(), labels, note))

    def _work(self, path: Path, label_file: str, note: Note) -> Imported:
        labels = read_labels(Path(label_file).expanduser()) if label_file else []
        source = open_source(path)
        clips = isinstance(source, ClipFolder)
        if isinstance(source, ClipFolder) and not labels:
            labels = source.labels(self._lines)
        found = segment(source, self._lines, CachedEngine(Espeak()), labels, note, ordered=not clips)
        return Imported(found, len(add_takes(source, found, self._folder, self._title, note)))

    def ended(self, made: object) -> str:
        """What was found; and the view is told."""
        assert isinstance(made, Imported)
        self.start.setText("Cut up another")
        self.done.emit(made)
        return summary(made)


def summary(made: Imported) -> str:
    """What was found, for people."""
    found = made.found
    lines = [f"{made.takes} takes of {len(found.lines) - len(found.missing)} of {len(found.lines)} lines were added."]
    if found.unsure:
        lines.append(f"{len(found.unsure)} of them are not sure to be their line: they stand first, to be listened to.")
    if found.missing:
        some = ", ".join(f"“{line.text[:30]}”" for line in found.missing[:5])
        more = f" and {len(found.missing) - 5} more" if len(found.missing) > 5 else ""
        lines.append(f"Missing, or not surely found: {some}{more}.")
    if found.unmatched:
        many = len(found.unmatched)
        lines.append(f"{many} sound{'s are' if many > 1 else ' is'} no line: coughs, slips, talk between.")
    lines += [f"{note[:1].upper()}{note[1:]}." for note in found.notes]
    return "\n".join(lines)
