"""Who speaks in one block, and in which language, where it is otherwise than in the session."""

from nafas.desk.details.form import Form, optional
from nafas.desk.widgets.labels import set_tip
from nafas.languages import LANGUAGES, language_name
from nafas.script import Block
from nafas.script.model.voice import ESPEAK, Pace, pace_of
from nafas.voice.engines.voice_files import natural_voices_run, voice_files

_AS_SESSION = (None, "as the session")


class VoiceFields:
    """Adds the fields to a form of a block and keeps them right. They are made when they are first opened."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.section = form.fold("Language and narrator")
        languages = sorted((language_name(code), code) for code in LANGUAGES)
        self.language = form.choice("Language", "language", _AS_SESSION, *((code, name) for name, code in languages))
        self.narrator = form.free_choice("Narrator", lambda name: form.set("narrator", name, "Narrator"), _AS_SESSION)
        set_tip(self.narrator, "A narrator of its own reads all of the block; takes are the session's voice")
        self.pace = form.line("Pace", "pace", optional(pace_of), "as the session; 105, or 105 to 80", _pace_text)
        set_tip(self.pace, "Words a minute, or from the first to the last sentence; takes keep their own pace")
        self._files = voice_files() if natural_voices_run() else []

    def show(self, block: Block) -> None:
        """Show a block's voice."""
        session = self._form.document.session
        language = block.language or session.language
        options: list[tuple[object, str]] = [_AS_SESSION, (ESPEAK, "eSpeak")]
        options += [(file.name, f"{file.name}, natural") for file in self._files if file.speaks(language)]
        if block.narrator not in [value for value, _ in options]:
            options.append((block.narrator, f"{block.narrator}, not for {language_name(language)} here"))
        self.narrator.set_options(*options)
        self.narrator.show_value(block.narrator)
        self.section.show_relevant(bool(block.speaker), block.speaker or "as the session")


def _pace_text(pace: Pace) -> str:
    return pace.text
