"""The session: everything the producer writes, as one immutable value.

These models are at once the file's schema, its validation and the program's own data. Editing makes a new
Session. Lengths are in counts or exact seconds; no sample rate is known here.
"""

from fractions import Fraction
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, field_validator, model_validator

from nafas.script.expansion import set_seconds
from nafas.script.model.assets import Asset
from nafas.script.model.beds import Bed, Ducking, NightSea
from nafas.script.model.blocks import Block, BreathSet, Rest, Spoken, Strokes, Title
from nafas.script.model.exact import Seconds
from nafas.script.model.marks import MOST_MARKS, Mark
from nafas.script.model.pacing import CountLength
from nafas.script.model.phase import Model, is_one_line
from nafas.script.model.voice import ESPEAK, Language, Speaking, Voice, VoiceModel
from nafas.script.words.lexicon import Lexicon, lexicon_of
from nafas.script.words.vocabulary import check_words
from nafas.script.words.wording import Wording

FORMAT = 2
MAX_BLOCKS = 2_000
"""Of a session; a series of classes in one file has some hundreds."""
MAX_TEXT = 2_000_000
"""Characters of all talk and titles together; four hours of talk are a tenth of it."""
MAX_SESSION = Fraction(4 * 3600)
BELL_RINGS = Fraction(9)
"""Seconds that the usual end bell rings, from the beginning of the closing on."""


def text_size(block: Block) -> int:
    """Characters of a block's words."""
    return sum(map(len, block.paragraphs)) if isinstance(block, Spoken) else 0


class VoiceSound(Model):
    """What is done to the voice on its way into the mix; its loudness stays as it is.

    Attributes:
        on: False passes it by.
        high_pass: Hz under which nothing of it is kept; 0: all.
        compress: 0 to 1, how far its louder moments are brought down to its softer ones.
        soften: dB by which hissing sounds are brought down where they stand out.
        room: 0 to 1, how much of a small room is heard around it.
    """

    on: bool = True
    high_pass: Annotated[float, Field(ge=0, le=200)] = 0.0
    compress: Annotated[float, Field(ge=0, le=1)] = 0.0
    soften: Annotated[float, Field(ge=0, le=12)] = 0.0
    room: Annotated[float, Field(ge=0, le=1)] = 0.0

    @property
    def works(self) -> bool:
        """Whether it changes anything."""
        return self.on and any((self.high_pass, self.compress, self.soften, self.room))


class OwnChimes(Model):
    """The producer's own samples, each in the place of a chime made here; None: the family's."""

    inhale: Asset | None = None
    hold_full: Asset | None = None
    exhale: Asset | None = None
    hold_empty: Asset | None = None
    tick: Asset | None = None
    bell: Asset | None = None


CHIME_FAMILIES = {"tones": "soft tones", "bowls": "struck bowls", "wood": "wood", "drops": "water drops"}
"""Families of chimes and what to call them. For another one: its sounds in `sound/chimes/synthesis.py`; no more."""


def _is_chime_family(name: str) -> str:
    if name not in CHIME_FAMILIES:
        raise ValueError(f"there are no chimes {name!r}; use {', '.join(CHIME_FAMILIES)}")
    return name


class ChimeLevels(Model):
    """The chimes' family, samples in their place, and levels of chimes (and strokes), ticks and bell, dB against the
    voice.

    Attributes:
        pacer: a breath that is heard through each inhale and exhale: "air", "hum" (air in, a hum out), or "none".
        pacer_level: dB against the voice.
    """

    family: Annotated[
        str, AfterValidator(_is_chime_family), Field(json_schema_extra={"enum": list[Any](CHIME_FAMILIES)})
    ] = "tones"
    own: OwnChimes = OwnChimes()

    phase: Annotated[float, Field(ge=-40, le=6)] = -12.0
    tick: Annotated[float, Field(ge=-40, le=6)] = -18.0
    bell: Annotated[float, Field(ge=-40, le=6)] = -6.0
    pacer: Literal["none", "air", "hum"] = "none"
    pacer_level: Annotated[float, Field(ge=-40, le=6)] = -14.0


class MasterSettings(Model):
    """What the file must measure: integrated loudness (LUFS) and true-peak ceiling (dBTP); in one channel or two."""

    loudness: Annotated[float, Field(ge=-40, le=-8)] = -16.0
    ceiling: Annotated[float, Field(ge=-20, le=0)] = -1.0
    mono: bool = False


class Tags(Model):
    """What a master's file says of itself next to the session's title.

    Attributes:
        artist, album, comment, track: "" or None for none.
        cover: a picture, JPEG or PNG, that goes with what is handed over.
    """

    artist: Annotated[str, Field(max_length=200)] = ""
    album: Annotated[str, Field(max_length=200)] = ""
    comment: Annotated[str, Field(max_length=500)] = ""
    track: Annotated[int, Field(ge=1, le=999)] | None = None
    cover: Asset | None = None


class SetAside(Model):
    """A finding of the review that its producer has looked at and lets stand, and why.

    Attributes:
        finding: the finding's key, as the review gives it.
        reason: for whoever reads the file later.
    """

    finding: Annotated[str, Field(min_length=1, max_length=200)]
    reason: Annotated[str, Field(min_length=1, max_length=300)]

    @field_validator("finding", "reason")
    @classmethod
    def _is_one_line(cls, text: str) -> str:
        if not is_one_line(text) or not text.strip():
            raise ValueError("a reason is one line of plain text; write why the finding may stand")
        return text


