"""How a line is to be said: as talk, as a word on a count, or as the last word of a phase."""

from collections.abc import Sequence
from enum import StrEnum
from typing import NamedTuple

from nafas.script.model.voice import Speaking
from nafas.timing.timeline import EventKind, Moment, Timeline


class Delivery(StrEnum):
    """TALK is a sentence at the pace of talk; a WORD is even and goes on; CLOSE falls, as before the breath turns."""

    TALK = "talk"
    WORD = "word"
    CLOSE = "close"


class SpokenLine(NamedTuple):
    """A line as it is to be said: its words, how, and by whom (None: the session's voice)."""

    text: str
    delivery: Delivery
    speaking: Speaking | None = None


def spoken_lines(timeline: Timeline) -> list[SpokenLine]:
    """What is to be said at each spoken moment, in order of time."""
    spoken = timeline.spoken
    own = timeline.session.speaking
    lines = []
    for moment, delivery in zip(spoken, deliveries(spoken)):
        speaking = timeline.speaking_at(moment)
        lines.append(SpokenLine(moment.text, delivery, None if speaking is own else speaking))
    return lines


def deliveries(spoken: Sequence[Moment]) -> list[Delivery]:
    """How each moment is said: a word closes where what follows belongs to another phase, or nothing follows."""
    deliveries_ = []
    for moment, after in zip(spoken, [*spoken[1:], None]):
        if moment.kind is EventKind.TALK:
            deliveries_.append(Delivery.TALK)
        elif after is not None and moment[4:7] == after[4:7] and moment.phase:  # block, round, phase
            deliveries_.append(Delivery.WORD)
        else:
            deliveries_.append(Delivery.CLOSE)
    return deliveries_
