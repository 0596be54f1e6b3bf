"""A page with sound on which every voice is heard next to the others: one breath counted, and two sentences."""

import base64
import io
from collections.abc import Callable
from html import escape
from pathlib import Path

import numpy as np
import soundfile

from nafas.files import write_whole
from nafas.languages import LIBRARY, language_name, library_words
from nafas.script.model.session import Session
from nafas.script.model.voice import Voice, VoiceModel
from nafas.voice.clip import Samples
from nafas.voice.delivery import Delivery
from nafas.voice.engines.narrator import Narrator
from nafas.voice.engines.voice_files import natural_voices_run, voice_files
from nafas.voice.voice_sample import voice_sample

_SENTENCES = ("Sit with your back long and your shoulders easy.", "Breathe as you like.")
_BETWEEN = 1.2  # seconds
_STYLE = (
    "body{font:16px/1.5 sans-serif;max-width:60em;margin:2em auto;padding:0 1em}table{border-collapse:collapse}"
    "td,th{padding:.4em .8em;text-align:left;border-bottom:1px solid #bbb}"
)


def voices_by_language() -> list[tuple[str, str, Voice]]:
    """(language, name, voice) of every voice that can be heard here, by language; eSpeak last in each."""
    files = voice_files() if natural_voices_run() else []
    rows = []
    for language in LIBRARY:
        own = [file for file in files if file.speaks(language)]
        rows += [(language, file.name, Voice(model=VoiceModel(name=file.name))) for file in own]
        rows.append((language, "eSpeak", Voice(narrator="espeak")))
    return rows


def write_voice_page(path: Path, note: Callable[[str, float], object] = lambda stage, done: None) -> int:
    """Write the page: one HTML file with its sound inside.

    Args:
        path: of the page; it is written whole or not at all.
        note: called with a stage and 0.0 to 1.0; raises Cancelled to stop.

    Returns:
        how many voices are on it.

    Raises:
        InputError: a voice cannot be read, or the page cannot be written.
        Cancelled: when `note` does.
    """
    voices, rows = voices_by_language(), []
    for number, (language, name, voice) in enumerate(voices):
        note(f"reading {name}", number / len(voices))
        counted, talk = voice_sample(Session(language=language), voice), _talk(language, voice)
        cells = (language_name(language), name)
        rows.append(
            "<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in cells) + f"<td>{_player(*counted)}</td>"
            f"<td>{_player(*talk)}</td></tr>"
        )  # fmt: skip
    heads = "".join(f"<th>{head}</th>" for head in ("Language", "Voice", "A breath counted", "Talk"))
    page = (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Voices</title>'
        f"<style>{_STYLE}</style></head><body><h1>Voices</h1>"
        "<p>Every voice on this machine, each with the same breath and the same words.</p>"
        f"<table><tr>{heads}</tr>{''.join(rows)}</table></body></html>"
    )
    write_whole(path, page.encode())
    return len(voices)


def _talk(language: str, voice: Voice) -> tuple[Samples, int]:
    narrator, words = Narrator(voice, language, Path()), library_words(language)
    clips = [narrator.clips(words.get(text, text), Delivery.TALK)[0] for text in _SENTENCES]
    pause = np.zeros(round(_BETWEEN * clips[0].rate), np.float32)
    return np.concatenate([part for clip in clips for part in (clip.samples, pause)]), clips[0].rate


def _player(samples: Samples, rate: int) -> str:
    sound = io.BytesIO()
    soundfile.write(sound, samples, rate, format="FLAC", subtype="PCM_16")
    data = base64.b64encode(sound.getvalue()).decode()
    return f'<audio controls preload="none" src="data:audio/flac;base64,{data}"></audio>'
