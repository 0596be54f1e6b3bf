"""Who reads what has no take: the voice, heard before it is chosen; its pace; and words it is to read otherwise."""

from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog

from nafas.desk.audio.audition import Audition
from nafas.desk.details.form import Form
from nafas.desk.details.row_list import FieldRow, RowList
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.fields import CheckedLine, Choice
from nafas.desk.widgets.labels import Label
from nafas.desk.work.background import Note
from nafas.desk.work.latest_task import LatestTask
from nafas.errors import InputError
from nafas.languages import language_name
from nafas.script import Session
from nafas.script.model.voice import Pronunciation, Voice, VoiceModel
from nafas.voice.engines.adding import add_voice
from nafas.voice.engines.kokoro_files import FIVE, Speaker
from nafas.voice.engines.voice_files import VoiceFile, default_voice, natural_voices_run, voice_files
from nafas.voice.voice_sample import voice_sample


class Sampling(LatestTask):
    """Reads a sample of a voice and plays it."""

    def __init__(self, audition: Audition) -> None:
        super().__init__(audition)
        self._audition = audition

    def work(self, what: Any, note: Note) -> object:
        return voice_sample(*what)

    def take(self, made: Any) -> None:
        self.wanted = None  # the same voice may be asked for again
        self._audition.play(*made)


class PronunciationRow(FieldRow):
    """One word."""

    def __init__(self, fields: "NarratorFields", number: int) -> None:
        super().__init__(lambda: fields.remove(number), "Read this word as it is written")
        self.word = CheckedLine("Word", str.strip, "word")
        self.read = CheckedLine("Read as", str.strip, "read as")
        for line in (self.word, self.read):
            line.line.setMinimumWidth(50)
            line.line.editingFinished.connect(lambda: fields.change(number))
        self.place((self.word, 1), (self.read, 1))


