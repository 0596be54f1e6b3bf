"""Import a recording of the call sheet, or a folder of clips: what to cut up, how far it is, and what was found."""

import threading
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nafas.errors import Cancelled, InputError
from nafas.voice.cache import CachedEngine
from nafas.voice.callsheet import Line
from nafas.voice.clip_folder import ClipFolder, open_source
from nafas.voice.cutting import CutUp, cut_up
from nafas.voice.espeak import Espeak
from nafas.voice.labels import read_labels
from nafas.voice.shelving import shelve

_AUDIO = "Recordings (*.wav *.flac *.aif *.aiff *.mp3 *.ogg *.opus)"
_STAGES = {"listening": (0, 30), "reading the call sheet": (30, 45), "comparing": (45, 80), "writing": (80, 100)}


@dataclass(frozen=True)
class Imported:
    """What came of it."""

    found: CutUp
    takes: int


class ImportDialog(QDialog):
    """Cuts a recording up on a thread of its own. Signals: done: takes were added to the book."""

    done = Signal(object)
    _progress = Signal(str, float)
    _ended = Signal(object)

    def __init__(self, lines: Sequence[Line], folder: Path, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Import takes")
        self.setMinimumWidth(620)
        self._lines, self._folder, self._title = list(lines), folder, title
        self._cancel = threading.Event()
        self._thread: threading.Thread | None = None
        self._progress.connect(self._show_progress)
        self._ended.connect(self._show_end)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(10)
        box.addWidget(QLabel("Cut up a recording", objectName="heading"))
        about = QLabel(
            f"Every line of the call sheet ({len(self._lines)}) is looked for by its sound, its length and its order; "
            "what was skipped, coughed or read twice does no harm. The recording itself is never changed.",
            objectName="muted",
        )
        about.setWordWrap(True)
        box.addWidget(about)
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
        box.addLayout(form)
        box.addWidget(QLabel(f"Into the take book {folder}", objectName="muted"))
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.hide()
        box.addWidget(self.bar)
        self.result = QLabel()
        self.result.setWordWrap(True)
        self.result.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.result.hide()
        box.addWidget(self.result)
        foot = QHBoxLayout()
        foot.addStretch(1)
        self.close_button, self.start = QPushButton("Close"), QPushButton("Cut it up", objectName="primary")
        self.close_button.setAutoDefault(False)
        self.close_button.clicked.connect(self.reject)
        self.start.setDefault(True)
        self.start.clicked.connect(self.begin)
        foot.addWidget(self.close_button)
        foot.addWidget(self.start)
        box.addLayout(foot)

    @property
    def running(self) -> bool:
        return self._thread is not None

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
        if self.running:
            return
        if not self.recording.text().strip():
            self._tell("Choose a recording, or a folder of clips, first.", fault=True)
            return
        self._cancel.clear()
        self.result.hide()
        self.bar.setValue(0)
        self.bar.show()
        self.start.setEnabled(False)
        self.close_button.setText("Cancel")
        paths = (Path(self.recording.text()).expanduser(), self.labels.text().strip())
        self._thread = threading.Thread(target=self._run, args=paths, name="import", daemon=True)
        self._thread.start()

    def _run(self, path: Path, label_file: str) -> None:
        def note(stage: str, done: float) -> None:
            if self._cancel.is_set():
                raise Cancelled
            self._progress.emit(stage, done)

        try:
            labels = read_labels(Path(label_file).expanduser()) if label_file else []
            source = open_source(path)
            clips = isinstance(source, ClipFolder)
            if isinstance(source, ClipFolder) and not labels:
                labels = source.labels(self._lines)
            found = cut_up(source, self._lines, CachedEngine(Espeak()), labels, note, ordered=not clips)
            takes = shelve(source, found, self._folder, self._title, note)
            made: object = Imported(found, len(takes))
        except Cancelled:
            made = "Cancelled. The take book is as it was."
        except InputError as error:
            made = f"Nothing was imported. {error}"
        except Exception as error:  # a thread's error must reach the person
            made = f"Nothing was imported: {error!r}"
        self._ended.emit(made)

    def _show_progress(self, stage: str, done: float) -> None:
        low, high = _STAGES[stage]
        self.bar.setValue(int(low + (high - low) * done))
        self.bar.setFormat(f"{stage} … %p%")

    def _show_end(self, made: object) -> None:
        if self._thread is not None:
            self._thread.join()
        self._thread = None
        self.bar.hide()
        self.start.setEnabled(True)
        self.close_button.setText("Close")
        self.close_button.setEnabled(True)
        if isinstance(made, Imported):
            self._tell(summary(made))
            self.start.setText("Cut up another")
            self.done.emit(made)
        else:
            self._tell(str(made), fault=True)

    def _tell(self, text: str, fault: bool = False) -> None:
        self.result.setObjectName("fault" if fault else "")
        self.result.style().polish(self.result)
        self.result.setText(text)
        self.result.show()
        self.adjustSize()

    def reject(self) -> None:
        if self.running:
            self._cancel.set()
            self.close_button.setEnabled(False)
            self.bar.setFormat("stopping …")
        else:
            super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.running:
            self.reject()
            event.ignore()
        else:
            super().closeEvent(event)


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