class Session(Model):
    """A whole written session.

    Attributes:
        format: of the file.
        title, language, wording: its name, the language of its words, and words in place of the usual ones.
        target_length: seconds it should last, 1 to 14,400; None: as long as it is.
        count_length: seconds a count where a set has none of its own.
        opening: seconds of the bed before the first block, 0 to 120, over which it fades in.
        closing: seconds after the last block, 0 to 300, over which the bed fades out; the bell rings at its beginning.
        end_bell: whether it does.
        voice, voice_sound: who reads it, and what is done to that sound.
        bed, ducking: what sounds under the voice (None: nothing), and how it makes room.
        chimes, master, tags: levels of the chimes, what the file must measure, and what it says of itself.
        publishing: it is to be handed over as it is, so that stand-ins in it matter.
        set_aside: findings of the review that may stand.
        marks: what was felt in rehearsals.
        blocks: at most `MAX_BLOCKS`, in order; ids are unique.

    Raises:
        pydantic.ValidationError (a ValueError): a field leaves its bounds, or the whole is longer than `MAX_SESSION`.
    """

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
    voice_sound: VoiceSound = VoiceSound()
    bed: Bed | None = NightSea()
    ducking: Ducking = Ducking()
    chimes: ChimeLevels = ChimeLevels()
    master: MasterSettings = MasterSettings()
    tags: Tags = Tags()
    publishing: bool = False
    set_aside: Annotated[tuple[SetAside, ...], Field(max_length=1_000)] = ()
    marks: Annotated[tuple[Mark, ...], Field(max_length=MOST_MARKS)] = ()
    blocks: Annotated[tuple[Block, ...], Field(max_length=MAX_BLOCKS)] = ()

    @model_validator(mode="after")
    def _whole_is_sound(self) -> "Session":
        seen: set[str] = set()
        for index, block in enumerate(self.blocks):
            where = f"blocks[{index}]"
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
                check_words(block, self.lexicon_of(block))
            except ValueError as fault:
                raise ValueError(f"{where} ({block.title or block.id}): {fault}") from None
        if sum(map(text_size, self.blocks)) > MAX_TEXT:
            raise ValueError(f"its words are more than {MAX_TEXT:,} characters; make two sessions of it")
        if self.written_length > MAX_SESSION:
            hours = float(self.written_length / 3600)
            raise ValueError(f"the blocks add up to {hours:.1f} h; keep a session within 4 h")
        return self

    @property
    def file_tags(self) -> dict[str, str]:
        """The tags of its master, title and all; "" for none."""
        tags = self.tags
        track = "" if tags.track is None else str(tags.track)
        return {
            "title": self.title, "artist": tags.artist, "album": tags.album, "comment": tags.comment, "track": track,
        }  # fmt: skip

    @cached_property
    def lexicon(self) -> Lexicon:
        """Every word it says of its own accord."""
        return lexicon_of(self.language, self.wording)

    def lexicon_of(self, block: Block) -> Lexicon:
        """The words said of their own accord in a block; in another language its own wording does not apply."""
        own = block.language
        return self.lexicon if own in (None, self.language) else lexicon_of(own, Wording())

    @cached_property
    def speaking(self) -> Speaking:
        """Who speaks where no block says otherwise."""
        return Speaking(self.voice, self.language)

    def speaking_in(self, block: Block, way: float = 0.0) -> Speaking:
        """Who speaks in a block, at a place of it: 0.0 its beginning, 1.0 its end; the same object for the same voice.

        A narrator of its own reads all of it, but for takes of its own: the session's are another voice. In another
        language the session's natural voice does not read.
        """
        pace = None if block.pace is None else block.pace.at(way)
        asked = (block.language, block.narrator, block.take_book, pace)
        known = self._speaking.get(asked)
        if known is None:
            known = self._speaking[asked] = self._speaking_as(*asked)
        return known

    @cached_property
    def _speaking(self) -> dict[tuple[str | None, str | None, Asset | None, int | None], Speaking]:
        return {(None, None, None, None): self.speaking}

    def _speaking_as(
        self, own: str | None, narrator: str | None, take_book: Asset | None, pace: int | None
    ) -> Speaking:
        voice: dict[str, object] = {}
        language = own or self.language
        if language != self.language:
            voice = {"model": None, "engine_voice": None}
        if narrator is not None:
            robot = narrator == ESPEAK
            voice |= {"take_book": None, "engine_voice": None, "narrator": ESPEAK if robot else "auto"}
            voice["model"] = None if robot else VoiceModel(name=narrator)
        if take_book is not None:
            voice["take_book"] = take_book
        if pace is not None:
            voice["pace"] = pace
        return Speaking(self.voice.model_copy(update=voice), language)

    @cached_property
    def take_books(self) -> tuple[Asset, ...]:
        """The take books it speaks with, each once: its own, then those of blocks."""
        own = (block.take_book for block in self.blocks)
        return tuple(dict.fromkeys(book for book in (self.voice.take_book, *own) if book is not None))

    @cached_property
    def count_lengths(self) -> dict[str, Fraction]:
        """Seconds a count in each breath set, by id; one that names no earlier set is left out."""
        lengths: dict[str, Fraction] = {}
        for block in self.blocks:
            if isinstance(block, BreathSet):
                if block.count_from is None:
                    lengths[block.id] = self.count_length if block.count_length is None else block.count_length
                elif block.count_from in lengths:
                    lengths[block.id] = lengths[block.count_from]
        return lengths

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
