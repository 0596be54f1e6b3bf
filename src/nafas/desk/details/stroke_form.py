"""Details of rapid strokes."""

from typing import Any

from nafas.desk.details.form import Form, seconds
from nafas.desk.document import Document
from nafas.script import Counting, Strokes
from nafas.script.model.exact import decimal_text
from nafas.script.model.exact import parse_seconds as exact


class StrokeForm(Form):
    """Strokes: how many, how fast, what is said, the demonstration before and the recovery after."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Rapid strokes")
        self.title = self.line("Title", "title", str.strip, "what the page calls it")
        self.kind = self.choice(
            "Form", lambda value: self.set("form", value, "Form"),
            ("rapid", "rapid exhale"), ("bellows", "bellows, both ways"),
        )  # fmt: skip
        self.strokes = self.number("Strokes", 1, 600, lambda value: self.set("strokes", value, "Strokes"))
        self.rate = self.line("A minute", "per_minute", exact, "60")
        self.locked = self.lock()
        self.section("Counting aloud")
        self.every = self.number("Every", 0, 100, lambda value: self.set("every", value, "Counting"), " strokes")
        self.every.setSpecialValueText("none")
        self.counting = self.choice(
            "Counting",
            lambda value: self.set("counting", value, "Counting"),
            (Counting.UP, "up"),
            (Counting.DOWN, "down"),
        )
        self.ticks = self.tick("A soft sound on every stroke", lambda on: self.set("ticks", on, "Sound"))
        self.section("Before and after")
        self.demonstration = self.number("Slow strokes", 0, 30, lambda n: self.set("demonstration", n, "Slow strokes"))
        self.slow = self.line("A minute", "demonstration_per_minute", exact, "10")
        self.count_in = self.number("Count-in", 0, 8, lambda n: self.set("count_in", n, "Count-in"), " s")
        self.count_in.setSpecialValueText("none")
        self.arms = self.tick("Arms up and down", lambda on: self.set("arms", on, "Arms"))
        self.recovery = self.line("Recovery", "recovery", seconds, "seconds of natural breath")
        self.words = self.line("Words in it", "recovery_words", str.strip, "let it settle")
        self.rest.addStretch(1)
        self.first = self.rate.line

    def show_value(self, value: Any) -> None:
        block: Strokes = value
        self.title.show_text(block.title)
        self.kind.show_value(block.form)
        self.strokes.show_value(block.strokes)
        self.rate.show_text(decimal_text(block.per_minute))
        self.locked.setChecked(block.locked)
        self.every.show_value(block.every)
        self.counting.show_value(block.counting)
        self.ticks.setChecked(block.ticks)
        self.demonstration.show_value(block.demonstration)
        self.slow.show_text(decimal_text(block.demonstration_per_minute))
        self.show_row(self.slow, block.demonstration > 0)
        self.count_in.show_value(block.count_in)
        self.arms.setChecked(block.arms)
        self.recovery.show_text(decimal_text(block.recovery))
        self.words.show_text(block.recovery_words)
