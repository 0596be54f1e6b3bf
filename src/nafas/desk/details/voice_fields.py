"""Who speaks in one block, in which language, where it is otherwise than in the session, and what the block plays."""

import os
from pathlib import Path, PurePosixPath

from nafas.desk.details.form import Form, optional
from nafas.desk.details.recording_fields import RecordingFields
from nafas.desk.dialogs.folder import ask_folder
from nafas.desk.widgets.labels import set_tip
from nafas.errors import InputError
from nafas.languages import LANGUAGES, language_name
from nafas.script import Block
from nafas.script.model.assets import Asset
from nafas.script.model.voice import ESPEAK, Pace, pace_of
from nafas.state.permissions import permit
from nafas.voice.engines.voice_files import natural_voices_run, voice_files
from nafas.voice.takebook.writing import begin_book

_AS_SESSION = (None, "as the session")
_ANOTHER = "another"


class VoiceFields:
    """Adds the fields to a form of a block and keeps them right. They are made when they are first opened."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.section = form.fold("Language and narrator")
        languages = sorted((language_name(code), code) for code in LANGUAGES)
        self.language = form.choice("Language", "language", _AS_SESSION, *((code, name) for name, code in languages))
        self.narrator = form.free_choice("Narrator", lambda name: form.set("narrator", name, "Narrator"), _AS_SESSION)
        set_tip(self.narrator, "A narrator of its own reads all of the block but takes of its own")
        self.takes = form.free_choice("Takes", self._choose_takes, _AS_SESSION)
        set_tip(self.takes, "Another person's takes for this block; lines they lack are read by the narrator")
        self.pace = form.line("Pace", "pace", optional(pace_of), "as the session; 105, or 105 to 80", _pace_text)
        set_tip(self.pace, "Words a minute, or from the first to the last sentence; takes keep their own pace")
        self._files = voice_files() if natural_voices_run() else []
        self.recordings = RecordingFields(form)

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
        books = {book.path: book for book in session.take_books if book != session.voice.take_book}
        own = [(book, PurePosixPath(path).name) for path, book in books.items()]
        self.takes.set_options(_AS_SESSION, *own, (_ANOTHER, "another take book…"))
        self.takes.show_value(block.take_book)
        self.section.show_relevant(bool(block.speaker), block.speaker or "as the session")
        self.recordings.show(block)

    def _choose_takes(self, book: object) -> None:
        if book != _ANOTHER:
            self._form.set("take_book", book, "Takes")
            return
        self.show(self._form.document.session.blocks[self._form.index])
        title = "A take book, or an empty folder to begin one in"
        if name := ask_folder(self._form.window(), title, str(self._form.document.folder)):
            self.use_takes(Path(name))

    def use_takes(self, folder: Path) -> None:
        """Let the block speak with the take book in a folder, which begins there if the folder is empty; what cannot be
        is reported."""
        document = self._form.document
        try:
            begin_book(folder, folder.name)
        except InputError as error:
            document.trouble.emit(str(error))
            return
        permit([folder])
        relative = os.path.relpath(folder.resolve(), document.folder.resolve())
        self._form.set("take_book", Asset(path=Path(relative).as_posix()), "Takes")


def _pace_text(pace: Pace) -> str:
    return pace.text
