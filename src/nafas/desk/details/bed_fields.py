"""The fields of a session's bed: which one, its few controls, how far it lies under the voice."""

import os
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog, QLabel

from nafas.desk.details.form import Form
from nafas.script import Session
from nafas.script.asset import Asset
from nafas.script.beds import Bed, FileBed, GeneratedBed, NightSea

_BEDS = (
    (None, "none"), ("night-sea", "sea at night"), ("sea", "sea by day"), ("rain", "rain"), ("drone", "low drone"),
    ("bowls", "wash of bowls"), ("pad", "slow chords"), ("file", "a recording…"),
)  # fmt: skip
_CONTROLS = (("depth", "Depth"), ("brightness", "Brightness"), ("motion", "Motion"))
_AUDIO = "Audio (*.wav *.flac *.aif *.aiff *.mp3 *.ogg *.opus)"


class BedFields:
    """Adds the bed's fields to a session's form and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        form.section("Bed")
        self.kind = form.choice("Bed", self._choose, *_BEDS)
        self.under = form.number("Under the voice", 0, 40, lambda n: self._set(under_voice=float(n)), " LU")
        self.lift = form.number("Up between", 0, 20, lambda n: self._set(lift=float(n)), " dB")
        self.controls = {
            name: form.number(label, 0, 100, lambda n, name=name: self._set(**{name: n / 100}), " %")
            for name, label in _CONTROLS
        }
        self.crossfade = form.number("Crossfade", 1, 30, lambda n: self._set(crossfade=float(n)), " s")
        self.file = QLabel(objectName="muted")
        self.file.setWordWrap(True)
        form.row("Recording", self.file)

    @property
    def _bed(self) -> Bed | None:
        return self._form.document.session.bed

    def _set(self, **fields: Any) -> None:
        bed = self._bed
        if bed is not None:
            self._form.set("bed", type(bed).model_validate({**dict(bed), **fields}), "Bed")

    def _choose(self, kind: str | None) -> None:
        before = self._bed
        kept = {"under_voice": before.under_voice, "lift": before.lift} if before is not None else {}
        new: Bed | None = None
        if kind == "night-sea":
            new = NightSea(**kept)
        elif kind == "file":
            new = self._recording(kept)
            if new is None:
                self.show(self._form.document.session)  # nothing was chosen: the choice goes back
                return
        elif kind is not None:
            new = GeneratedBed.model_validate({"kind": kind, **kept})
        self._form.set("bed", new, "Bed")

    def _recording(self, kept: dict[str, float]) -> FileBed | None:
        folder = self._form.document.folder
        name, _ = QFileDialog.getOpenFileName(self._form, "A recording as bed", str(folder), _AUDIO)
        if not name:
            return None
        path = os.path.relpath(Path(name).resolve(), folder.resolve())
        return FileBed(file=Asset(path=Path(path).as_posix()), **kept)

    def show(self, session: Session) -> None:
        """Show a session's bed."""
        bed = session.bed
        self.kind.show_value(None if bed is None else bed.kind)
        for field in (self.under, self.lift):
            self._form.show_row(field, bed is not None)
        if bed is not None:
            self.under.show_value(round(bed.under_voice))
            self.lift.show_value(round(bed.lift))
        for name, field in self.controls.items():
            self._form.show_row(field, isinstance(bed, GeneratedBed))
            if isinstance(bed, GeneratedBed):
                field.show_value(round(100 * getattr(bed, name)))
        self._form.show_row(self.crossfade, isinstance(bed, FileBed))
        self._form.show_row(self.file, isinstance(bed, FileBed))
        if isinstance(bed, FileBed):
            self.crossfade.show_value(max(1, round(bed.crossfade)))
            self.file.setText(Path(bed.file.path).name)
            self.file.setToolTip(bed.file.path)
