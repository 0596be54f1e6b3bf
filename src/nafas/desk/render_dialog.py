"""Render from the window: where to, how far, cancel, and what was made and proven."""

from pathlib import Path
from typing import ClassVar

from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from nafas.desk.work_dialog import WorkDialog
from nafas.review import Production, produce, report
from nafas.script import Session


class RenderDialog(WorkDialog):
    """Renders one session on a thread of its own; the window stays usable meanwhile."""

    stages: ClassVar = {"casting": (0, 5), "measuring": (5, 35), "writing": (35, 75), "proving": (75, 100)}
    cancelled = "Cancelled. No file was written."
    failed = "Not rendered."

    def __init__(self, session: Session, folder: Path, target: Path, parent: QWidget | None = None) -> None:
        super().__init__("Render the master", "Render", parent)
        self.setMinimumWidth(600)
        self._session, self._folder = session, folder
        self.box.addWidget(QLabel(session.title or "Untitled session", objectName="heading"))
        self.box.addWidget(
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
        self.box.addLayout(row)
        self.stems = QCheckBox("Stems too: voice, chimes and bed as separate files")
        self.box.addWidget(self.stems)

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
        target = Path(self.target.text()).expanduser()
        stems = target.with_name(f"{target.stem} stems") if self.stems.isChecked() else None
        self.run(lambda note: produce(self._session, self._folder, target, stems, progress=note))

    def ended(self, made: object) -> str:
        """The report of a render."""
        assert isinstance(made, Production)
        self.start.setText("Render again")
        return report(made)
