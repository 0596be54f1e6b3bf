"""What does not fit: lines longer than their slots, and what is lost by it."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from nafas.timing.timeline import EventKind, Timeline
from nafas.voice.placement import Placement


class MisfitKind(StrEnum):
    """What does not fit."""

    TOO_LONG = "too long"
    BEFORE_START = "before the start"
    PAST_END = "past the end"
    COVERS = "covers words"


@dataclass(frozen=True, eq=False)
class Misfit:
    """A line longer than its slot.

    Attributes:
        room, need: seconds from the clip's first sample to where its slot ends, and to where it is over.
        address: where in the script it stands, for people.
        lost: words that are left unsaid because of it.
    """

    kind: MisfitKind
    placement: Placement
    room: float
    need: float
    address: str = ""
    lost: tuple[str, ...] = ()

    @property
    def over(self) -> float:
        """Seconds too long."""
        return self.need - self.room

    def __str__(self) -> str:
        line = f"{self.address}: “{self.placement.moment.text[:60]}”"
        if self.kind is MisfitKind.BEFORE_START:
            return f"{line} begins {self.over:.2f} s before the session; write a longer opening"
        if self.kind is MisfitKind.PAST_END:
            return f"{line} runs {self.over:.2f} s past the end; write a longer closing"
        if self.kind is MisfitKind.COVERS:
            words = ", ".join(f"“{word}”" for word in self.lost)
            return f"{line} takes {self.need:.2f} s, so that {words} stays unsaid; {_ROOM}"
        remedy = _REMEDY[self.placement.moment.kind]
        if self.over < 0.01:  # in hundredths of a second both would look alike
            return f"{line} is {max(1, round(1000 * self.over))} ms longer than its place; {remedy}"
        return f"{line} needs {self.need:.2f} s, has {self.room:.2f} s ({self.over:.2f} s over); {remedy}"


_ROOM = "give it counts of its own before the phase, say it in the first round only, or in fewer words"
_REMEDY = {
    EventKind.COUNT: "use a shorter word or take, or a longer count",
    EventKind.CUE: "give the cue more room, or shorter words",
    EventKind.CALL: "call it earlier, or in fewer words",
    EventKind.TALK: "shorten the words, or lengthen the slot or rest they are said in",
}


def find_misfits(placements: Sequence[Placement], timeline: Timeline, rate: int) -> list[Misfit]:
    """Every line that is longer than its slot, in order of time, and then those that cover words said after them.

    Args:
        placements: all that is said, in order of time.
        timeline: what it is said for.
        rate: samples a second of the placements.
    """
    misfits: list[Misfit] = []
    end = timeline.length * rate
    for this, after in zip(placements, [*placements[1:], None]):
        need, address = this.clip.spoken / rate, timeline.address(this.moment)
        if this.start < 0:
            misfits.append(Misfit(MisfitKind.BEFORE_START, this, need + this.start / rate, need, address))
        if this.said > end:
            misfits.append(Misfit(MisfitKind.PAST_END, this, float((end - this.start) / rate), need, address))
        elif after is not None and this.said > after.start:
            misfits.append(Misfit(MisfitKind.TOO_LONG, this, (after.start - this.start) / rate, need, address))
    return misfits + _covering(placements, timeline, rate)


def _covering(placements: Sequence[Placement], timeline: Timeline, rate: int) -> list[Misfit]:
    """What is said and takes the time of words that were to follow it in the same phase."""
    covered = timeline.covered
    if not covered:
        return []
    said: dict[tuple[str, int, int], list[Placement]] = defaultdict(list)
    for placement in placements:
        moment = placement.moment
        if moment.kind in (EventKind.COUNT, EventKind.CUE):
            said[moment.block, moment.round, moment.phase].append(placement)
    covering: dict[int, tuple[Placement, list[str]]] = {}
    for moment in covered:
        before = [p for p in said[moment.block, moment.round, moment.phase] if p.moment.tick <= moment.tick]
        if before:
            covering.setdefault(id(before[-1]), (before[-1], []))[1].append(moment.text)
    misfits = []
    for this, words in covering.values():
        need, step = this.clip.spoken / rate, float(this.moment.length)
        address = timeline.address(this.moment)
        misfits.append(Misfit(MisfitKind.COVERS, this, min(step, need), need, address, tuple(words)))
    return misfits
