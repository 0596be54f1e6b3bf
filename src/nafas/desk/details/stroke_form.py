"""Details of rapid strokes."""

from typing import Any

from nafas.desk.details.form import Form, seconds
from nafas.desk.details.voice_fields import VoiceFields
from nafas.desk.document import Document
from nafas.script import Counting
from nafas.script.model.exact import decimal_text
from nafas.script.model.exact import parse_seconds as exact


class StrokeForm(Form):
    """Strokes: how many, how fast, what is said, the demonstration before and the recovery after."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Rapid strokes")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.kind = self.choice("Form", "form", ("rapid", "rapid exhale"), ("bellows", "bellows, both ways"))
        self.strokes = self.number("Strokes", "strokes", 1, 600)
        self.rate = self.line("A minute", "per_minute", exact, "60", decimal_text)
        self.locked = self.lock()
        self.section("Counting aloud")
        self.every = self.number("Every", "every", 0, 100, " strokes", none="none")
        self.counting = self.choice("Counting", "counting", (Counting.UP, "up"), (Counting.DOWN, "down"))
        self.ticks = self.tick("A soft sound on every stroke", "ticks")
        self.section("Before and after")
        self.demonstration = self.number("Slow strokes", "demonstration", 0, 30)
        self.slow = self.line("A minute", "demonstration_per_minute", exact, "10", decimal_text)
        self.count_in = self.number("Count-in", "count_in", 0, 8, " s", none="none")
        self.arms = self.tick("Arms up and down", "arms")
        self.recovery = self.line("Recovery", "recovery", seconds, "seconds of natural breath", decimal_text)
        self.words = self.line("Words in it", "recovery_words", str.strip, "let it settle")
        self.voice = VoiceFields(self)
        self.rest.addStretch(1)
        self.first = self.rate.line

    def show_more(self, value: Any) -> None:
        self.voice.show(value)
        self.show_row(self.slow, value.demonstration > 0)
