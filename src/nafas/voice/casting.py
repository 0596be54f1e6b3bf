"""Casting: which clip says each spoken moment, where it is placed, and what does not fit.

A counted word or cue is placed so that its felt beat falls on the moment's sample; a sentence of talk starts on its.
Takes of one line rotate, so no clip is heard twice running while there is another that fits; a take that is too long
for its place is passed over. Where none fits, and the session allows it, one is shortened at its pitch by just what is
needed. The same session always casts the same.
"""

from collections import Counter, defaultdict
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from nafas.script.model.session import Session
from nafas.script.model.voice import Speaking
from nafas.timing.compile import compile_session, paced
from nafas.timing.timeline import EventKind, Timeline, to_sample
from nafas.voice.clip import Clip
from nafas.voice.delivery import Delivery, spoken_lines
from nafas.voice.engines.narrator import Narrator, session_narrator
from nafas.voice.misfits import Misfit, find_misfits
from nafas.voice.placement import Placement


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
    """Every spoken moment with its clip, in order of time.

    Attributes:
        narrators: who reads what has no take, each by name; `voice_problems` say why it is not who was asked for.
    """

    timeline: Timeline
    rate: int
    placements: tuple[Placement, ...]
    misfits: tuple[Misfit, ...]
    narrators: tuple[str, ...] = ()
    voice_problems: tuple[str, ...] = ()

    @property
    def narrator(self) -> str:
        """Its narrators in a few words."""
        return ", ".join(self.narrators)

    @cached_property
    def _by_block(self) -> dict[str, list[Placement]]:
        by_block: dict[str, list[Placement]] = defaultdict(list)
        for placement in self.placements:
            by_block[placement.moment.block].append(placement)
        return by_block

    def of_block(self, name: str) -> list[Placement]:
        """What is said in a block, by its id, in order of time."""
        return self._by_block.get(name, [])

    @property
    def stand_ins(self) -> int:
        """How many distinct lines the narrator reads."""
        return len(self.stand_in_lines)

    @cached_property
    def rooms(self) -> tuple["Room", ...]:
        """For each placement the room it has between its neighbours."""
        rooms_ = []
        for number, this in enumerate(self.placements):
            before = self.placements[number - 1].said if number else 0
            last = number + 1 == len(self.placements)
            until = to_sample(self.timeline.length, self.rate) if last else self.placements[number + 1].start
            rooms_.append(Room(this, (this.start - before) / self.rate, (until - this.said) / self.rate))
        return tuple(rooms_)

    @property
    def stand_in_lines(self) -> list[str]:
        """The lines the narrator reads, each once, in order of time."""
        return list(dict.fromkeys(p.moment.text for p in self.placements if p.clip.stand_in))

    @cached_property
    def waiting_lines(self) -> list[str]:
        """The lines that are silent: not read yet, or without a take where nothing reads in its place."""
        return list(dict.fromkeys(p.moment.text for p in self.placements if p.clip.waiting))

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
    narrator.read_all(spoken_lines(compile_session(session, paced(session.voice.pace))))
    return cast_timeline(compile_session(session, narrator.spoken_length), narrator, rate)


def cast_timeline(timeline: Timeline, narrator: Narrator, rate: int = 48_000) -> Cast:
    """Cast every spoken moment at a sample rate.

    Raises:
        InputError: from a strict narrator, for a take that cannot be used.
    """
    spoken = timeline.spoken
    said = spoken_lines(timeline)
    voices = {line.speaking: narrator.of(line.speaking) for line in said}
    clips = {
        line: [clip.at_rate(rate) for clip in voices[line.speaking].clips(line.text, line.delivery)]
        for line in dict.fromkeys(said)
    }
    earliest = {line: max(round(clip.beat * rate) for clip in clips_) for line, clips_ in clips.items()}
    turn: Counter[tuple[str, Speaking | None]] = Counter()
    shorten = timeline.session.voice.shorten
    placements: list[Placement] = []
    for index, (moment, line) in enumerate(zip(spoken, said)):
        target, clips_ = moment.sample(rate), clips[line]
        if line.delivery is Delivery.TALK:
            clip, beat = clips_[0], 0  # talk keeps to the take its time was measured by
        else:
            room = None
            if index + 1 < len(spoken):
                after = spoken[index + 1]
                ahead = 0 if after.kind is EventKind.TALK else earliest[said[index + 1]]
                room = after.sample(rate) - ahead - target
                if all(clip.after_beat > room for clip in clips_) and clips_[0].stand_in:
                    quicker = voices[line.speaking].clips_within(line.text, line.delivery, room, rate)
                    clips_ = [clip.at_rate(rate) for clip in quicker] or clips_
            clip = _choose(clips_, turn, (line.text, line.speaking), room)
            if room is not None and shorten:
                clip = _squeezed(clip, room, shorten)
            beat = round(clip.beat * rate)
        placements.append(Placement(moment, clip, target - beat, target))
    misfits = tuple(find_misfits(placements, timeline, rate))
    changed = any(each.reader_changed for each in voices.values())
    problems = tuple(map(str, narrator.problems.values())) if changed else ()
    titles = tuple(dict.fromkeys(each.reader.title for each in voices.values())) or (narrator.reader.title,)
    return Cast(timeline, rate, tuple(placements), misfits, titles, problems)


def _choose(
    clips: list[Clip], turn: Counter[tuple[str, Speaking | None]], said: tuple[str, Speaking | None], room: int | None
) -> Clip:
    """The next take in turn that fits in `room` samples from its beat on; where none does, the shortest.

    `turn` counts on past the take that was chosen, so none is heard twice running while another fits.
    """
    order = [(turn[said] + n) % len(clips) for n in range(len(clips))]
    length = {n: clips[n].after_beat for n in order}
    fits = [n for n in order if room is None or length[n] <= room]
    chosen = fits[0] if fits else min(order, key=lambda n: length[n])
    turn[said] = chosen + 1
    return clips[chosen]


def _squeezed(clip: Clip, room: int, most: float) -> Clip:
    """The clip shortened, in whole hundredths, to `room` samples from its beat on; as it is where that is too much."""
    least = round(100 * (1 - most))
    hundredths = min(100, int(100 * room / max(1, clip.after_beat)))
    while 100 > hundredths >= least:
        shorter = clip.shorter(hundredths / 100)
        if shorter.after_beat <= room:
            return shorter
        hundredths -= 1
    return clip
