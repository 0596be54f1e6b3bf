"""Deliver: what a session is handed over for, what comes along, what the review says first, and where it went."""

from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QGridLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QWidget,
)

from nafas.desk.deliver.drawn import drawn
from nafas.desk.dialogs.folder import ask_folder
from nafas.desk.document import Document
from nafas.desk.rehearse.guide_video import SIZES
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.work.background import Note
from nafas.desk.work.work_dialog import WorkDialog
from nafas.exchange.deliver import AUDIO, PATTERN, PURPOSES, TEXTS, Delivered, deliver
from nafas.exchange.records import record_delivery
from nafas.plain_text import many

_NAMES = {"podcast": "a podcast", "video": "a video", "app": "an app", "class": "a class", "all": "everything"}


class DeliverDialog(WorkDialog):
    """Hands the open session over, on a thread of its own."""

    stages: ClassVar = {
        "looking": (0, 12), "casting": (12, 12), "measuring": (12, 22), "writing": (22, 40), "proving": (40, 55),
        "AAC": (55, 60), "packing": (60, 62), "paper": (62, 64), "video": (64, 100),
    }  # fmt: skip
    failed = "Not delivered."

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Deliver", "Deliver…", parent)
        self.resize(720, 620)
        self.document = document
        self.made: Delivered | None = None
        self.box.addWidget(Label("Hand the session over", objectName="heading"))
        about = Label(
            "Every file comes from one timeline, is checked before it is written and proved as it is handed over. "
            "What must be mended is said first.",
            objectName="muted",
        )
        about.setWordWrap(True)
        self.box.addWidget(about)
        form = QFormLayout()
        self.purpose = QComboBox()
        self.purpose.setAccessibleName("For")
        for key, name in _NAMES.items():
            self.purpose.addItem(name, key)
        self.purpose.currentIndexChanged.connect(lambda _: self._fill())
        form.addRow("For", self.purpose)
        self.name = QLineEdit(PATTERN)
        self.name.setAccessibleName("Names of the files")
        set_tip(self.name, "Also {length}, {language} and {date}")
        form.addRow("Names", self.name)
        self.box.addLayout(form)
        grid = QGridLayout()
        self.audio: dict[str, QCheckBox] = {}
        self.texts: dict[str, QCheckBox] = {}
        for place, ending in enumerate(AUDIO):
            self.audio[ending] = QCheckBox(ending[1:].upper())
            grid.addWidget(self.audio[ending], place, 0)
        for place, (key, told) in enumerate(TEXTS.items()):
            self.texts[key] = QCheckBox(told[:1].upper() + told[1:])
            grid.addWidget(self.texts[key], place % 5, 1 + place // 5)
        self.box.addLayout(grid)
        more = QFormLayout()
        self.video = QComboBox()
        self.video.setAccessibleName("Guide video")
        self.video.addItem("none", None)
        for size in SIZES:
            self.video.addItem(size, size)
        set_tip(self.video, "The page come alive, in step with the sound; it takes about as long as the session")
        more.addRow("Guide video", self.video)
        self.box.addLayout(more)
        self.single = QCheckBox("A caption for every count, not for every phase")
        self.anyway = QCheckBox("Even with what must be mended")
        self.box.addWidget(self.single)
        self.box.addWidget(self.anyway)
        self.list = QListWidget()
        self.list.setAccessibleName("What was handed over")
        self.list.hide()
        self.box.addWidget(self.list, 1)
        self.show_folder = QPushButton("Show the folder")
        self.show_folder.setAutoDefault(False)
        self.show_folder.hide()
        self.show_folder.clicked.connect(self._show_folder)
        self.foot.insertWidget(0, self.show_folder)
        self._fill()

    def _fill(self) -> None:
        audio, texts = PURPOSES[self.purpose.currentData()]
        for ending, box in self.audio.items():
            box.setChecked(ending in audio)
        for key, box in self.texts.items():
            box.setChecked(key in texts)
        self.video.setCurrentIndex(1 if self.purpose.currentData() == "video" else 0)

    def begin(self) -> None:
        name = ask_folder(self, "The folder to deliver into", str(self.document.folder))
        if name:
            self.deliver_into(Path(name))

    def deliver_into(self, into: Path) -> None:
        """Hand it over into a folder."""
        session, folder = self.document.session, self.document.folder
        audio = [ending for ending, box in self.audio.items() if box.isChecked()]
        texts = [key for key, box in self.texts.items() if box.isChecked()]
        names, single, anyway = self.name.text(), self.single.isChecked(), self.anyway.isChecked()
        video = self.video.currentData()

        def work(note: Note) -> tuple[Delivered, str]:
            more = drawn("sheet" in texts, video, progress=note)
            made = deliver(session, folder, into, audio, texts, names, not single, anyway, more, note)
            return made, record_delivery(session, made)

        self.list.hide()
        self.run(work)

    def ended(self, made: object) -> str:
        assert isinstance(made, tuple)
        self.made, untold = made
        made = self.made
        self.list.clear()
        for finding in made.findings:
            self.list.addItem(f"{finding.severity.value}: {finding.where or 'the whole session'}: {finding.text}")
        for path in made.files:
            self.list.addItem(path.name)
        self.list.show()
        self.show_folder.show()
        held = all(proof.holds for proof in made.proofs)
        proof = f"every cue is in its place in {many(len(made.proofs), 'file')}" if held else "a proof does not hold"
        stand = f" {many(len(made.findings), 'finding')} let stand." if made.findings else ""
        return f"{many(len(made.files), 'file')} in {made.files[0].parent}; {proof}.{stand} {untold}".strip()

    def _show_folder(self) -> None:
        if self.made is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.made.files[0].parent)))
