"""Details of a breath set: its pattern, how it changes, how much is said, and what comes of it round by round."""

from fractions import Fraction
from typing import Any

from nafas.desk.details.calls_fields import CallsFields
from nafas.desk.details.ease_fields import EaseFields
from nafas.desk.details.fade_fields import FadeFields
from nafas.desk.details.form import Form, optional, parse_whole, shown_set, write_whole
from nafas.desk.details.pacing_fields import PacingFields
from nafas.desk.details.phase_form import PhaseForm
from nafas.desk.details.prepare_fields import PrepareFields
from nafas.desk.details.voice_fields import VoiceFields
from nafas.desk.document import Document
from nafas.desk.widgets.labels import Label
from nafas.plain_text import pluralize
from nafas.script import BreathSet, Counting, Side, expand
from nafas.script.expansion import cue_room_seconds, runs
from nafas.script.model.blocks import CountStyle
from nafas.script.model.exact import decimal_text
from nafas.script.model.pacing import MAX_ROUNDS, Ladder, StepUp
from nafas.script.notation.phases import format_pattern
from nafas.script.notation.set import parse_count
from nafas.script.notation.writing import format_count
from nafas.suggest.pacing_words import LEVEL_WORDS

_ROUNDS_SHOWN = 40


class SetForm(Form):
    """A breath set. The chosen phase has a group of its own at the end."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Breath set")
        self.title = self.line("Title", "title", str.strip, "the pattern")
        self.pattern = self.line("Pattern", "pattern", parse_whole, "4-2-8", write_whole)
        self.rounds = self.number("Rounds", "rounds", 1, MAX_ROUNDS)
        self.count = self.free_line("Count", parse_count, self._set_count, "as the session")
        self.locked = self.lock()
        self._changes()
        self._guidance()
        self._counting()
        self.calls = CallsFields(self)
        self.voice = VoiceFields(self)
        self.phase = PhaseForm(document, self)
        self.rest.addWidget(self.phase)
        self.each = self.fold("Round by round")
        self.expanded = Label(objectName="muted", wordWrap=True)
        self.whole(self.expanded)
        self.rest.addStretch(1)
        self.first = self.pattern.line

    def _changes(self) -> None:
        self.changes = self.fold("From step to step")
        self.pacing = PacingFields(self)
        self.drop = self.choice(
            "Last hold", "drop_hold",
            ("keep", "is kept"), ("step", "of each step is left out"), ("last", "of the set is left out"),
        )  # fmt: skip
        self.ease = EaseFields(self)

    def _guidance(self) -> None:
        self.guidance = self.fold("How much is said")
        self.prepare = PrepareFields(self)
        self.fade = FadeFields(self)
        self.chimes = self.tick("A chime on every phase", "chimes")
        self.pacer = self.tick("The breath is heard", "pacer", "As the session has it: Sound, Chimes, Breath")
        self.last = self.tick("Announce the last round", "style.announce_last")
        self.ahead = self.number("Said", "style.last_ahead", 1, 30, " counts before")
        self.long = self.tick("Long forms in the first round of a step", "style.long_forms")
        self.ways = self.tick(
            "Say nose, mouth and how full",
            "style.ways",
            "Once, in the first round of each step; nothing of it where no route or fill is written",
        )
        self.mind = self.tick("In the mind, no hands", "mind")
        self.side = self.choice(
            "Begins and ends", "starts_on", (Side.LEFT, "on the left"), (Side.RIGHT, "on the right")
        )

    def _counting(self) -> None:
        self.aloud = self.fold("Counting aloud")
        self.cue = self.choice(
            "Cue", "style.cue",
            ("on-one", "takes count one"), ("ahead", "comes ahead"), ("none", "none: counts alone"),
        )  # fmt: skip
        self.room = self.number("Cue room", "style.cue_room", 1, 8, " counts")
        self.first_room = self.line("In round one", "style.first_room", optional(int), "as in the others")
        self.cost = Label(objectName="muted", wordWrap=True)
        self.row("", self.cost)
        self.counting = self.choice(
            "Counting", "style.counting",
            (Counting.UP, "up"), (Counting.DOWN, "down"), (Counting.SILENT, "silent"), (Counting.TICK, "soft ticks"),
        )  # fmt: skip
        self.carrier = self.line("Carrier word", "style.carrier", optional(str.strip), "none; sea one, sea two")

    def block(self) -> BreathSet:
        """The set that is shown."""
        return shown_set(self)

    def _set_count(self, value: tuple[Fraction | None, str | None]) -> None:
        self.set_many({"count_length": value[0], "count_from": value[1]}, "Count")

    def show_more(self, value: Any) -> None:
        block: BreathSet = value
        steps = isinstance(block.pacing, StepUp | Ladder)
        self.name_row(self.rounds, "Rounds a step" if steps else "Rounds")
        self.count.show_text(format_count(block.count_length, block.count_from))
        self.count.line.setPlaceholderText(f"as the session: {decimal_text(self.document.session.count_length)} s")
        self.pacing.show(block)
        self.ease.show(block)
        self.prepare.show(block)
        self.fade.show(block)
        self.calls.show(block)
        self.voice.show(block)
        self._show_style(block)
        self._show_rounds(block)
        self._fold(block)

    def _fold(self, block: BreathSet) -> None:
        """Open what matters for this set; the rest says in a few words what it holds."""
        style, usual = block.style, CountStyle()
        steps = block.pacing is not None or block.ease > 0
        self.changes.show_relevant(steps, "stays the same")
        led = bool(block.fade) or block.prepare is not None or block.mind
        self.guidance.show_relevant(led, "every count")
        fields = ("cue", "cue_room", "first_room", "counting", "carrier")
        counted = any(getattr(style, name) != getattr(usual, name) for name in fields)
        self.aloud.show_relevant(counted, "up, cue on one")

    def _show_style(self, block: BreathSet) -> None:
        self.show_row(self.ahead, block.style.announce_last)
        # Only what matters for this set: sides where there are any, ways where any are written.
        rounds = expand(block, self.document.session.count_length_of(block))
        phases = [phase for each in {id(one.phases): one.phases for one in rounds}.values() for phase in each]
        sided = any(phase.side is not None for phase in phases)
        self.show_row(self.side, sided)
        self.show_row(self.mind, sided or block.mind)
        self.show_row(self.pacer, self.document.session.chimes.pacer != "none" or not block.pacer)
        self.show_row(self.ways, any(phase.route is not None or phase.fill is not None for phase in phases))
        ahead = block.style.cue == "ahead"
        for field in (self.room, self.first_room, self.cost):
            self.show_row(field, ahead)
        if ahead:
            cost = cue_room_seconds(block, self.document.session.count_length_of(block))
            self.cost.setText(f"That room takes {decimal_text(Fraction(round(cost * 10), 10))} s of this set")

    def _show_rounds(self, block: BreathSet) -> None:
        rounds = expand(block, self.document.session.count_length_of(block))
        groups = runs(rounds, words=False)
        lines, before = [], None
        for first, last in groups[:_ROUNDS_SHOWN]:
            which = f"{first.number}" if first is last else f"{first.number}–{last.number}"
            pattern = "" if first.phases == before else f"{format_pattern(first.phases)}, "
            seconds = decimal_text(Fraction(round(first.seconds * 100), 100))
            lines.append(f"{which}:  {pattern}{seconds} s, {LEVEL_WORDS[first.level]}")
            before = first.phases
        if len(groups) > _ROUNDS_SHOWN:
            lines.append(f"and {len(groups) - _ROUNDS_SHOWN} more")
        total = decimal_text(Fraction(round(sum((one.seconds for one in rounds), Fraction(0)) * 10), 10))
        whole = f"{pluralize(len(rounds), 'round')}, {total} s"
        self.expanded.setText("\n".join([*lines, whole]))
        self.each.show_relevant(False, whole)

    def show_phase(self, round_number: int, phase: int) -> None:
        """Show the group of the chosen phase, or none."""
        self.phase.show_phase(round_number, phase)
