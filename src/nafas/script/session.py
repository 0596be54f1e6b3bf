"""The session: everything the producer writes, as one immutable value.

These models are at once the file's schema, its validation and the program's own data. Editing makes a new
Session. Lengths are in counts or exact seconds; no sample rate is known here.
"""

from fractions import Fraction
from functools import cached_property
from typing import Annotated, Literal

from pydantic import AfterValidator, BeforeValidator, Field, field_validator, model_validator

from nafas.script.blocks import Block, BreathSet, Rest, Strokes, Title
from nafas.script.exact import Seconds
from nafas.script.languages import LANGUAGES
from nafas.script.lexicon import Lexicon, lexicon_of
from nafas.script.needs import check_words
from nafas.script.pacing import CountLength
from nafas.script.phase import Model
from nafas.script.rounds import set_seconds
from nafas.script.wording import Wording

FORMAT = 2
MAX_BLOCKS = 400
MOST_SHORTENED = 0.12
"""Past about an eighth a shortened voice sounds hurried (common practice, no source)."""
MAX_SESSION = Fraction(4 * 3600)


def _known_language(code: str) -> str:
    if code not in LANGUAGES:
        raise ValueError(
            f"{code!r} is no language that can be counted and read here; write one of {', '.join(LANGUAGES)}"
        )
    return code


Language = Annotated[str, AfterValidator(_known_language), Field(json_schema_extra={"enum": list(LANGUAGES)})]


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


class Voice(Model):
    """Who speaks: a take book, and the stand-in engine for lines it lacks (pace in words a minute).

    Attributes:
        shorten: part of its length by which a line too long for its place may be shortened, at the same pitch.
    """

    take_book: Asset | None = None
    engine_voice: Annotated[str, Field(pattern=r"^[A-Za-z0-9+_-]{1,40}$")] | None = None
    pace: Annotated[int, Field(ge=80, le=300, strict=True)] = 120
    shorten: Annotated[float, Field(ge=0, le=MOST_SHORTENED)] = 0.0


class _Bed(Model):
    """How loud a bed is: LU under the voice while it speaks, and dB it comes up when the voice is away."""

    under_voice: Annotated[float, Field(ge=0, le=40)] = 14.0
    lift: Annotated[float, Field(ge=0, le=20)] = 5.0


_Share = Annotated[float, Field(ge=0, le=1)]
Seed = Annotated[int, Field(ge=0, le=2**31 - 1, strict=True)]


class NightSea(_Bed):
    """The generated bed: sea at night over a low drone."""

    kind: Literal["night-sea"] = "night-sea"
    seed: Seed = 1


class GeneratedBed(_Bed):
    """A bed made by rule: the same seed and controls, the same sound.

    Attributes:
        kind: sea, rain, a low drone, a wash of struck bowls, a slow pad of chords.
        depth: how far it rises and falls.
        brightness: how much of it lies high.
        motion: how quickly it changes.
    """

    kind: Literal["sea", "rain", "drone", "bowls", "pad"]
    seed: Seed = 1
    depth: _Share = 0.5
    brightness: _Share = 0.5
    motion: _Share = 0.5


class FileBed(_Bed):
    """A recording as bed, repeated where it is shorter than the session.

    Attributes:
        file: the recording.
        begin, end: what of it is used, in seconds of the recording; None: to its end.
        crossfade: seconds over which its end goes over into its beginning.
        find_seam: the end is moved to where it goes over best.
    """

    kind: Literal["file"] = "file"
    file: Asset
    begin: Annotated[float, Field(ge=0, le=86400)] = 0.0
    end: Annotated[float, Field(gt=0, le=86400)] | None = None
    crossfade: Annotated[float, Field(ge=0.05, le=30)] = 4.0
    find_seam: bool = True

    @model_validator(mode="after")
    def _ends_after_it_begins(self) -> "FileBed":
        if self.end is not None and self.end <= self.begin:
            raise ValueError("a bed ends after it begins; write a later end")
        return self


def _usual_kind(bed: object) -> object:
    """A bed that does not say its kind is the sea at night: it was the only one once."""
    return {"kind": "night-sea", **bed} if isinstance(bed, dict) and "kind" not in bed else bed


Bed = Annotated[NightSea | GeneratedBed | FileBed, Field(discriminator="kind"), BeforeValidator(_usual_kind)]


