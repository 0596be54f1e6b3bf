"""Deliver: what a session is handed over for, what comes along, what the review says first, and where it went."""

from collections.abc import Sequence
from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Qt, QUrl, Signal
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nafas.desk import preferences
from nafas.desk.deliver.tags_form import TagsForm
from nafas.desk.dialogs.folder import ask_folder
from nafas.desk.document import Document
from nafas.desk.widgets.controls import Button, PlainList, Tick, across
from nafas.desk.widgets.fields import ComboBox
from nafas.desk.widgets.labels import Label, WrappedLabel, set_tip
from nafas.desk.widgets.scrolled import scrolled_column
from nafas.desk.work.working import Working
from nafas.drawing.guide.sizes import RATES, SIZES
from nafas.errors import InputError
from nafas.plain_text import pluralize
from nafas.review.checks.finding import Finding
from nafas.tasks.deliver import run
from nafas.tasks.delivery import (
    AUDIO,
    PATTERN,
    PURPOSES,
    STAGES,
    TEXTS,
    VIDEOS,
    DeliveryRequest,
    DeliveryResult,
    stem_of,
)

_NAMES = {"podcast": "a podcast", "video": "a video", "app": "an app", "class": "a class", "all": "everything"}
_COLUMNS = 2
_BAR = 14  # px of a scroll bar


