"""The natural breath between steps: how long, and what is said after which step."""

from nafas.desk.details.form import Form, seconds, shown_set
from nafas.desk.details.row_list import FieldRow, RowList
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.fields import CheckedLine
from nafas.desk.widgets.labels import Label
from nafas.script import BreathSet
from nafas.script.model.exact import decimal_text
from nafas.suggest.detail_words import ease_words, steps_between


class EaseRow(FieldRow):
    """What is said after one step."""

    def __init__(self, fields: "EaseFields", number: int) -> None:
        super().__init__(lambda: fields.remove(number), "Say the same as after the step before")
        self.after = Label()
        self.words = CheckedLine(f"Words after step {number + 1}", _no_bar, "relax, and breathe as you like")
        self.words.changed.connect(lambda words: fields.change(number, words))
        self.place((self.after, 0), (self.words, 1))


class EaseFields:
    """Adds the fields to a form of a set and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.seconds = form.line("Ease between", "ease", seconds, "seconds", decimal_text)
        self.told = Label(objectName="muted", wordWrap=True)
        form.whole(self.told)
        self.list = RowList(lambda index: EaseRow(self, index))
        form.whole(self.list)
        self.add = Button(
            "Other words after the next step\N{HORIZONTAL ELLIPSIS}",
            lambda: self._take([*self._words, self._words[-1]]),
            kind="small",
            tip="What is said is the same after every step, or differs from one to the next",
        )
        form.whole(self.add)

    @property
    def _words(self) -> list[str]:
        return [part.strip() for part in shown_set(self._form).ease_words.split("|")]

    def _take(self, words: list[str]) -> None:
        self._form.set("ease_words", " | ".join(words).strip(), "Words in the ease")

    def change(self, number: int, text: str) -> None:
        """Say something else after a step."""
        words = self._words
        if number < len(words):
            words[number] = text
            self._take(words)

    def remove(self, number: int) -> None:
        """Say there what is said after the step before."""
        words = self._words
        self._take([*words[:number], *words[number + 1 :]])

    def show(self, block: BreathSet) -> None:
        """Show a set's ease."""
        length = self._form.document.session.count_length_of(block)
        times = steps_between(block, length)
        message = ease_words(block, length)
        self.told.setText(message)
        words = self._words
        for index, (row, text) in enumerate(zip(self.list.show_rows(len(words) if block.ease else 0), words)):
            last = index == len(words) - 1
            on = "" if not last or index + 1 >= times else " on" if index else ""
            row.after.setText("Said in it" if len(words) == 1 else f"After step {index + 1}{on}")
            row.words.show_text(text)
            row.remove.setVisible(len(words) > 1)
        for field, shown in (
            (self.seconds, times > 0 or block.ease > 0),
            (self.told, bool(message)),
            (self.list, block.ease > 0),
            (self.add, block.ease > 0 and len(words) < times),
        ):
            self._form.show_row(field, shown)


def _no_bar(text: str) -> str:
    if "|" in text:
        raise ValueError("a bar stands between the words of different steps; use the button below for those")
    return text.strip()
