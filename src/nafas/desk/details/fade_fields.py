"""How the voice thins out, in rows: how much is said, for how many rounds; and what comes of it in a sentence."""

from nafas.desk.details.form import Form, shown_set
from nafas.desk.details.row_list import FieldRow, RowList
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.fields import Choice, Number
from nafas.desk.widgets.labels import Label, set_tip
from nafas.script import BreathSet, Level
from nafas.script.model.guidance import FadeStep
from nafas.script.model.pacing import MAX_ROUNDS
from nafas.script.notation.set import parse_fade
from nafas.script.notation.writing import format_fade
from nafas.suggest.pacing_words import fade_words, usual_fade

_LEVELS = (
    (Level.FULL, "every count"), (Level.CUES, "cue words"), (Level.CHIMES, "chimes only"), (Level.SILENT, "nothing"),
)  # fmt: skip


class FadeRow(FieldRow):
    """One step of the fade."""

    def __init__(self, fields: "FadeFields", number: int) -> None:
        super().__init__(lambda: fields.remove(number), "Remove this step")
        self.level = Choice("How much is said", *_LEVELS)
        self.level.chose.connect(lambda level: fields.change(number, level=level))
        self.rounds = Number("Rounds", 0, MAX_ROUNDS)
        self.rounds.setSpecialValueText("the rest")
        self.rounds.setSuffix(" rounds")
        self.rounds.changed.connect(lambda count: fields.change(number, rounds=count or None))
        self.seconds = Label(objectName="muted")
        self.place((self.level, 1), (self.rounds, 0), (self.seconds, 0))

    def show_step(self, step: FadeStep) -> None:
        self.level.show_value(step.level)
        self.rounds.setVisible(step.seconds is None)
        self.seconds.setVisible(step.seconds is not None)
        if step.seconds is None:
            self.rounds.show_value(step.rounds or 0)
        else:
            self.seconds.setText(f"{'about' if step.rule == 'about' else 'at least'} {float(step.seconds):g} s")


class FadeFields:
    """Adds the rows to a form of a set and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self._list = RowList(lambda index: FadeRow(self, index))
        form.whole(Label("The voice says"))
        form.whole(self._list)
        self.words = Label(objectName="muted", wordWrap=True)
        form.whole(self.words)
        self.add = Button(
            "Thin out\N{HORIZONTAL ELLIPSIS}",
            lambda: form.set("fade", usual_fade(shown_set(form).fade), "Voice"),
            kind="small",
            tip="Another step: less is said from there on",
        )
        form.whole(self.add)
        self.written = form.line("As written", "fade", parse_fade, "full 3 cues 2 chimes", format_fade)
        set_tip(self.written, "full, cues, chimes or silent, each with its rounds; or silent about 60s, at-least 60s")

    @property
    def rows(self) -> list[FadeRow]:
        """The rows that are shown."""
        return self._list.rows

    def change(self, number: int, **fields: object) -> None:
        """Change a step."""
        fade = list(shown_set(self._form).fade)
        if number < len(fade):
            fade[number] = fade[number].replace(**fields)
            self._form.set("fade", tuple(fade), "Voice")

    def remove(self, number: int) -> None:
        """Take a step out."""
        fade = shown_set(self._form).fade
        self._form.set("fade", (*fade[:number], *fade[number + 1 :]), "Voice")

    def show(self, block: BreathSet) -> None:
        """Show a set's fade."""
        for row, step in zip(self._list.show_rows(len(block.fade)), block.fade):
            row.show_step(step)
        self.add.setText("Thin out\N{HORIZONTAL ELLIPSIS}" if not block.fade else "And then\N{HORIZONTAL ELLIPSIS}")
        words = fade_words(block, self._form.document.session.count_length_of(block))
        self.words.setText(words or "Every count of every round.")
