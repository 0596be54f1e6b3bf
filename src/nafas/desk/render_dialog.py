"""Render from the window: where to, how far, cancel, and what was made and proven."""

from pathlib import Path
from typing import ClassVar

from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from nafas.desk.fields import Choice
from nafas.desk.work_dialog import WorkDialog
from nafas.review import Production, produce, report
from nafas.script import Session
from nafas.sound.formats import BITS, ENDINGS


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
                f"{session.master.loudness:g} LUFS, at most {session.master.ceiling:g} dBTP, 48 kHz".replace(
                    "-", "\N{MINUS SIGN}"
                ),
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
        more = QHBoxLayout()
        more.addWidget(QLabel("And as", objectName="muted"))
        self.also = {ending: QCheckBox(ending[1:].upper()) for ending in ENDINGS}
        for box in self.also.values():
            more.addWidget(box)
        more.addStretch(1)
        more.addWidget(QLabel("Bits", objectName="muted"))
        self.bits = Choice("Bits of a sample", *((bits, bits) for bits in BITS))
        self.bits.show_value("24")
        more.addWidget(self.bits)
        self.box.addLayout(more)
        self.stems = QCheckBox("Stems too: voice, chimes and bed as separate files")
        self.box.addWidget(self.stems)

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self,
            "Render to",
            self.target.text(),
            "Audio (*.flac *.wav *.mp3 *.ogg *.opus)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if name:
            self.target.setText(name)

    def begin(self) -> None:
        """Start rendering to the named file."""
        target = Path(self.target.text()).expanduser()
        stems = target.with_name(f"{target.stem} stems") if self.stems.isChecked() else None
        wanted = [target.with_suffix(ending) for ending, box in self.also.items() if box.isChecked()]
        also, bits = [path for path in wanted if path != target], str(self.bits.value())
        self.run(lambda note: produce(self._session, self._folder, target, stems, progress=note, also=also, bits=bits))

    def ended(self, made: object) -> str:
        """The report of a render."""
        assert isinstance(made, Production)
        self.start.setText("Render again")
        return report(made)
