"""The recordings that a block plays: which, and where in the block."""

from PySide6.QtCore import Qt

from nafas.desk.details.form import Form
from nafas.desk.details.row_list import FieldRow, RowList
from nafas.desk.dialogs.session_file import chosen_file
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.fields import CheckedLine
from nafas.desk.widgets.labels import Label, set_tip
from nafas.script import Block
from nafas.script.model.recordings import PlacedRecording, placed

_HINT = "at the beginning; after 5s, level -6"
_TIP = (
    "Where it sounds and how: after 5s · round 2 · phase 1 (of every round) · count 3 · level -6 · from 2s to 20s · "
    "beat 0.3s (what falls on the place) · fade-in 1s · fade-out 2s · over (the bed stays as loud) · by whose it is"
)
_NAME_WIDTH = 90  # px


class RecordingRow(FieldRow):
    """One recording."""

    def __init__(self, fields: "RecordingFields", number: int) -> None:
        super().__init__(lambda: fields.remove(number), "Do not play this recording")
        self.name = Label()
        self.name.setFixedWidth(_NAME_WIDTH)
        self.how = CheckedLine(f"Place of recording {number + 1}", lambda text: fields.read(number, text), _HINT)
        self.how.changed.connect(lambda recording: fields.change(number, recording))
        set_tip(self.how, _TIP)
        self.place((self.name, 0), (self.how, 1))

    def show_recording(self, recording: PlacedRecording) -> None:
        """Show a recording and its place."""
        self.name.setText(self.name.fontMetrics().elidedText(recording.name, Qt.TextElideMode.ElideMiddle, _NAME_WIDTH))
        set_tip(self.name, recording.file.path)
        self.how.show_text(recording.text)


class RecordingFields:
    """Adds the fields to a form of a block and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.section = form.fold("Recordings")
        self.list = RowList(lambda index: RecordingRow(self, index))
        form.whole(self.list)
        self.add = Button(
            "Play a recording\N{HORIZONTAL ELLIPSIS}",
            self._ask,
            kind="small",
            tip="A chant, a bell, a breath sound, a jingle: it is heard in this block, where you say",
        )
        form.whole(self.add)

    @property
    def _recordings(self) -> tuple[PlacedRecording, ...]:
        return self._form.document.session.blocks[self._form.index].recordings

    def _take(self, recordings: list[PlacedRecording]) -> None:
        self._form.set("recordings", tuple(recordings), "Recordings")

    def _ask(self) -> None:
        document = self._form.document
        file = chosen_file(self._form.window(), document.folder, "A recording to play")
        if file is not None:
            self._take([*self._recordings, PlacedRecording(file=file)])

    def read(self, number: int, text: str) -> PlacedRecording:
        """A recording with its place as typed. Raises ValueError."""
        return placed(self._recordings[number].file, text)

    def change(self, number: int, recording: PlacedRecording) -> None:
        """Play a recording at another place, or in another way."""
        recordings = list(self._recordings)
        recordings[number] = recording
        self._take(recordings)

    def remove(self, number: int) -> None:
        """Play a recording no more."""
        recordings = list(self._recordings)
        del recordings[number]
        self._take(recordings)

    def show(self, block: Block) -> None:
        """Show a block's recordings."""
        for row, recording in zip(self.list.show_rows(len(block.recordings)), block.recordings):
            row.show_recording(recording)
        self.section.show_relevant(bool(block.recordings), block.played or "none")
