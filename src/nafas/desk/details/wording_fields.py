"""What the session says of its own accord, phrase by phrase: the language's words, or one's own in their place."""

from functools import partial

from nafas.desk.details.form import Form
from nafas.desk.widgets.fields import CheckedLine, ParsedText
from nafas.desk.widgets.labels import Label
from nafas.plain_text import pluralize
from nafas.script import Session
from nafas.script.words.lexicon import CUE_KEYS, lexicon_of
from nafas.script.words.wording import Wording, format_wording, parse_wording

_CUES = {key: kind for kind, key in CUE_KEYS.items()}
_LABELS = {
    "inhale": "Inhale", "hold_full": "Hold, full", "exhale": "Exhale", "hold_empty": "Hold, empty",
    "left": "Left", "right": "Right", "both": "Both sides", "half": "Half-way", "more": "Seconds left",
    "more_counts": "Counts left", "release": "Release", "last": "Last round", "round": "A round by name",
    "minute": "One minute left", "normal_in": "Preparing, in",
    "normal_out": "Preparing, out", "mind": "In the mind", "hum": "Hum", "chant": "Chant", "sigh": "Sigh",
    "stroke": "A stroke", "arms_up": "Arms up", "arms_down": "Arms down",
}  # fmt: skip


class WordingFields:
    """Adds the fields to a session's form, once they are looked at, and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.section = form.fold("Wording")
        self.lines: dict[str, CheckedLine] = {}
        self._layout = form.form
        self.section.opened.connect(self._make)

    def _make(self) -> None:
        if self.lines:
            return
        form, self._form.form = self._form, self._layout
        text = Label(
            "Your own words in the place of the language's. {n} stands for a number.", objectName="muted", wordWrap=True
        )
        form.whole(text)
        for name in Wording.model_fields:
            self.lines[name] = form.free_line(_LABELS[name], str.strip, partial(self._change, name))
        self.written = ParsedText("As written", parse_wording, "exhale: let go\nlast: one more")
        self.written.changed.connect(lambda value: form.set("wording", value, "Wording"))
        self.written.left.connect(form.document.part)
        form.whole(Label("As written"))
        form.whole(self.written)
        self.show(form.document.session)

    def _change(self, name: str, words: str) -> None:
        wording = self._form.document.session.wording
        said = {field: getattr(wording, field) for field in Wording.model_fields}
        self._form.set("wording", {**said, name: words or None}, f"Wording of {_LABELS[name].lower()}")

    def show(self, session: Session) -> None:
        """Show a session's wording."""
        own = sum(getattr(session.wording, name) is not None for name in Wording.model_fields)
        text = pluralize(own, "phrase of its own", "phrases of its own") if own else "as the language says it"
        self.section.show_relevant(False, text)
        if not self.lines:
            return
        usual = lexicon_of(session.language, Wording())
        for name, line in self.lines.items():
            line.show_text(getattr(session.wording, name) or "")
            words = usual.kind(_CUES[name]) if name in _CUES else usual.find(name)
            line.line.setPlaceholderText(words or "no words yet")
        self.written.show_text(format_wording(session.wording))

    def flush(self) -> None:
        """Hand over what was typed last, now."""
        if self.lines:
            self.written.flush()
