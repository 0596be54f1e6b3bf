"""Render from the window: where to, how far, cancel, and what was made and proven."""

import threading
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nafas.errors import Cancelled, InputError
from nafas.review import produce, report
from nafas.script import Session

_STAGES = {"casting": (0, 5), "measuring": (5, 35), "writing": (35, 75), "proving": (75, 100)}


class RenderDialog(QDialog):
    """Renders one session on a thread of its own; the window stays usable meanwhile."""

    _progress = Signal(str, float)
    _ended = Signal(object)

    def __init__(self, session: Session, folder: Path, target: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Render the master")
        self.setMinimumWidth(600)
        self._session, self._folder = session, folder
        self._cancel = threading.Event()
        self._thread: threading.Thread | None = None
        self._progress.connect(self._show_progress)
        self._ended.connect(self._show_end)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(10)
        box.addWidget(QLabel(session.title or "Untitled session", objectName="heading"))
        box.addWidget(
            QLabel(
                f"{session.master.loudness:g} LUFS, at most {session.master.ceiling:g} dBTP, 24-bit, 48 kHz",
                objectName="muted",
            )
        )
        row = QHBoxLayout()
        self.target = QLineEdit(str(target))
        self.target.setAccessibleName("File to write")
        browse = QPushButton("Choose…")
        browse.setAutoDefault(False)
        browse.clicked.connect(self._browse)
        row.addWidget(self.target, 1)
        row.addWidget(browse)
        box.addLayout(row)
        self.stems = QCheckBox("Stems too: voice, chimes and bed as separate files")
        box.addWidget(self.stems)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.hide()
        box.addWidget(self.bar)
        self.result = QLabel()
        self.result.setWordWrap(True)
        self.result.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        self.result.hide()
        box.addWidget(self.result)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        self.close_button = QPushButton("Close")
        self.close_button.setAutoDefault(False)
        self.close_button.clicked.connect(self.reject)
        self.start = QPushButton("Render", objectName="primary")
        self.start.setDefault(True)
        self.start.clicked.connect(self.begin)
        buttons.addWidget(self.close_button)
        buttons.addWidget(self.start)
        box.addLayout(buttons)

    @property
    def running(self) -> bool:
        return self._thread is not None

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self,
            "Render to",
            self.target.text(),
            "FLAC (*.flac);;WAV (*.wav)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if name:
            self.target.setText(name)

    def begin(self) -> None:
        """Start rendering to the named file."""
        if self.running:
            return
        target = Path(self.target.text()).expanduser()
        stems = target.with_name(f"{target.stem} stems") if self.stems.isChecked() else None
        self._cancel.clear()
        self.result.hide()
        self.bar.setValue(0)
        self.bar.show()
        self.start.setEnabled(False)
        self.close_button.setText("Cancel")
        self._thread = threading.Thread(target=self._run, args=(target, stems), name="render", daemon=True)
        self._thread.start()

    def _run(self, target: Path, stems: Path | None) -> None:
        def note(stage: str, done: float) -> None:
            if self._cancel.is_set():
                raise Cancelled
            self._progress.emit(stage, done)

        try:
            made: object = produce(self._session, self._folder, target, stems, progress=note)
        except Cancelled:
            made = "Cancelled. No file was written."
        except InputError as error:
            made = f"Not rendered. {error}"
        except Exception as error:  # a thread's error must reach the person
            made = f"Not rendered: {error!r}"
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
        self.start.setText("Render again")
        self.close_button.setText("Close")
        self.close_button.setEnabled(True)
        self.result.setObjectName("fault" if isinstance(made, str) else "")
        self.result.style().polish(self.result)
        self.result.setText(made if isinstance(made, str) else report(made))
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
