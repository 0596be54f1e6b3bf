"""The session: everything the producer writes, as one immutable value.

These models are at once the file's schema, its validation and the program's own data. Editing makes a new
Session. Lengths are in counts or exact seconds; no sample rate is known here.
"""

import re
from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, field_validator, model_validator

from nafas.script.exact import Seconds
from nafas.script.notation import LONGEST_COUNT, MAX_ROUNDS, SHORTEST_COUNT
from nafas.script.pattern import Counting, Model, Pattern, is_one_line
from nafas.script.words import LANGUAGES

FORMAT = 1
MAX_BLOCKS = 400
MAX_SESSION = Fraction(4 * 3600)


def _tidy_title(title: str) -> str:
    if not is_one_line(title):
        raise ValueError("a title is one line of plain text; take out line breaks and control characters")
    return title


Title = Annotated[str, Field(max_length=120), AfterValidator(_tidy_title)]
BlockId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
Paragraphs = Annotated[tuple[Annotated[str, Field(max_length=4000)], ...], Field(max_length=200)]
CountLength = Annotated[Fraction, Seconds(str(SHORTEST_COUNT), str(LONGEST_COUNT))]
Pause = Annotated[Fraction, Seconds("0", "600")]

_SENTENCE = re.compile(r"(?<=[.!?…।])[\"'”’)]*\s+")


def sentences(paragraph: str) -> tuple[str, ...]:
    """A paragraph's sentences: the lines a voice reads one at a time. Empty text gives none."""
    return tuple(s for s in (" ".join(part.split()) for part in _SENTENCE.split(paragraph)) if s)


class Asset(Model):
    """A file or folder the session uses: its path relative to the session file, and what it held when chosen."""

    path: Annotated[str, Field(min_length=1, max_length=1000)]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None

    @field_validator("path")
    @classmethod
    def _path_is_plain(cls, path: str) -> str:
        if "\0" in path:
            raise ValueError("a path holds no NUL; write the file's path")
        return path


class Spoken(Model):
    """What Talk and Rest share: paragraphs read sentence by sentence."""

    id: BlockId
    title: Title = ""
    paragraphs: Paragraphs = ()
    sentence_pause: Annotated[Fraction, Seconds("0", "60")] = Fraction(6, 5)
    paragraph_pause: Annotated[Fraction, Seconds("0", "60")] = Fraction(3)

    @property
    def lines(self) -> tuple[tuple[str, ...], ...]:
        """Sentences of each paragraph that has any."""
        return tuple(found for found in map(sentences, self.paragraphs) if found)


class Talk(Spoken):
    """Spoken guidance. It lasts as long as it takes to say, or exactly `slot` where one is fixed."""

    kind: Literal["talk"] = "talk"
    pause_after: Pause = Fraction(2)
    slot: Annotated[Fraction, Seconds("1", "3600")] | None = None


class Rest(Spoken):
    """Natural breath for an exact time; any words are said over its start."""

    kind: Literal["rest"] = "rest"
    seconds: Annotated[Fraction, Seconds("1", "3600")]


class CountStyle(Model):
    """How a set is counted aloud.

    Attributes:
        cue: "on-one": the cue is said on count one. "ahead": it is said in room of its own before count one.
        cue_room: that room, in counts; used only when the cue goes ahead.
        counting: up, down or silent, for phases that do not say their own.
    """

    cue: Literal["on-one", "ahead"] = "on-one"
    cue_room: Annotated[int, Field(ge=1, le=8, strict=True)] = 2
    counting: Counting = Counting.UP


class BreathSet(Model):
    """A pattern breathed for a number of rounds. `count_length` None: the session's."""

    kind: Literal["breath"] = "breath"
    id: BlockId
    title: Title = ""
    pattern: Pattern
    rounds: Annotated[int, Field(ge=1, le=MAX_ROUNDS, strict=True)]
    count_length: CountLength | None = None
    style: CountStyle = CountStyle()
    chimes: bool = True

    @property
    def round_counts(self) -> int:
        """Counts in one round, with the room its cues need when they go ahead."""
        phases = [phase for phase in self.pattern.phases if phase.counts]
        room = self.style.cue_room * len(phases) if self.style.cue == "ahead" else 0
        return self.pattern.counts + room


