"""Which engine reads a session: the voice it asks for, the natural voice of its language, or eSpeak."""

import os
from dataclasses import dataclass

from nafas.errors import InputError
from nafas.script.model.voice import Voice
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.engine import Engine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.engines.kokoro import Kokoro
from nafas.voice.engines.kokoro_files import Speaker
from nafas.voice.engines.piper import Piper
from nafas.voice.engines.voice_files import VoiceFile, default_voice, find_voice, natural_voices_run


@dataclass(frozen=True)
class Reader:
    """An engine with what to ask it for.

    Attributes:
        engine: it, through the disk cache.
        voice: the engine's own name of the voice.
        title: what to call it, for people.
        slow: a line takes it long enough to be noticed.
    """

    engine: Engine
    voice: str
    title: str
    slow: bool = False


def espeak(voice: Voice, language: str) -> Reader:
    """eSpeak, which reads every language and always works."""
    return Reader(CachedEngine(Espeak()), voice.engine_voice or language, "eSpeak")


def reader_for(voice: Voice, language: str) -> Reader:
    """Who reads for a session.

    `NAFAS_NARRATOR=espeak` in the environment lets eSpeak read where a session names no voice.

    Raises:
        InputError: the session names a natural voice that is not here, or that cannot run here.
    """
    if voice.model is not None:
        if not natural_voices_run():
            raise InputError(
                f"voice {voice.model.name}", "lacks the parts that natural voices need", "install Nafas again"
            )
        return _natural(find_voice(voice.model))
    plain = voice.narrator == "espeak" or voice.engine_voice is not None
    if plain or os.environ.get("NAFAS_NARRATOR") == "espeak" or not natural_voices_run():
        return espeak(voice, language)
    default = default_voice(language)
    if default is None:
        return espeak(voice, language)
    return _natural(default)


def _natural(voice: VoiceFile | Speaker) -> Reader:
    engine = Kokoro(voice) if isinstance(voice, Speaker) else Piper(voice)
    return Reader(CachedEngine(engine), voice.name, voice.name, slow=True)
