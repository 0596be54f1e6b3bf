"""When each thing happens: a Session compiled to a Timeline of exact times.

Seconds first exist here, as exact rationals. This room knows the script below it and no voice or sound.
"""

from nafas.timing.arc import Arc, Guidance, arc_of
from nafas.timing.compile import SpokenLength, SpokenLengths, compile_session, paced
from nafas.timing.timeline import Event, EventKind, Moment, TimedBlock, Timeline, to_sample

__all__ = [
    "Arc",
    "Event",
    "EventKind",
    "Guidance",
    "Moment",
    "SpokenLength",
    "SpokenLengths",
    "TimedBlock",
    "Timeline",
    "arc_of",
    "compile_session",
    "paced",
    "to_sample",
]
