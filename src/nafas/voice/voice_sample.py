"""A voice to be heard before it is chosen: one breath counted in the session's words."""

from pathlib import Path

from nafas.script.model.phase import PhaseKind
from nafas.script.model.session import Session
from nafas.script.model.voice import Voice
from nafas.voice.audition import RATE, on_grid
from nafas.voice.clip import Samples
from nafas.voice.delivery import Delivery
from nafas.voice.engines.narrator import Narrator


def voice_sample(session: Session, voice: Voice) -> tuple[Samples, int]:
    """Four counts in and four out, a count of the session apart, read by a voice that may not be the session's.

    Returns:
        mono samples, shape (n,), and their rate.

    Raises:
        InputError: the voice is not here or cannot be used.
    """
    alone = voice.model_copy(update={"take_book": None})
    narrator = Narrator(alone, session.language, Path())
    lexicon = session.lexicon
    clips = []
    for kind in (PhaseKind.INHALE, PhaseKind.EXHALE):
        words = [lexicon.kind(kind), *map(lexicon.count, (2, 3, 4))]
        clips += [
            narrator.clips(word, Delivery.CLOSE if index == 3 else Delivery.WORD)[0] for index, word in enumerate(words)
        ]
    return on_grid(clips, float(session.count_length), click=False), RATE