class NarratorFields:
    """Adds the fields to a session's form, once they are looked at, and keeps them right."""

    def __init__(self, form: Form) -> None:
        self._form = form
        self.section = form.fold("Narrator")
        self._layout = form.form
        self._made = False
        self._drafts = 0
        self._files: list[VoiceFile | Speaker] = []
        self.section.opened.connect(self._make)

    def _make(self) -> None:
        if self._made:
            return
        self._made = True
        self._files = voice_files() if natural_voices_run() else []  # read once, not at every letter typed
        form, self._form.form = self._form, self._layout
        self.voice: Choice = form.free_choice("Voice", self._choose, ("auto", "as the language"))
        self.licence = Label(objectName="muted", wordWrap=True)
        form.whole(self.licence)
        self.hear = Button("Hear it", self._hear, kind="small", tip="A breath counted in this voice")
        self.audition = Audition(form)
        self.sampling = Sampling(self.audition)
        self.sampling.failed.connect(form.document.trouble)
        form.whole(self.hear)
        self.add = Button(
            "Add a voice\N{HORIZONTAL ELLIPSIS}",
            self._ask_for_voice,
            kind="small",
            tip="A natural voice from its files: its .onnx, with the .onnx.json and the model card next to it",
        )
        form.whole(self.add)
        self.get = Button(
            "Get a natural voice\N{HORIZONTAL ELLIPSIS}",
            self._get,
            kind="small",
            tip="For Spanish, French, Italian, Portuguese and Hindi; its size and licence are shown first",
        )
        form.whole(self.get)
        self.pace = form.number("Talk", "voice.pace", 80, 300, " words a minute")
        self.fills = form.tick(
            "Reads lines that have no take", "voice.fills", "Otherwise they are silent, and the report lists them"
        )
        form.whole(Label("Read otherwise"))
        self.list = RowList(lambda index: PronunciationRow(self, index))
        form.whole(self.list)
        self.another = Button(
            "A word\N{HORIZONTAL ELLIPSIS}",
            self._draft,
            kind="small",
            tip="A word the narrator is to read in another spelling, or in phonemes between [[ and ]]",
        )
        form.whole(self.another)
        form.show_value(form.document.session)

    def _set(self, **fields: object) -> None:
        voice = self._form.document.session.voice
        self._form.set("voice", {**voice.fields(), **fields}, "Narrator")

    def _choose(self, value: object) -> None:
        if isinstance(value, VoiceFile | Speaker):
            try:
                model = VoiceModel(name=value.name, sha256=value.sha256)
            except (ValueError, InputError) as error:
                self._form.document.trouble.emit(str(error))
                return
            self._set(narrator="auto", model=model, engine_voice=None)
        else:
            self._set(narrator=value, model=None, engine_voice=None)

    def _hear(self) -> None:
        session = self._form.document.session
        self.sampling.ask((session, session.voice))

    def _ask_for_voice(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._form, "A voice to add", str(Path.home()), "Voices (*.onnx)")
        if name:
            self.add_voice(Path(name))

    def add_voice(self, path: Path) -> None:
        """Add a voice from its files and let it read; what cannot be is reported."""
        try:
            voice = add_voice(path)
        except InputError as error:
            self._form.document.trouble.emit(str(error))
            return
        self._files = voice_files()
        self._show_voices(self._form.document.session)
        self._choose(voice)

    def _get(self) -> None:
        from nafas.desk.dialogs.voice_dialog import VoiceDialog  # late: few come

        self.voice_dialog = VoiceDialog(self._form.window())
        self.voice_dialog.added.connect(self._got)
        self.voice_dialog.open()

    def _got(self) -> None:
        """The voices are here: a session that names none is read by one of them."""
        self._files = voice_files()
        session = self._form.document.session
        self.show(session)
        self._form.document.changed.emit()

    def _draft(self) -> None:
        self._drafts = 1
        self._show_words(self._form.document.session.voice)
        self.list.rows[-1].word.line.setFocus()

    def change(self, number: int) -> None:
        """Take a word and how it is read, once both are there."""
        rows, words = self.list.rows, list(self._form.document.session.voice.pronunciation)
        if number >= len(rows):
            return
        word, read = rows[number].word.line.text().strip(), rows[number].read.line.text().strip()
        if not word or not read:
            return
        said = Pronunciation(word=word, read=read)
        if number < len(words) and words[number] == said:
            return
        words[number : number + 1] = [said]
        self._drafts = 0
        self._set(pronunciation=tuple(words))

    def remove(self, number: int) -> None:
        """Read a word as it is written."""
        words = list(self._form.document.session.voice.pronunciation)
        if number < len(words):
            self._set(pronunciation=(*words[:number], *words[number + 1 :]))
        else:
            self._drafts = 0
            self._show_words(self._form.document.session.voice)

    def show(self, session: Session) -> None:
        """Show a session's narrator."""
        voice = session.voice
        default = None if not natural_voices_run() else default_voice(session.language)
        usual = "eSpeak" if default is None else default.name
        plain = voice.narrator == "espeak" or voice.engine_voice is not None
        name = voice.model.name if voice.model else "eSpeak" if plain else usual
        self.section.show_relevant(False, name)
        if not self._made:
            return
        self._show_voices(session)
        self._form.show_row(self.fills, voice.take_book is not None)
        self._show_words(voice)

    def _show_voices(self, session: Session) -> None:
        voice = session.voice
        default = default_voice(session.language) if natural_voices_run() else None
        usual = "eSpeak" if default is None else f"{default.name}, natural"
        here = [file for file in self._files if file.speaks(session.language)]
        options: list[tuple[object, str]] = [("auto", f"as the language: {usual}"), ("espeak", "eSpeak")]
        options += [(file, f"{file.name}, natural") for file in here]
        chosen: object = "espeak" if voice.narrator == "espeak" or voice.engine_voice else "auto"
        read_by = default if chosen == "auto" else None
        if voice.model is not None:
            chosen = next((file for file in here if file.name == voice.model.name), None)
            read_by = chosen if isinstance(chosen, VoiceFile | Speaker) else None
            if chosen is None:
                chosen = voice.model
                options.append((voice.model, f"{voice.model.name}, not on this machine"))
        self.voice.set_options(*options)
        self.voice.show_value(chosen)
        text = f"Licence: {read_by.licence or 'not stated by its files'}" if read_by is not None else ""
        can_be_had = session.language.partition("-")[0] in FIVE and default is None and natural_voices_run()
        if read_by is None and chosen == "auto" and not can_be_had:
            text = f"There is no natural voice for {language_name(session.language)}: eSpeak reads, a synthetic voice."
        self.licence.setText(text)
        self._form.show_row(self.licence, bool(text))
        self._form.show_row(self.get, can_be_had)

    def _show_words(self, voice: Voice) -> None:
        words = [*voice.pronunciation, *[None] * self._drafts]
        for row, said in zip(self.list.show_rows(len(words)), words):
            row.word.show_text(said.word if said else "")
            row.read.show_text(said.read if said else "")
