"""Adding a natural voice from its files."""

import shutil
from pathlib import Path

from nafas.errors import InputError
from nafas.files import reason
from nafas.state.folder import made
from nafas.voice.engines.piper import Piper
from nafas.voice.engines.voice_files import VoiceFile, installed_voice, natural_voices_run, read_voice, voices_folder


def add_voice(model: Path) -> VoiceFile:
    """Keep a copy of a voice's files with the program, its model card too where one lies next to it.

    Raises:
        InputError: it is no voice, a voice of that name is there already, or it cannot be kept.
    """
    voice = read_voice(model, model.name.removesuffix(".onnx"))
    target = voices_folder() / voice.name
    if target.exists() or voice.name == getattr(installed_voice(), "name", None):
        raise InputError(f"voice {voice.name}", "is there already", "give the new files another name")
    made(voices_folder())
    growing = voices_folder() / f".{voice.name}.part"
    try:
        shutil.rmtree(growing, ignore_errors=True)
        growing.mkdir()
        for path in filter(None, (voice.model, voice.config, voice.card)):
            shutil.copyfile(path, growing / path.name)
        _let_it_speak(read_voice(growing / model.name, voice.name))
        growing.rename(target)  # whole or not at all
    except InputError:
        shutil.rmtree(growing, ignore_errors=True)
        raise
    except OSError as error:
        shutil.rmtree(growing, ignore_errors=True)
        raise InputError(
            str(target), f"cannot be written ({reason(error)})", "free some space or allow writing"
        ) from None
    return read_voice(target / model.name, voice.name)


def _let_it_speak(voice: VoiceFile) -> None:
    """See that a voice says a word, where natural voices can be read at all. Raises InputError."""
    if not natural_voices_run():
        return
    try:
        samples, _ = Piper(voice).read("one", voice.name, 105)
    except InputError as error:
        raise InputError(voice.model.name, error.problem, error.remedy) from None
    except Exception as error:  # whatever a foreign model makes its libraries raise
        problem = f"says nothing ({type(error).__name__}: {str(error)[:120]})"
        raise InputError(voice.model.name, problem, "choose another voice") from error
    if not len(samples) or not float(abs(samples).max()) > 0.001:
        raise InputError(voice.model.name, "says nothing: its test word is silent", "choose another voice")
