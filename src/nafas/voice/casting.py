"""Casting: which clip says each spoken moment, where it is placed, and what does not fit.

A counted word or cue is placed so that its felt beat falls on the moment's sample; a sentence of talk starts on its.
Takes of one line rotate, so no clip is heard twice running while there is another that fits; a take that is too long
for its place is passed over. Where none fits, and the session allows it, one is shortened at its pitch by just what is
needed. The same session always casts the same.
"""

from collections import Counter, defaultdict
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from pathlib import Path

from nafas.script.model.session import Session
from nafas.timing.compile import compile_session
from nafas.timing.timeline import EventKind, Moment, Timeline, to_sample
from nafas.voice.clip import Clip
from nafas.voice.engines.narrator import Narrator, session_narrator


@dataclass(frozen=True, eq=False)
class Placement:
    """A clip in its place.

    Attributes:
        moment: what it says, and when.
        clip: at the cast's rate.
        start: sample of the clip's first sample; below 0 its head is lost.
        target: the sample its beat (or, for talk, its start) falls on.
    """

    moment: Moment
    clip: Clip
    start: int
    target: int

    @property
    def end(self) -> int:
        """Sample after its last."""
        return self.start + self.clip.frames

    @property
    def said(self) -> int:
        """Sample at which the word is over; only its quiet tail comes after."""
        return self.start + self.clip.spoken


class MisfitKind(StrEnum):
    """What does not fit."""

    TOO_LONG = "too long"
    BEFORE_START = "before the start"
    PAST_END = "past the end"


@dataclass(frozen=True, eq=False)
class Misfit:
    """A line longer than its slot. `room` and `need` are seconds from the clip's first sample, to where it is over;
    `address` is where in the script it stands, for people."""

    kind: MisfitKind
    placement: Placement
    room: float
    need: float
    address: str = ""

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
        remedy = _REMEDY[self.placement.moment.kind]
        return f"{line} needs {self.need:.2f} s, has {self.room:.2f} s ({self.over:.2f} s over); {remedy}"


_REMEDY = {
    EventKind.COUNT: "use a shorter word or take, or a longer count",
    EventKind.CUE: "give the cue more room, or shorter words",
    EventKind.CALL: "call it earlier, or in fewer words",
    EventKind.TALK: "shorten the words, or lengthen the slot or rest they are said in",
}


@dataclass(frozen=True, eq=False)
class Room:
    """The room of a placement: seconds free before it, from the end of the word before, and after it, to the next.

    Less than 0 where they overlap.
    """

    placement: Placement
    before: float
    after: float

    @property
    def need(self) -> float:
        """Seconds it lasts."""
        return self.placement.clip.spoken / self.placement.clip.rate


@dataclass(frozen=True, eq=False)
class Cast:
    """Every spoken moment with its clip, in order of time."""

    timeline: Timeline
    rate: int
    placements: tuple[Placement, ...]
    misfits: tuple[Misfit, ...]

    @cached_property
    def _by_block(self) -> dict[str, list[Placement]]:
        found: dict[str, list[Placement]] = defaultdict(list)
        for placement in self.placements:
            found[placement.moment.block].append(placement)
        return found

    def of_block(self, name: str) -> list[Placement]:
        """What is said in a block, by its id, in order of time."""
        return self._by_block.get(name, [])

    @property
    def stand_ins(self) -> int:
        """How many distinct lines the stand-in speaks."""
        return len(self.stand_in_lines)

    @cached_property
    def rooms(self) -> tuple["Room", ...]:
        """For each placement the room it has between its neighbours."""
        found = []
        for number, this in enumerate(self.placements):
            before = self.placements[number - 1].said if number else 0
            last = number + 1 == len(self.placements)
            until = to_sample(self.timeline.length, self.rate) if last else self.placements[number + 1].start
            found.append(Room(this, (this.start - before) / self.rate, (until - this.said) / self.rate))
        return tuple(found)

    @property
    def stand_in_lines(self) -> list[str]:
        """The lines the stand-in speaks, each once, in order of time."""
        return list(dict.fromkeys(p.moment.text for p in self.placements if p.clip.stand_in))

    @property
    def shortened(self) -> list[Placement]:
        """What was shortened to fit its place."""
        return [p for p in self.placements if p.clip.part < 1]

    @cached_property
    def longest_silence(self) -> tuple[int, int]:
        """First and last sample of the longest time without the voice, the session's two ends included."""
        end = to_sample(self.timeline.length, self.rate)
        longest, quiet_from = (0, 0), 0
        for placement in self.placements:
            if placement.start - quiet_from > longest[1] - longest[0]:
                longest = (quiet_from, placement.start)
            quiet_from = max(quiet_from, placement.end)
        return (quiet_from, end) if end - quiet_from > longest[1] - longest[0] else longest


