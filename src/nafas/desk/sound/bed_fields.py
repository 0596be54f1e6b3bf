"""The fields of a bed: which one, its few controls, how far it lies under the voice, its part, loop and tempo."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QWidget

from nafas.desk.details.form import Form, optional
from nafas.desk.dialogs.session_file import chosen_file
from nafas.desk.widgets.labels import Label, set_tip
from nafas.script.model.beds import BED_NAMES, BeatGrid, Bed, FileBed, GeneratedBed, NightSea
from nafas.script.model.exact import parse_seconds

KINDS = tuple((kind, f"{name}…" if kind == "file" else name) for kind, name in BED_NAMES.items())
_CONTROLS = (("depth", "Depth"), ("brightness", "Brightness"), ("motion", "Motion"))


def bed_of_kind(kind: str, before: Bed | None, parent: QWidget, folder: Path) -> Bed | None:
    """A new bed of a kind, as loud as the one before it; None where a recording was to be chosen and was not."""
    kept = {} if before is None else {name: getattr(before, name) for name in ("under_voice", "lift", "swell")}
    if kind == "night-sea":
        return NightSea(**kept)
    if kind == "file":
        file = chosen_file(parent, folder, "A recording as bed")
        return None if file is None else FileBed(file=file, **kept)
    return GeneratedBed.model_validate({"kind": kind, **kept})


def seconds_number(text: str) -> float:
    """Seconds as typed: 12, 12.5 s or 1:30. Raises ValueError."""
    minutes, colon, rest = text.strip().rpartition(":")
    seconds = parse_seconds(rest.removesuffix("s").strip())
    return float(seconds + 60 * int(minutes) if colon else seconds)


def _bpm(text: str) -> float:
    plain = text.lower().removesuffix("bpm").strip()
    try:
        return float(plain)
    except ValueError:
        raise ValueError(f"{plain[:20]!r} is not a tempo; write beats a minute, such as 62") from None


def _pace(text: str) -> float:
    plain = text.replace("%", "").replace("\N{MINUS SIGN}", "-").strip() or "0"
    try:
        return 1 + float(plain) / 100
    except ValueError:
        raise ValueError(f"{plain[:20]!r} is not a pace; write per cent, such as -3") from None


class BedForm(Form):
    """A form that fields of a bed are added to: it knows whose bed they are, and takes a change to it."""

    @property
    def bed(self) -> Bed | None:
        """Its bed."""
        raise TypeError("a form says itself whose bed it is")

    def change_bed(self, fields: dict[str, Any]) -> None:
        """Change some fields of the bed."""

    def set_bed(self, bed: Bed | dict[str, Any] | None) -> None:
        """Take another bed."""


class BedFields:
    """Adds a bed's fields to the form of the Sound view and keeps them right."""

    def __init__(self, form: "BedForm") -> None:
        self._form = form
        self.heading = form.heading
        self.kind = form.free_choice("Bed", self._choose, (None, "none"), *KINDS)
        self.under = form.free_number("Under the voice", 0, 40, self._setter("under_voice", float), " LU")
        self.lift = form.free_number("Up between", 0, 20, self._setter("lift", float), " dB")
        self.swell = form.free_number("With the breath", 0, 12, self._setter("swell", float), " dB")
        set_tip(self.swell, "How far it falls as the breath empties; 0: it does not follow the breath")
        self.controls = {
            name: form.free_number(label, 0, 100, self._setter(name, lambda n: n / 100), " %")
            for name, label in _CONTROLS
        }
        self.file = Label(objectName="muted", wordWrap=True)
        form.row("Recording", self.file)
        self.begin = form.free_line("From", seconds_number, self._setter("begin"), "0")
        self.end = form.free_line("To", optional(seconds_number), self._setter("end"), "its end")
        self.crossfade = form.free_line("Crossfade", seconds_number, self._setter("crossfade"), "seconds")
        self.tempo = form.free_line("Tempo", optional(_bpm), self._set_tempo, "none")
        self.pace = form.free_line("Pace", _pace, self._setter("pace"), "per cent faster")
        self.on_counts = form.free_tick("Beats begin on the counts", self._setter("on_counts"))
        self.follows = form.free_tick("Slows down as the counts do", self._setter("follows"))
        set_tip(self.follows, "By at most 8 %, at the same pitch; between sets it stays as it was")
        self._of_recording = (self.file, self.begin, self.end, self.crossfade, self.tempo, self.follows)
        self._of_pulse = (self.pace, self.on_counts)

    def _setter(self, name: str, convert: Callable[[Any], Any] = lambda value: value) -> Callable[[Any], None]:
        return lambda value: self._form.change_bed({name: convert(value)})

    def _set_tempo(self, bpm: float | None) -> None:
        bed = self._form.bed
        if isinstance(bed, FileBed):
            before = bed.pulse or BeatGrid(bpm=60)
            none = {"pulse": None, "pace": 1.0}  # what has no beat has no pace to be set
            self._form.change_bed(none if bpm is None else {"pulse": {**dict(before), "bpm": bpm}})

    def _choose(self, kind: str | None) -> None:
        form, new = self._form, None
        if kind is not None:
            new = bed_of_kind(kind, form.bed, form, form.document.folder)
            if new is None:
                self.show()  # nothing was chosen: the choice goes back
                return
        form.set_bed(new)

    def show(self) -> None:
        """Show the form's bed."""
        bed, form = self._form.bed, self._form
        self.kind.show_value(None if bed is None else bed.kind)
        for field in (self.under, self.lift, self.swell):
            form.show_row(field, bed is not None)
        if bed is not None:
            self.under.show_value(round(bed.under_voice))
            self.lift.show_value(round(bed.lift))
            self.swell.show_value(round(bed.swell))
        for name, field in self.controls.items():
            form.show_row(field, isinstance(bed, GeneratedBed))
            if isinstance(bed, GeneratedBed):
                field.show_value(round(100 * getattr(bed, name)))
        for each in self._of_recording:
            form.show_row(each, isinstance(bed, FileBed))
        for part in self._of_pulse:
            form.show_row(part, isinstance(bed, FileBed) and bed.pulse is not None)
        if isinstance(bed, FileBed):
            self.file.setText(Path(bed.file.path).name)
            set_tip(self.file, bed.file.path)
            self.begin.show_text(f"{bed.begin:g}")
            self.end.show_text("" if bed.end is None else f"{bed.end:g}")
            self.crossfade.show_text(f"{bed.crossfade:g}")
            self.tempo.show_text("" if bed.pulse is None else f"{bed.pulse.bpm:.2f} bpm")
            self.pace.show_text(f"{100 * (bed.pace - 1):.3g} %".replace("-", "\N{MINUS SIGN}"))
            self.on_counts.setChecked(bed.on_counts)
            self.follows.setChecked(bed.follows)
