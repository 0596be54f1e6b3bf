"""Render from the window: where to, how far, cancel, and what was made and proven."""

from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QLineEdit, QWidget

from nafas.desk.dialogs.renders_dialog import Renders
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.proof.proof_view import ProofView
from nafas.desk.widgets.controls import Button, Tick, across
from nafas.desk.widgets.fields import Choice
from nafas.desk.widgets.labels import Label
from nafas.desk.work.work_dialog import WorkDialog
from nafas.drawing.paper.proof_page import print_proof
from nafas.errors import InputError
from nafas.files import AlreadyThere, write_whole
from nafas.review.proof import Proof
from nafas.review.proof.page import page
from nafas.script import Session
from nafas.sound.files.formats import BITS, ENDINGS
from nafas.sound.master.render import OutOfReach
from nafas.tasks.render import STAGES, RenderRequest, anything, made_before, run
from nafas.tasks.render_result import RenderResult
from nafas.timing.timeline import Moment


class RenderDialog(WorkDialog):
    """Renders one session on a thread of its own; the window stays usable meanwhile."""

    help_place = "proof"

    stages: ClassVar = STAGES
    go_to = Signal(Moment)
    cancelled = "Cancelled. No file was written."
    failed = "Not rendered."

    def __init__(
        self, session: Session, folder: Path, target: Path, renders: Renders, parent: QWidget | None = None
    ) -> None:
        super().__init__("Render the master", "Render", parent)
        self._renders = renders
        self.setMinimumWidth(600)
        self._session, self._folder = session, folder
        self._anyway = False
        self._may_replace: Path | None = None
        self.box.addWidget(Label(session.title or "Untitled session", objectName="heading"))
        self.box.addWidget(
            Label(
                f"{session.master.loudness:g} LUFS, at most {session.master.ceiling:g} dBTP, 48 kHz, "
                f"{'one channel' if session.master.mono else 'stereo'}".replace("-", "\N{MINUS SIGN}"),
                objectName="muted",
            )
        )
        self.target = QLineEdit(str(target))
        self.target.setAccessibleName("File to write")
        browse = Button("Choose…", self._browse, auto=False)
        self.box.addLayout(across((self.target, 1), browse))
        self.also = {ending: QCheckBox(ending[1:].upper()) for ending in ENDINGS}
        self.bits = Choice("Bits of a sample", *((bits, bits) for bits in BITS))
        self.bits.show_value("24")
        self.box.addLayout(
            across(
                Label("And as", objectName="muted"),
                *self.also.values(),
                None,
                Label("Bits", objectName="muted"),
                self.bits,
            )
        )
        self.stems = Tick("Stems too: voice, chimes and bed as separate files")
        self.box.addWidget(self.stems)
        self.queue_button = Button(
            "Add to the queue",
            self._queue,
            auto=False,
            tip="It is rendered after what is being rendered; this window is free meanwhile",
        )
        self.foot.insertWidget(0, self.queue_button)
        self.proof_view: ProofView | None = None
        self._proof: Proof | None = None
        self.page_button = Button("Proof as a page…", self._save_page, auto=False)
        self.page_button.hide()
        self.foot.insertWidget(1, self.page_button)

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
        request = self.request()
        self.run(lambda note: run(request, note))

    def request(self) -> RenderRequest:
        """What is to be rendered, as it is chosen."""
        target = Path(self.target.text()).expanduser()
        stems = target.with_name(f"{target.stem} stems") if self.stems.isChecked() else None
        wanted = [target.with_suffix(ending) for ending, box in self.also.items() if box.isChecked()]
        also = tuple(path for path in wanted if path != target)
        bits = str(self.bits.value())
        return RenderRequest(
            self._session, self._folder, target, stems, also=also, bits=bits, anyway=self._anyway,
            replaces=anything if target == self._may_replace else made_before,
        )  # fmt: skip

    def _queue(self) -> None:
        """Hand it to the queue, and go on working."""
        try:
            request = self.request()
            request.check()
            self._renders.add(request)
        except InputError as error:
            self.tell(self.refused(error), fault=True)
            return
        self.accept()

    def refused(self, error: InputError) -> str:
        """Why it was not rendered; a loudness out of reach can be rendered all the same, and what is there replaced."""
        if isinstance(error, AlreadyThere):
            self._may_replace = Path(self.target.text()).expanduser()
            self.start.setText("Replace it")
        if isinstance(error, OutOfReach):
            self._anyway = True
            self.start.setText("Render anyway")
        return super().refused(error)

    def ended(self, made: object) -> str:
        """The report of a render."""
        assert isinstance(made, RenderResult)
        self.start.setText("Render again")
        if made.proofs:
            # The master's; where another file has faults and the master none, that one's.
            self._show_proof(next((proof for proof in made.proofs if not proof.holds), made.proofs[0]))
        return "\n".join([*made.lines(), *made.warnings])

    def _show_proof(self, proof: Proof) -> None:
        if self.proof_view is None:
            self.proof_view = ProofView()
            self.proof_view.chosen.connect(self.go_to)
            self.box.addWidget(self.proof_view)
            self.proof_view.show()  # at once: a layout shows what it is given only when the loop comes round to it
            self.setMinimumWidth(840)
        self._proof = proof
        self.proof_view.show_proof(proof)
        self.page_button.show()

    def _save_page(self) -> None:
        """Ask where, and write the proof as a page: PDF, or HTML."""
        assert self._proof is not None
        start = self._proof.path.with_name(f"{self._proof.path.stem} proof.pdf")
        path = ask_save_name(self, "Save the proof as a page", start, "PDF (*.pdf);;HTML (*.html)", (".pdf", ".html"))
        if path is None:
            return
        try:
            if path.suffix.lower() == ".html":
                write_whole(path, page(self._proof).encode())
            else:
                print_proof(self._proof, path)
        except InputError as error:
            self.tell(str(error), fault=True)