class ChimeLevels(Model):
    """The chimes' family, and levels of chimes (and strokes), ticks and bell, dB against the voice."""

    family: Literal["tones", "bowls", "wood", "drops"] = "tones"

    phase: Annotated[float, Field(ge=-40, le=6)] = -12.0
    tick: Annotated[float, Field(ge=-40, le=6)] = -18.0
    bell: Annotated[float, Field(ge=-40, le=6)] = -6.0


class Master(Model):
    """What the finished file must measure: integrated loudness (LUFS) and true-peak ceiling (dBTP)."""

    loudness: Annotated[float, Field(ge=-40, le=-8)] = -16.0
    ceiling: Annotated[float, Field(ge=-20, le=0)] = -1.0


class Tags(Model):
    """What a master's file says of itself beside the session's title."""

    artist: Annotated[str, Field(max_length=200)] = ""
    album: Annotated[str, Field(max_length=200)] = ""
    comment: Annotated[str, Field(max_length=500)] = ""


class Session(Model):
    """A whole written session."""

    format: Literal[2] = 2
    title: Title = "Untitled session"
    language: Language = "en"
    wording: Wording = Wording()
    target_length: Annotated[Fraction, Seconds("1", "14400")] | None = None
    count_length: CountLength = Fraction(1)
    opening: Annotated[Fraction, Seconds("0", "120")] = Fraction(4)
    closing: Annotated[Fraction, Seconds("0", "300")] = Fraction(12)
    end_bell: bool = True
    voice: Voice = Voice()
    bed: Bed | None = NightSea()
    chimes: ChimeLevels = ChimeLevels()
    master: Master = Master()
    tags: Tags = Tags()
    blocks: Annotated[tuple[Block, ...], Field(max_length=MAX_BLOCKS)] = ()

    @model_validator(mode="after")
    def _whole_is_sound(self) -> "Session":
        seen: set[str] = set()
        for place, block in enumerate(self.blocks):
            where = f"blocks[{place}]"
            if block.id in seen:
                raise ValueError(f"{where} id {block.id!r} is used twice; give every block its own id")
            seen.add(block.id)
            if isinstance(block, BreathSet) and block.count_from is not None and block.id not in self.count_lengths:
                raise ValueError(
                    f"{where} takes its count length from {block.count_from!r}, which is no earlier breath set; "
                    "name one that stands before it"
                )
            try:
                if isinstance(block, BreathSet):
                    set_seconds(block, self.count_length_of(block))
                check_words(block, self.lexicon)
            except ValueError as fault:
                raise ValueError(f"{where} ({block.title or block.id}): {fault}") from None
        if self.written_length > MAX_SESSION:
            hours = float(self.written_length / 3600)
            raise ValueError(f"the blocks add up to {hours:.1f} h; keep a session within 4 h")
        return self

    @property
    def file_tags(self) -> dict[str, str]:
        """The tags of its master, title and all; "" for none."""
        return {"title": self.title, **self.tags.model_dump()}

    @cached_property
    def lexicon(self) -> Lexicon:
        """Every word it says of its own accord."""
        return lexicon_of(self.language, self.wording)

    @cached_property
    def count_lengths(self) -> dict[str, Fraction]:
        """Seconds a count in each breath set, by id; one that names no earlier set is left out."""
        found: dict[str, Fraction] = {}
        for block in self.blocks:
            if isinstance(block, BreathSet):
                if block.count_from is None:
                    found[block.id] = self.count_length if block.count_length is None else block.count_length
                elif block.count_from in found:
                    found[block.id] = found[block.count_from]
        return found

    def count_length_of(self, block: BreathSet) -> Fraction:
        """Seconds a count in this set: its own, an earlier set's, or the session's."""
        return self.count_lengths[block.id]

    @cached_property
    def written_length(self) -> Fraction:
        """Seconds fixed by the script alone: everything but talk without a slot."""
        total: Fraction = self.opening + self.closing
        for block in self.blocks:
            if isinstance(block, BreathSet):
                total += set_seconds(block, self.count_length_of(block))
            elif isinstance(block, Rest | Strokes):
                total += block.seconds
            else:
                total += block.pause_after if block.slot is None else block.slot
        return total
