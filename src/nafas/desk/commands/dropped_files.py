"""What becomes of files that are dropped on the window, or opened by the desktop: each kind goes where it belongs."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QTimer, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QMessageBox, QWidget

from nafas.desk.dialogs.session_file import asset_from
from nafas.desk.widgets.labels import message_box
from nafas.script.edits.session_edits import change
from nafas.script.model.beds import FileBed
from nafas.script.text.files import ENDINGS as SCRIPTS

if TYPE_CHECKING:
    from nafas.desk.window import MainWindow

SESSION, PACKED, SERIES = ".nafas", ".nafas-packed", ".nafas-series"
SOUNDS = (".wav", ".flac", ".aif", ".aiff", ".mp3", ".ogg", ".opus")
LABELS = (".txt", ".tsv", ".srt", ".vtt")
PICTURES = (".jpg", ".jpeg", ".png")


class DroppedFiles(QObject):
    """Takes what is dropped on a window, wherever in it."""

    def __init__(self, window: "MainWindow", part: QWidget) -> None:
        super().__init__(part)
        self.window, self._part = window, part
        part.setAcceptDrops(True)
        part.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Drop and isinstance(event, QDropEvent):
            paths = _paths(event.mimeData().urls())
            if paths:
                event.acceptProposedAction()
                QTimer.singleShot(0, lambda: self.take(paths))  # what was dragged from is not kept waiting
                return True
        elif isinstance(event, QDragEnterEvent) and _paths(event.mimeData().urls()):
            event.acceptProposedAction()
            return True
        return False

    def take(self, paths: Sequence[Path]) -> None:
        """Do with files what is usual for their kinds; what nothing can be done with is reported."""
        first = paths[0]
        endings = [path.suffix.lower() for path in paths]
        sounds = [path for path, ending in zip(paths, endings) if ending in SOUNDS]
        labels = [path for path, ending in zip(paths, endings) if ending in LABELS]
        if len(paths) == 1 and first.is_dir():
            self._folder(first)
        elif endings == [SESSION]:
            self.window.files.open(first)
        elif endings == [PACKED]:
            self._packed(first)
        elif endings == [SERIES]:
            self.window.outputs.show_series().load(first)
        elif len(sounds) == 1 and len(sounds) + len(labels) == len(paths) and len(labels) <= 1:
            self._sound(sounds[0], labels[0] if labels else None)
        elif len(endings) == 1 and endings[0] in PICTURES:
            self.window.show_view("deliver")
            self.window.views.deliver_view().form.take_cover(asset_from(first, self.window.document.folder))
        elif len(endings) == 1 and endings[0] in SCRIPTS:
            self.window.scripts.open(first)
        elif labels and not sounds:
            self.window.say("Drop labels together with the recording that they are of")
        elif len(sounds) > 1:
            self.window.say("Drop the folder that the clips are in, or one recording at a time")
        else:
            self.window.say(f"{first.name}: drop a session, script, recording with labels, folder of clips, or cover")

    def _folder(self, folder: Path) -> None:
        room = self.window.views.takes_room()
        self.window.show_view("takes")
        if (folder / "takes.json").is_file():
            if room.shelf.use_book(folder):
                self.window.say(f"The session speaks with {folder}")
        else:
            room.import_(folder)

    def _sound(self, path: Path, labels: Path | None) -> None:
        if labels is not None:
            self.window.show_view("takes")
            self.window.views.takes_room().import_(path, labels)
            return
        box = message_box(
            QMessageBox.Icon.Question, "A recording", f"What is {path.name}?", "It is not changed, whatever is done.",
            self._part,
        )  # fmt: skip
        role = QMessageBox.ButtonRole.AcceptRole
        uses = ("Words for takes", "A whole session", "A bed", "Play it here")
        takes, whole, bed, here = (box.addButton(text, role) for text in uses)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        if box.clickedButton() is takes:
            self.window.show_view("takes")
            self.window.views.takes_room().import_(path)
        elif box.clickedButton() is whole:
            self.window.outputs.review_recording().review(path)
        elif box.clickedButton() is bed:
            self._bed(path)
        elif box.clickedButton() is here:
            self.window.editing.add_recording(asset_from(path, self.window.document.folder))

    def _bed(self, path: Path) -> None:
        document = self.window.document
        before = document.session.bed
        kept = {} if before is None else {name: getattr(before, name) for name in ("under_voice", "lift", "swell")}
        new = FileBed(file=asset_from(path, document.folder), **kept)
        document.edit(change(document.session, bed=new), "change the bed")
        self.window.show_view("sound")

    def _packed(self, path: Path) -> None:
        """Open a packed session into a folder next to it."""
        from nafas.desk.dialogs.packed_dialog import PackedDialog  # late: few come

        self.packed_dialog = PackedDialog(path, self._part)
        self.packed_dialog.opened.connect(self.window.files.open)
        self.packed_dialog.open()


def _paths(urls: Sequence[QUrl]) -> list[Path]:
    return [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
