"""Who speaks: a take book or a narrator, in which language and how fast; for a session, and for one block of it."""

from typing import Annotated, Literal, NamedTuple

from pydantic import AfterValidator, Field, field_validator

from nafas.languages import LANGUAGES
from nafas.script.model.assets import Asset
from nafas.script.model.phase import Model, is_one_line

ESPEAK = "espeak"
"""The narrator that reads every language, by the name a block calls it."""
MOST_SHORTENED = 0.12
"""Past about an eighth a shortened voice sounds hurried (common practice, no source)."""


def _known_language(code: str) -> str:
    if code not in LANGUAGES:
        raise ValueError(
            f"{code!r} is no language that can be counted and read here; write one of {', '.join(LANGUAGES)}"
        )
    return code


Language = Annotated[str, AfterValidator(_known_language), Field(json_schema_extra={"enum": list(LANGUAGES)})]
VoiceName = Annotated[str, Field(pattern=r"^[A-Za-z0-9+_.-]{1,80}$")]
WordsAMinute = Annotated[int, Field(ge=80, le=300, strict=True)]


class VoiceModel(Model):
    """A natural voice, by the name of its files and the sum of its model."""

    name: VoiceName
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None


class Pronunciation(Model):
    """How the narrator is to read a word: in another spelling, or in phonemes between [[ and ]] (natural voices)."""

    word: Annotated[str, Field(min_length=1, max_length=60)]
    read: Annotated[str, Field(min_length=1, max_length=120)]

    @field_validator("word", "read")
    @classmethod
    def _is_plain(cls, text: str) -> str:
        if not is_one_line(text) or text != text.strip():
            raise ValueError("what is read otherwise is one line of plain text without spaces at its ends; fix it")
        return text


class Voice(Model):
    """Who speaks: a take book, and the narrator for lines it lacks.

    Attributes:
        narrator: "auto": the natural voice of the session's language where there is one, else eSpeak; "espeak": that.
        model: a natural voice of the producer's choice.
        engine_voice: a voice of eSpeak by its own name; eSpeak then reads.
        pace: of talk, words a minute with its pauses.
        fills: lines without a take are read by the narrator; else they are left unsaid, and told.
        pronunciation: words the narrator is to read otherwise than they are written.
        shorten: part of its length by which a line too long for its place may be shortened, at the same pitch.
    """

    take_book: Asset | None = None
    narrator: Literal["auto", "espeak"] = "auto"
    model: VoiceModel | None = None
    engine_voice: Annotated[str, Field(pattern=r"^[A-Za-z0-9+_-]{1,40}$")] | None = None
    pace: WordsAMinute = 105
    fills: bool = True
    pronunciation: Annotated[tuple[Pronunciation, ...], Field(max_length=500)] = ()
    shorten: Annotated[float, Field(ge=0, le=MOST_SHORTENED)] = 0.0


class Pace(Model):
    """How fast the narrator reads in one block.

    Attributes:
        words: words a minute of talk, with its pauses, at the block's beginning.
        to: the same at its end, reached evenly; None: it stays. Each sentence has one pace, that of its place; in a set
            each round.
    """

    words: WordsAMinute
    to: WordsAMinute | None = None

    def at(self, way: float) -> int:
        """Words a minute at a place of the block, 0.0 its beginning, 1.0 its end; on the way in steps of five, so that
        a word is not read again for each round."""
        if self.to is None or way <= 0:
            return self.words
        return self.to if way >= 1 else round((self.words + (self.to - self.words) * way) / 5) * 5

    @property
    def text(self) -> str:
        """`105`, `105 to 80`; `pace_of` reads it back."""
        return str(self.words) if self.to is None else f"{self.words} to {self.to}"


def pace_of(text: str) -> Pace:
    """A pace as `Pace.text` writes it. Raises ValueError."""
    first, to, last = (each.strip() for each in text.partition("to"))
    try:
        return Pace(words=int(first), to=int(last) if to else None)
    except ValueError:
        raise ValueError(f"{text[:30]!r} is not a pace; write 105, or 105 to 80, from 80 to 300") from None


class Speaking(NamedTuple):
    """A voice and the language it speaks."""

    voice: Voice
    language: str