class DeliverView(Working, QWidget):
    """Hands the open session over, on a thread of its own.

    Signals: said: for the status line; review: the review is asked for.
    """

    said = Signal(str)
    review = Signal()

    stages: ClassVar = STAGES
    failed = "Not delivered."
    cancelled = "Cancelled; no unfinished file is left. A guide video goes on where it was."
    idle = ""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setAccessibleName("Deliver")
        self.document = document
        self.made: DeliveryResult | None = None
        self.form = TagsForm(document)
        self.side = QScrollArea()
        self.side.setWidgetResizable(True)
        self.side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.side.setAccessibleName("Tags and cover")
        self.side.setWidget(self.form)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(14, 10, 14, 8)
        outer.setSpacing(8)
        self.set_up_work(outer, "Deliver", "Deliver…")
        self.close_button.clicked.connect(self.stop_work)
        self.box.addWidget(Label("Deliver the session", objectName="heading"))
        choices = QWidget()
        self.box.addWidget(choices, 3)
        inside = scrolled_column(choices)
        self._build_choices(inside)
        choices.setMinimumWidth(inside.minimumSize().width() + _BAR)  # nothing of it is cut off at the right
        self.findings = WrappedLabel()
        self.findings.setObjectName("fault")
        self.anyway = Tick("Deliver anyway")
        self.to_review = Button("Show the review", self.review, kind="small")
        self.box.addWidget(self.findings)
        self.box.addLayout(across(self.to_review, self.anyway, None))
        self.list = PlainList("Delivered files")
        self.box.addWidget(self.list, 2)
        self.empty = WrappedLabel(
            "All files come from one timeline. They are checked before they are written and proved afterwards. "
            "They appear in the folder together or not at all, and the ledger records them."
        )
        self.empty.setObjectName("muted")
        self.box.addWidget(self.empty)
        self.show_folder = Button("Show the folder", self._show_folder)
        self.foot.insertWidget(0, self.show_folder)
        self._fill()
        self._show_made([])
        self.show_findings(())

    def _build_choices(self, box: QVBoxLayout) -> None:
        form = QFormLayout()
        form.setHorizontalSpacing(10)
        self.purpose = ComboBox()
        self.purpose.setAccessibleName("For")
        for key, name in _NAMES.items():
            self.purpose.addItem(name, key)
        self.purpose.currentIndexChanged.connect(lambda _: self._fill())
        form.addRow("For", self.purpose)
        self.name = QLineEdit(preferences.delivery_names(PATTERN))
        self.name.setAccessibleName("Names of the files")
        set_tip(self.name, "Also {length}, {language}, {track} and {date}")
        self.name.textChanged.connect(lambda _: self.show_session())
        form.addRow("Names", self.name)
        self.named = Label(objectName="muted")
        form.addRow("", self.named)
        box.addLayout(form)
        box.addWidget(Label("Audio", objectName="section"))
        row = QHBoxLayout()
        row.setSpacing(12)
        self.audio: dict[str, QCheckBox] = {}
        for ending in AUDIO:
            self.audio[ending] = QCheckBox(ending[1:].upper())
            row.addWidget(self.audio[ending])
        row.addStretch(1)
        box.addLayout(row)
        box.addWidget(Label("With it", objectName="section"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(6)
        self.texts: dict[str, QCheckBox] = {}
        for position, (key, text) in enumerate(TEXTS.items()):
            self.texts[key] = QCheckBox(text[:1].upper() + text[1:])
            grid.addWidget(self.texts[key], position // _COLUMNS, position % _COLUMNS)
        grid.setColumnStretch(_COLUMNS, 1)
        box.addLayout(grid)
        box.addSpacing(6)
        self.video = ComboBox()
        self.video.setAccessibleName("Guide video")
        self.video.addItem("no guide video", None)
        for size, (width, height) in SIZES.items():
            self.video.addItem(f"guide video, {width} \N{MULTIPLICATION SIGN} {height}", size)
        set_tip(
            self.video,
            "A video of the page in step with the sound, with captions. Making it takes about as long as it lasts",
        )
        self.rate = ComboBox()
        self.rate.setAccessibleName("Frames a second of the guide video")
        for rate in RATES:
            self.rate.addItem(f"{rate} frames a second", rate)
        self.rate.setCurrentIndex(RATES.index(30))
        self.video.currentIndexChanged.connect(lambda index: self.rate.setEnabled(index > 0))
        self.rate.setEnabled(False)
        box.addLayout(across(self.video, self.rate, None, spacing=10))
        self.single = Tick("A caption for every count, not for every phase")
        box.addLayout(across(self.single, None))
        box.addStretch(1)

    def _fill(self) -> None:
        purpose = self.purpose.currentData()
        audio, texts = PURPOSES[purpose]
        for ending, box in self.audio.items():
            box.setChecked(ending in audio)
        for key, box in self.texts.items():
            box.setChecked(key in texts)
        self.video.setCurrentIndex(self.video.findData(VIDEOS.get(purpose)))

    def show_session(self) -> None:
        """Show the session as it stands: its tags, and how files will be named."""
        self.form.show_index(-1)
        session = self.document.session
        try:
            seconds = float(session.target_length or session.written_length)
            self.named.setText(f"such as {stem_of(session, seconds, self.name.text())}.mp3")
        except InputError as error:
            self.named.setText(str(error))

    def show_findings(self, must: Sequence[Finding]) -> None:
        """Show what must be changed first, by the review."""
        more = f" And {len(must) - 1} more." if len(must) > 1 else ""
        self.findings.setText(f"This must be changed first: {must[0].where}: {must[0].text}{more}" if must else "")
        if not must:
            self.anyway.setChecked(False)  # what was let pass once is not let pass in another session
        for widget in (self.findings, self.anyway, self.to_review):
            widget.setVisible(bool(must))

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
        video, rate = self.video.currentData(), self.rate.currentData()
        preferences.choose_delivery_names(names)

        request = DeliveryRequest(
            session, folder, into, tuple(audio), tuple(texts), names, not single, anyway, video, rate
        )
        self._show_made([])
        self.run(lambda note: run(request, note))

    def refused(self, error: InputError) -> str:
        self.anyway.show()  # what was found in the sound shows itself only now
        return super().refused(error)

    def ended(self, made: object) -> str:
        assert isinstance(made, DeliveryResult)
        self.made = delivery = made
        stand = [
            f"{each.severity.value}: {each.where or 'the whole session'}: {each.text}" for each in delivery.findings
        ]
        self._show_made([*stand, *(path.name for path in delivery.files)])
        proof = (
            f"every cue is in its place in {pluralize(len(delivery.proofs), 'file')}"
            if delivery.holds
            else "a proof does not hold"
        )
        stands = f"{pluralize(len(stand), 'finding')} ignored." if stand else ""
        files = f"{pluralize(len(delivery.files), 'file')} in {delivery.files[0].parent}; {proof}."
        text = " ".join(filter(None, [files, stands, *delivery.remarks, *delivery.warnings]))
        self.said.emit(text)
        return text

    def _show_made(self, rows: list[str]) -> None:
        self.list.clear()
        self.list.addItems(rows)
        self.list.setVisible(bool(rows))
        self.empty.setVisible(not rows)
        self.show_folder.setVisible(bool(rows))

    def _show_folder(self) -> None:
        if self.made is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.made.files[0].parent)))

    def close_down(self) -> None:
        """Stop what runs."""
        self.background.stop(5.0)
