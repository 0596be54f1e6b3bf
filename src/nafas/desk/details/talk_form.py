"""Details of talk, and of natural breath."""

from typing import Any

from nafas.desk.details.form import Form, optional, seconds
from nafas.desk.document import Document
from nafas.script import Rest, Talk
from nafas.script.model.exact import decimal_text


class TalkForm(Form):
    """Talk: words, pauses, and how long."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Talk")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.between = self.line("Between sentences", "sentence_pause", seconds)
        self.paragraph = self.line("Between paragraphs", "paragraph_pause", seconds)
        self.after = self.line("Pause after", "pause_after", seconds)
        self.slot = self.line("Fixed length", "slot", optional(seconds), "as long as it takes")
        self.locked = self.lock()
        self.words = self.text("Words", "paragraphs", "What is said. A new line begins a paragraph, [4s] is a pause.")
        self.first = self.words

    def show_value(self, value: Any) -> None:
        block: Talk = value
        self.title.show_text(block.title)
        self.between.show_text(decimal_text(block.sentence_pause))
        self.paragraph.show_text(decimal_text(block.paragraph_pause))
        self.after.show_text(decimal_text(block.pause_after))
        self.slot.show_text("" if block.slot is None else decimal_text(block.slot))
        self.locked.setChecked(block.locked)
        self.words.show_paragraphs(block.paragraphs)


class RestForm(Form):
    """Natural breath for an exact time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Natural breath")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.seconds = self.line("Seconds", "seconds", seconds)
        self.shortest = self.line("Fitted, at least", "shortest", optional(seconds), "usually 15")
        self.longest = self.line("Fitted, at most", "longest", optional(seconds), "usually 90")
        self.between = self.line("Between sentences", "sentence_pause", seconds)
        self.locked = self.lock()
        self.words = self.text("Words over its start", "paragraphs", "May stay empty. [4s] is a pause.")
        self.first = self.words

    def show_value(self, value: Any) -> None:
        block: Rest = value
        self.title.show_text(block.title)
        self.seconds.show_text(decimal_text(block.seconds))
        self.shortest.show_text("" if block.shortest is None else decimal_text(block.shortest))
        self.longest.show_text("" if block.longest is None else decimal_text(block.longest))
        self.between.show_text(decimal_text(block.sentence_pause))
        self.locked.setChecked(block.locked)
        self.words.show_paragraphs(block.paragraphs)
