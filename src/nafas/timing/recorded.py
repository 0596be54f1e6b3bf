"""When the recordings of a session's blocks sound."""

from dataclasses import dataclass
from fractions import Fraction

from nafas.script.edits.session_edits import block_name
from nafas.script.model.recordings import PlacedRecording
from nafas.timing.timeline import Event, EventKind, Moment, TimedBlock, Timeline

_ON_COUNTS = (EventKind.CUE, EventKind.COUNT, EventKind.TICK, EventKind.COVERED)


@dataclass(frozen=True)
class Recorded:
    """A recording at one of its places.

    Attributes:
        moment: when its beginning, or its beat, is heard; of kind RECORDING.
        recording: it.
    """

    moment: Moment
    recording: PlacedRecording


def recorded(timeline: Timeline) -> tuple[list[Recorded], tuple[str, ...]]:
    """Every place at which a recording sounds, in order of time, and what has no place, in words with the remedy."""
    found: list[Recorded] = []
    lost: list[str] = []
    for timed in timeline.blocks:
        for recording in timed.block.recordings:
            events = _places(timed, recording)
            found += [Recorded(_moment(timed, event, recording, timeline), recording) for event in events]
            if not events:
                where = " ".join(f"{k} {v}" for k in ("round", "phase", "count") if (v := getattr(recording, k)))
                name = block_name(timed.block) or "the block"
                lost.append(f"{recording.name} is placed on {where}, which {name} has not: choose another place")
    return sorted(found, key=lambda each: each.moment.at), tuple(lost)


def _places(timed: TimedBlock, recording: PlacedRecording) -> list[Event]:
    """The events of a block that a recording is placed on."""
    events = timed.body.events
    if recording.phase is None:
        if recording.round is None:
            return [Event(0, 0, EventKind.BLOCK)]
        return [each for each in events if each.kind is EventKind.ROUND and each.round == recording.round]
    rounds = [each for each in events if recording.round in (None, each.round) and each.phase == recording.phase]
    if recording.count in (None, 1):
        return [each for each in rounds if each.kind is EventKind.PHASE]
    return [each for each in rounds if each.kind in _ON_COUNTS and each.count == recording.count]


def _moment(timed: TimedBlock, event: Event, recording: PlacedRecording, timeline: Timeline) -> Moment:
    at = timed.at(event) + recording.after
    per_second = timeline.per_second * (at * timeline.per_second).denominator
    return Moment(
        int(at * per_second), 0, per_second, EventKind.RECORDING, timed.block.id, event.round, event.phase, event.count,
        phase_kind=event.phase_kind,
    )  # fmt: skip


def seconds_before(recording: PlacedRecording) -> Fraction:
    """How long before its place a recording begins to sound."""
    return Fraction(0) if recording.beat is None else recording.beat - recording.begin
