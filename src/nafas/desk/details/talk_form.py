"""Details of talk, and of natural breath."""

from typing import Any

from nafas.desk.details.form import Form, optional, seconds
from nafas.desk.details.voice_fields import VoiceFields
from nafas.desk.document import Document
from nafas.script.edits.session_edits import write_talk
from nafas.script.model.exact import decimal_text
from nafas.script.model.sentences import MAX_PARAGRAPHS


class TalkForm(Form):
    """Talk: words, pauses, and how long."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Talk")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.between = self.line("Between sentences", "sentence_pause", seconds, write=decimal_text)
        self.paragraph = self.line("Between paragraphs", "paragraph_pause", seconds, write=decimal_text)
        self.after = self.line("Pause after", "pause_after", seconds, write=decimal_text)
        self.slot = self.line("Fixed length", "slot", optional(seconds), "as long as it takes", decimal_text)
        self.locked = self.lock()
        self.voice = VoiceFields(self)
        self.words = self.text("Words", "paragraphs", "What is said. A new line begins a paragraph, [4s] is a pause.")
        self.words.goes_on = True
        self.first = self.words

    def show_more(self, value: Any) -> None:
        self.voice.show(value)

    def set(self, name: str, value: object, label: str) -> None:
        """As `Form.set`; words that one block has no room for go on in blocks after it."""
        if name != "paragraphs" or not isinstance(value, tuple) or len(value) <= MAX_PARAGRAPHS:
            super().set(name, value, label)
            return
        self.take(lambda: write_talk(self.document.session, self.index, value), label, name)
        self.document.trouble.emit(f"A block holds {MAX_PARAGRAPHS:,} paragraphs: the rest is in the next block.")


class RestForm(Form):
    """Natural breath for an exact time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Natural breath")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.seconds = self.line("Seconds", "seconds", seconds, write=decimal_text)
        self.shortest = self.line("Fitted, at least", "shortest", optional(seconds), "usually 15", decimal_text)
        self.longest = self.line("Fitted, at most", "longest", optional(seconds), "usually 90", decimal_text)
        self.between = self.line("Between sentences", "sentence_pause", seconds, write=decimal_text)
        self.locked = self.lock()
        self.voice = VoiceFields(self)
        self.words = self.text("Words over its beginning", "paragraphs", "May stay empty. [4s] is a pause.")
        self.first = self.words

    def show_more(self, value: Any) -> None:
        self.voice.show(value)
