"""How a line is to be said: as talk, as a word on a count, or as the last word of a phase."""

from collections.abc import Sequence
from enum import StrEnum

from nafas.timing.timeline import EventKind, Moment


class Delivery(StrEnum):
    """TALK is a sentence at the pace of talk; a WORD is even and goes on; CLOSE falls, as before the breath turns."""

    TALK = "talk"
    WORD = "word"
    CLOSE = "close"


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