Block = Annotated[Talk | Rest | BreathSet, Field(discriminator="kind")]


class Voice(Model):
    """Who speaks: a take book, and the stand-in engine for lines it lacks (pace in words a minute)."""

    take_book: Asset | None = None
    engine_voice: Annotated[str, Field(pattern=r"^[A-Za-z0-9+_-]{1,40}$")] | None = None
    pace: Annotated[int, Field(ge=80, le=300, strict=True)] = 120


class NightSea(Model):
    """The generated bed: sea at night over a low drone."""

    kind: Literal["night-sea"] = "night-sea"
    seed: Annotated[int, Field(ge=0, le=2**31 - 1, strict=True)] = 1
    under_voice: Annotated[float, Field(ge=0, le=40)] = 14.0
    """LU under the voice while it speaks."""
    lift: Annotated[float, Field(ge=0, le=20)] = 5.0
    """dB it comes up when the voice is away."""


class ChimeLevels(Model):
    """Chime and bell levels, dB against the voice."""

    phase: Annotated[float, Field(ge=-40, le=6)] = -12.0
    bell: Annotated[float, Field(ge=-40, le=6)] = -6.0


class Master(Model):
    """What the finished file must measure: integrated loudness (LUFS) and true-peak ceiling (dBTP)."""

    loudness: Annotated[float, Field(ge=-40, le=-8)] = -16.0
    ceiling: Annotated[float, Field(ge=-20, le=0)] = -1.0


class Session(Model):
    """A whole written session."""

    format: Literal[1] = 1
    title: Title = "Untitled session"
    language: Literal["en", "es", "fr", "it", "de", "hi"] = "en"
    target_length: Annotated[Fraction, Seconds("1", "14400")] | None = None
    count_length: CountLength = Fraction(1)
    opening: Annotated[Fraction, Seconds("0", "120")] = Fraction(4)
    closing: Annotated[Fraction, Seconds("0", "300")] = Fraction(12)
    end_bell: bool = True
    voice: Voice = Voice()
    bed: NightSea | None = NightSea()
    chimes: ChimeLevels = ChimeLevels()
    master: Master = Master()
    blocks: Annotated[tuple[Block, ...], Field(max_length=MAX_BLOCKS)] = ()

    @model_validator(mode="after")
    def _whole_is_sound(self) -> "Session":
        seen: set[str] = set()
        for place, block in enumerate(self.blocks):
            if block.id in seen:
                raise ValueError(f"blocks[{place}] id {block.id!r} is used twice; give every block its own id")
            seen.add(block.id)
        if self.written_length > MAX_SESSION:
            hours = float(self.written_length / 3600)
            raise ValueError(f"the blocks add up to {hours:.1f} h; keep a session within 4 h")
        return self

    def count_length_of(self, block: BreathSet) -> Fraction:
        """Seconds a count in this set: its own, or the session's."""
        length: Fraction = self.count_length if block.count_length is None else block.count_length
        return length

    @property
    def written_length(self) -> Fraction:
        """Seconds fixed by the script alone: everything but talk without a slot."""
        total: Fraction = self.opening + self.closing
        for block in self.blocks:
            if isinstance(block, BreathSet):
                total += block.rounds * block.round_counts * self.count_length_of(block)
            elif isinstance(block, Rest):
                total += block.seconds
            else:
                total += block.pause_after if block.slot is None else block.slot
        return total


def _languages_agree() -> None:
    literal: Any = Session.model_fields["language"].annotation
    assert set(literal.__args__) == set(LANGUAGES)


_languages_agree()
