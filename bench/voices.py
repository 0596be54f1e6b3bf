"""The natural voices of five languages against eSpeak: do they fit, are they even, how fast do they read.

One small session a language: three sentences of guidance, and counts of 4, 6 and 8. Needs the model (nafas voices
--fetch).

Usage: python bench/voices.py [NAME ...]    names of voices; without any the first of each language
"""

import sys
import time
from pathlib import Path

import numpy as np
from human import outside_beat
from narrator import intervals, loudness

from nafas.languages import language_name
from nafas.script import BreathSet, Pattern, Session, Talk
from nafas.script.model.voice import Voice, VoiceModel
from nafas.timing import EventKind
from nafas.voice import cast_session
from nafas.voice.beat.felt_beat import felt_beat
from nafas.voice.engines.kokoro_files import NAMES
from nafas.voice.engines.voice_files import voice_files

TALK = {
    "es": "Siéntate con la espalda recta y deja que las manos descansen. Ahora escucha el mar. Nunca fuerces nada.",
    "fr": "Asseyez-vous le dos droit et laissez vos mains se reposer. Écoutez la mer. Ne forcez jamais rien.",
    "it": "Siediti con la schiena dritta e lascia riposare le mani. Ora ascolta il mare. Non forzare mai nulla.",
    "pt": "Sente-se com as costas retas e deixe as mãos descansarem. Agora escute o mar. Nunca force nada.",
    "hi": "पीठ सीधी करके बैठो और हाथों को आराम दो। अब समुद्र को सुनो। कभी ज़ोर मत लगाओ।",
}


def session(language: str, voice: Voice) -> Session:
    breath = BreathSet(id="set", pattern=Pattern.model_validate("4-6-8"), rounds=3)
    talk = Talk(id="talk", paragraphs=(TALK[language],))
    return Session(title="Voices", language=language, voice=voice, blocks=(talk, breath))


def row(name: str, language: str, voice: Voice) -> str:
    began = time.process_time()
    cast = cast_session(session(language, voice), Path())
    used = time.process_time() - began
    clips = {id(p.clip): p.clip for p in cast.placements}
    spoken = sum(clip.spoken / clip.rate for clip in clips.values())
    words = [loudness(p.clip) for p in cast.placements if p.moment.kind in (EventKind.COUNT, EventKind.CUE)]
    talk = [p for p in cast.placements if p.moment.kind not in (EventKind.COUNT, EventKind.CUE)]
    seconds = sum((p.said - p.start) / cast.rate for p in talk) + 1.2 * len(talk)
    pace = 60 * len(TALK[language].split()) / seconds
    spread = f"{intervals(cast, felt_beat):3.0f}, {intervals(cast, outside_beat):3.0f} ms"
    return (
        f"| {language_name(language)} | {name} | {len(cast.misfits) or 'all'} | {spread} | "
        f"{np.ptp(words):.1f} LU | {pace:.0f} | {used / spoken:.2f} |"
    )


def main(names: list[str]) -> None:
    here = {voice.name for voice in voice_files()}
    firsts = [next(name for name in NAMES if name.startswith(language)) for language in TALK]
    heads = ("language", "voice", "fits", "felt intervals s.d.: ours, outside", "words", "talk", "s of CPU a second")
    print(f"| {' | '.join(heads)} |")
    for name in names or firsts:
        language = name.partition("-")[0]
        if not names:
            print(row("eSpeak", language, Voice(narrator="espeak")), flush=True)
        if name in here:
            print(row(name, language, Voice(model=VoiceModel(name=name))), flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
