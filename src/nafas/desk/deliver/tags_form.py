"""Tags and cover: artist, album, track, comment and cover."""

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPixmap

from nafas.desk.details.form import Form, optional
from nafas.desk.dialogs.session_file import PICTURE, chosen_file
from nafas.desk.document import Document
from nafas.desk.widgets.controls import Button, across
from nafas.desk.widgets.labels import Label, WrappedLabel, set_tip
from nafas.errors import InputError
from nafas.exchange.cover import read_cover
from nafas.script.model.assets import Asset
from nafas.script.words.cautions import caution_words
from nafas.state.permissions import asset_path

_SIDE = 150  # px of the cover as it is shown
_SMALL = 1400  # px; catalogues of podcasts ask for 1,400 to 3,000 (common practice, no source)


class TagsForm(Form):
    """The tags of the session's files."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Tags and cover")
        self.title = self.line("Title", "title", str.strip, "of the session")
        self.artist = self.line("Artist", "tags.artist", str.strip, "none")
        self.album = self.line("Album", "tags.album", str.strip, "none")
        self.track = self.line("Track", "tags.track", optional(_track), "none")
        self.comment = self.line("Comment", "tags.comment", str.strip, "the usual cautions")
        set_tip(self.comment, " ".join(caution_words(("every",))))
        self.section("Cover")
        self.picture = Label()
        self.picture.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.picture.setAccessibleName("Cover")
        self.form.addRow(self.picture)
        self.about = WrappedLabel(objectName="muted")
        self.form.addRow(self.about)
        self.choose, self.none = Button("Choose…", kind="small"), Button("None", kind="small")
        self.choose.clicked.connect(lambda _: self.choose_cover())
        self.none.clicked.connect(lambda _: self.set("tags.cover", None, "Cover"))
        row = across(self.choose, self.none, None, spacing=8)
        self.form.addRow(row)
        self.rest.addStretch(1)
        self.first = self.artist

    def choose_cover(self) -> None:
        """Ask for a picture."""
        file = chosen_file(self, self.document.folder, "A cover", PICTURE)
        if file is not None:
            self.take_cover(file)

    def take_cover(self, asset: Asset) -> None:
        """Make a picture the cover; one that cannot be read is reported and not taken."""
        try:
            read_cover(asset_path(asset, self.document.folder))
        except InputError as error:
            self.document.trouble.emit(str(error))
            self.about.setText(str(error))
            return
        self.set("tags.cover", asset, "Cover")

    def show_more(self, value: Any) -> None:
        tags = value.tags
        self.none.setEnabled(tags.cover is not None)
        self.picture.setVisible(tags.cover is not None)
        if tags.cover is None:
            self.about.setText("None yet. A square picture, JPEG or PNG.")
            return
        try:
            cover = read_cover(asset_path(tags.cover, self.document.folder))
        except InputError as error:
            self.picture.hide()
            self.about.setText(str(error))
            return
        image = QImage.fromData(cover.data)
        kept, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        self.picture.setPixmap(QPixmap.fromImage(image.scaled(_SIDE, _SIDE, kept, smooth)))
        message = [f"{cover.width} \N{MULTIPLICATION SIGN} {cover.height} px"]
        if cover.width != cover.height:
            message.append("not square")
        elif cover.width < _SMALL:
            message.append(f"small: catalogues ask for {_SMALL:,} px and more")
        self.about.setText(", ".join(message))


def _track(text: str) -> int:
    """A track's number as typed. Raises ValueError."""
    if not text.strip().isdecimal():
        raise ValueError("write a whole number from 1 to 999")
    return int(text)