def cast_session(session: Session, folder: Path, rate: int = 48_000) -> Cast:
    """Cast a session by its own voice, strictly: talk lasts as long as that voice takes to say it.

    Args:
        session, folder: the session, and where its file stands.
        rate: samples a second.

    Raises:
        InputError: a block cannot be timed, or the take book or a take cannot be used.
    """
    narrator = session_narrator(session, folder)
    return cast_timeline(compile_session(session, narrator.spoken_length), narrator, rate)


def cast_timeline(timeline: Timeline, narrator: Narrator, rate: int = 48_000) -> Cast:
    """Cast every spoken moment at a sample rate.

    Raises:
        InputError: from a strict narrator, for a take that cannot be used.
    """
    spoken = timeline.spoken
    clips = {text: [clip.at_rate(rate) for clip in narrator.clips(text)] for text in {m.text for m in spoken}}
    earliest = {text: max(round(clip.beat * rate) for clip in found) for text, found in clips.items()}
    turn: Counter[str] = Counter()
    shorten = timeline.session.voice.shorten
    placements: list[Placement] = []
    for moment, after in zip(spoken, [*spoken[1:], None]):
        target = moment.sample(rate)
        if moment.kind is EventKind.TALK:
            clip, beat = clips[moment.text][0], 0  # talk keeps to the take its time was measured by
        else:
            room = None
            if after is not None:
                ahead = 0 if after.kind is EventKind.TALK else earliest[after.text]
                room = after.sample(rate) - ahead - target
            clip = _choose(clips[moment.text], turn, moment.text, room)
            if room is not None and shorten:
                clip = _squeezed(clip, room, shorten)
            beat = round(clip.beat * rate)
        placements.append(Placement(moment, clip, target - beat, target))
    return Cast(timeline, rate, tuple(placements), tuple(_misfits(placements, timeline, rate)))


def _choose(clips: list[Clip], turn: Counter[str], text: str, room: int | None) -> Clip:
    """The next take in turn that fits in `room` samples from its beat on; where none does, the shortest.

    `turn` counts on past the take that was chosen, so none is heard twice running while another fits.
    """
    order = [(turn[text] + n) % len(clips) for n in range(len(clips))]
    length = {n: _after_beat(clips[n]) for n in order}
    fits = [n for n in order if room is None or length[n] <= room]
    chosen = fits[0] if fits else min(order, key=lambda n: length[n])
    turn[text] = chosen + 1
    return clips[chosen]


def _squeezed(clip: Clip, room: int, most: float) -> Clip:
    """The clip shortened, in whole hundredths, to `room` samples from its beat on; as it is where that is too much."""
    least = round(100 * (1 - most))
    hundredths = min(100, int(100 * room / max(1, _after_beat(clip))))
    while 100 > hundredths >= least:
        shorter = clip.shorter(hundredths / 100)
        if _after_beat(shorter) <= room:
            return shorter
        hundredths -= 1
    return clip


def _after_beat(clip: Clip) -> int:
    """Samples from its beat to where it is over."""
    return clip.spoken - round(clip.beat * clip.rate)


def _misfits(placements: list[Placement], timeline: Timeline, rate: int) -> list[Misfit]:
    found: list[Misfit] = []
    end = timeline.length * rate
    for this, after in zip(placements, [*placements[1:], None]):
        need, address = this.clip.spoken / rate, timeline.address(this.moment)
        if this.start < 0:
            found.append(Misfit(MisfitKind.BEFORE_START, this, need + this.start / rate, need, address))
        if this.said > end:
            found.append(Misfit(MisfitKind.PAST_END, this, float((end - this.start) / rate), need, address))
        elif after is not None and this.said > after.start:
            found.append(Misfit(MisfitKind.TOO_LONG, this, (after.start - this.start) / rate, need, address))
    return found
