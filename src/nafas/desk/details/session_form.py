"""Details of the whole session."""

from typing import Any

from PySide6.QtWidgets import QCheckBox, QLabel

from nafas.desk.details.bed_fields import BedFields
from nafas.desk.details.form import Form, optional, seconds
from nafas.desk.document import Document
from nafas.desk.fields import ParsedText
from nafas.script import Session
from nafas.script.exact import decimal_text
from nafas.script.languages import NAMES_AND_CUES
from nafas.script.targets import TARGETS
from nafas.script.wording import format_wording, parse_wording
from nafas.timing.clock import clock, parse_clock


class SessionForm(Form):
    """The whole session: shown when no block is chosen."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Session")
        self.title = self.line("Title", "title", str.strip, "Untitled session")
        self.target = self.line("Target", "target_length", optional(parse_clock), "none; such as 6:00")
        self.count = self.line("Count", "count_length", seconds, "seconds a count")
        self.opening = self.line("Opening", "opening", seconds, "seconds before the first word")
        self.closing = self.line("Closing", "closing", seconds, "seconds after the last")
        names = sorted((name, code) for code, (name, _) in NAMES_AND_CUES.items())
        self.language = self.choice(
            "Language", lambda value: self.set("language", value, "Language"), *((code, name) for name, code in names)
        )
        self.bell = QCheckBox("End bell")
        self.bell.clicked.connect(lambda on: self.set("end_bell", on, "End bell"))
        self.form.addRow("", self.bell)
        self.note = QLabel(objectName="muted")
        self.note.setWordWrap(True)
        self.rest.addWidget(self.note)
        self.chimes = self.choice(
            "Chimes", self._choose_chimes,
            ("tones", "soft tones"), ("bowls", "struck bowls"), ("wood", "wood"), ("drops", "water drops"),
        )  # fmt: skip
        self.bed = BedFields(self)
        self.section("Master")
        self.use = self.choice(
            "For", self._choose_use, *[(target.key, target.words) for target in TARGETS], (None, "own")
        )
        self.loudness = self.free_line(
            "Loudness", _loudness, lambda value: self._set_master(loudness=value), "LUFS, such as -16"
        )
        self.artist = self.free_line("Artist", str.strip, lambda value: self._set_tags(artist=value), "none")
        self.album = self.free_line("Album", str.strip, lambda value: self._set_tags(album=value), "none")
        self.section("Wording")
        self.wording = ParsedText(
            "Wording", parse_wording, "Words instead of the language's own, such as\nexhale: let go\nlast: one more"
        )
        self.wording.changed.connect(lambda value: self.set("wording", value, "Wording"))
        self.wording.left.connect(document.part)
        self.rest.addWidget(self.wording)
        self.rest.addStretch(1)
        self.first = self.title.line

    def _set_master(self, **fields: object) -> None:
        master = self.document.session.master
        self.set("master", {**dict(master), **fields}, "Master")

    def _set_tags(self, **fields: object) -> None:
        self.set("tags", {**dict(self.document.session.tags), **fields}, "Tags")

    def _choose_chimes(self, family: str) -> None:
        self.set("chimes", {**dict(self.document.session.chimes), "family": family}, "Chimes")

    def _choose_use(self, key: str | None) -> None:
        found = next((target for target in TARGETS if target.key == key), None)
        if found is not None:
            self._set_master(loudness=found.loudness, mono=found.mono)

    def show_value(self, value: Any) -> None:
        session: Session = value
        self.title.show_text(session.title)
        self.target.show_text("" if session.target_length is None else clock(session.target_length))
        self.count.show_text(decimal_text(session.count_length))
        self.opening.show_text(decimal_text(session.opening))
        self.closing.show_text(decimal_text(session.closing))
        self.language.show_value(session.language)
        self.bell.setChecked(session.end_bell)
        self.chimes.show_value(session.chimes.family)
        self.bed.show(session)
        master = session.master
        uses = {(target.loudness, target.mono): target.key for target in TARGETS}
        self.use.show_value(uses.get((master.loudness, master.mono)))
        self.loudness.show_text(f"{session.master.loudness:g}")
        self.artist.show_text(session.tags.artist)
        self.album.show_text(session.tags.album)
        self.wording.show_text(format_wording(session.wording))
        book = session.voice.take_book
        voice = f"take book {book.path}" if book else "the stand-in voice"
        ceiling = f"{session.master.ceiling:g}".replace("-", "\N{MINUS SIGN}")
        self.note.setText(f"Voice: {voice}. Peaks of the master: at most {ceiling} dBTP. Lengths are in seconds.")


def _loudness(text: str) -> float:
    """LUFS as typed. Raises ValueError."""
    plain = text.strip().lower().removesuffix("lufs").strip().replace("\N{MINUS SIGN}", "-")
    try:
        return float(plain)
    except ValueError:
        raise ValueError(f"{text.strip()[:20]!r} is no loudness; write LUFS, such as -16") from None
