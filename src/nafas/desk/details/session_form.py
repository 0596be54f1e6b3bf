"""Details of the whole session."""

from typing import Any

from nafas.desk.details.form import Form, seconds
from nafas.desk.details.narrator_fields import NarratorFields
from nafas.desk.details.wording_fields import WordingFields
from nafas.desk.document import Document
from nafas.desk.widgets.labels import Label
from nafas.desk.widgets.length_field import LengthField
from nafas.languages import LANGUAGES, language_name
from nafas.script import Session
from nafas.script.model.exact import decimal_text


class SessionForm(Form):
    """The whole session: shown when no block is chosen."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Session")
        self.title = self.line("Title", "title", str.strip, "Untitled session")
        self.target = LengthField("Target", "none; such as 6:00")
        self.target.changed.connect(lambda value: self.set("target_length", value, "Target"))
        self.target.left.connect(document.part)
        self.row("Target", self.target)
        self.bind("target_length", self.target, self.target.show_length)
        self.count = self.line("Count", "count_length", seconds, "seconds a count", decimal_text)
        self.opening = self.line("Opening", "opening", seconds, "seconds before the first word", decimal_text)
        self.closing = self.line("Closing", "closing", seconds, "seconds after the last", decimal_text)
        names = sorted((language_name(code), code) for code in LANGUAGES)
        self.language = self.choice("Language", "language", *((code, name) for name, code in names))
        self.bell = self.tick("End bell", "end_bell")
        self.note = Label(objectName="muted", wordWrap=True)
        self.rest.addWidget(self.note)
        self.narrator = NarratorFields(self)
        self.wording = WordingFields(self)
        self.rest.addStretch(1)
        self.first = self.title.line

    def show_more(self, value: Any) -> None:
        session: Session = value
        self.narrator.show(session)
        self.wording.show(session)
        book = session.voice.take_book
        voice = f"take book {book.path}" if book else "the narrator alone"
        self.note.setText(f"Voice: {voice}. Bed, chimes and loudness: Sound (Ctrl+4). Lengths are in seconds.")
