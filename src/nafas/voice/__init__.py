"""The producer's voice: takes and the narrator's readings, their felt beats, and casting them onto the timeline.

Knows script and timing; mixes nothing.
"""

from nafas.voice.beat.felt_beat import felt_beat
from nafas.voice.casting import Cast, cast_session, cast_timeline
from nafas.voice.clip import Clip
from nafas.voice.engines.narrator import Narrator, session_narrator
from nafas.voice.misfits import Misfit
from nafas.voice.placement import Placement
from nafas.voice.takebook.book import Take, TakeBook

__all__ = [
    "Cast",
    "Clip",
    "Misfit",
    "Narrator",
    "Placement",
    "Take",
    "TakeBook",
    "cast_session",
    "cast_timeline",
    "felt_beat",
    "session_narrator",
]
