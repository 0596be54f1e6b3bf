"""Blocks: what a session is made of. Talk, natural breath, breath sets and rapid strokes."""

from fractions import Fraction
from pathlib import PurePosixPath
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, field_validator, model_validator

from nafas.languages import language_name
from nafas.script.model.assets import Asset
from nafas.script.model.beds import BlockBed
from nafas.script.model.exact import Seconds
from nafas.script.model.guidance import Fade
from nafas.script.model.pacing import CountLength, Glide, Pacing, Rounds, steps_of
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Counting, Model, Side, is_one_line
from nafas.script.model.recordings import MOST_RECORDINGS, PlacedRecording
from nafas.script.model.round_calls import RoundCalls
from nafas.script.model.sentences import MAX_PARAGRAPH, MAX_PARAGRAPHS, Sentence, sentences, with_pauses
from nafas.script.model.voice import Language, Pace, VoiceName
from nafas.script.model.voice_level import VoiceLevel


def _tidy_title(title: str) -> str:
    if not is_one_line(title):
        raise ValueError("a title is one line of plain text; take out line breaks and control characters")
    return title


Title = Annotated[str, Field(max_length=120), AfterValidator(_tidy_title)]
BlockId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]


def _pauses_are_sound(text: str) -> str:
    with_pauses(text)
    return text


_Paragraph = Annotated[str, Field(max_length=MAX_PARAGRAPH), AfterValidator(_pauses_are_sound)]
Paragraphs = Annotated[tuple[_Paragraph, ...], Field(max_length=MAX_PARAGRAPHS)]
WordsOver = Annotated[str, Field(max_length=400), AfterValidator(_pauses_are_sound)]
"""A few words said over the start of some natural breath."""
Pause = Annotated[Fraction, Seconds("0", "600")]
LONGEST_RECOVERY = 600
"""Seconds of natural breath after strokes, as part of them."""
RestLength = Annotated[Fraction, Seconds("1", "3600")]


class _Base(Model):
    """What every block has.

    Attributes:
        id, title: its name in the file, and for people.
        locked: it is not changed when a session is fitted to a length.
        bed, voice: what it does with the bed, and how loud the voice is in it.
        language: of its numbers, cues and words; None: the session's.
        narrator: who reads it: a natural voice by name, or "espeak"; None: as the session, takes first.
        take_book: its own takes, for another person's voice; lines they lack are read by its narrator. None: the
            session's, where it has no narrator of its own.
        pace: how fast; None: as the session.
        recordings: that sound in it, each in its place.
    """

    id: BlockId
    title: Title = ""
    locked: bool = False
    bed: BlockBed | None = None
    voice: VoiceLevel | None = None
    language: Language | None = None
    narrator: VoiceName | None = None
    take_book: Asset | None = None
    pace: Pace | None = None
    recordings: Annotated[tuple[PlacedRecording, ...], Field(max_length=MOST_RECORDINGS)] = ()

    @property
    def manner(self) -> str:
        """What it does otherwise with the bed, the voice and the language, and what is played in it, in a few words; ""
        for nothing."""
        words = [each.words for each in (self.bed, self.voice) if each is not None]
        return ", ".join(filter(None, [*words, self.speaker, self.played]))

    @property
    def played(self) -> str:
        """Its recordings in a few words; "" for none."""
        names = dict.fromkeys(each.name for each in self.recordings)
        return f"plays {', '.join(names)}" if names else ""

    @property
    def speaker(self) -> str:
        """Its own language, narrator, takes and pace in a few words; "" for none."""
        language = language_name(self.language) if self.language else ""
        pace = f"{self.pace.text} words/min" if self.pace else ""
        takes = f"takes in {PurePosixPath(self.take_book.path).name}" if self.take_book else ""
        return ", ".join(filter(None, (language, self.narrator, takes, pace)))


class Spoken(_Base):
    """What Talk and Rest share: paragraphs read sentence by sentence."""

    paragraphs: Paragraphs = ()
    sentence_pause: Annotated[Fraction, Seconds("0", "60")] = Fraction(6, 5)
    paragraph_pause: Annotated[Fraction, Seconds("0", "60")] = Fraction(3)

    @property
    def lead(self) -> Fraction:
        """Seconds of a pause written before the first sentence."""
        return self._read[0]

    @property
    def lines(self) -> tuple[tuple[Sentence, ...], ...]:
        """Sentences of each paragraph that has any, each with the pause written after it."""
        return self._read[1]

    def usual_pause(self, number: int) -> Fraction:
        """Seconds after sentence `number` (from 1) where none are written there."""
        for paragraph in self.lines:
            if number <= len(paragraph):
                return self.sentence_pause if number < len(paragraph) else self.paragraph_pause
            number -= len(paragraph)
        raise IndexError("there is no such sentence")

    @property
    def _read(self) -> tuple[Fraction, tuple[tuple[Sentence, ...], ...]]:
        # Kept as the hash is: under a name that is no field to pydantic, so that it does not come along in dict(block).
        kept: tuple[Fraction, tuple[tuple[Sentence, ...], ...]] | None = self.__dict__.get("_kept_lines")
        if kept is None:
            kept = self.__dict__["_kept_lines"] = _spoken(self.paragraphs)
        return kept


def _spoken(paragraphs: tuple[str, ...]) -> tuple[Fraction, tuple[tuple[Sentence, ...], ...]]:
    """The pause before the first sentence, and the sentences by paragraph. A pause with nothing before it in its
    paragraph belongs to the sentence before that."""
    lead = Fraction(0)
    result: list[list[Sentence]] = []
    for paragraph in paragraphs:
        said = list(with_pauses(paragraph))
        if said and not said[0].text:
            pause = said.pop(0).pause or Fraction(0)
            if result:
                last = result[-1][-1]
                result[-1][-1] = Sentence(last.text, (last.pause or 0) + pause)
            else:
                lead += pause
        if said:
            result.append(said)
    return lead, tuple(map(tuple, result))


class Talk(Spoken):
    """Spoken guidance. It lasts as long as it takes to say, or exactly `slot` where one is fixed."""

    kind: Literal["talk"] = "talk"
    pause_after: Pause = Fraction(2)
    slot: RestLength | None = None

    def usual_pause(self, number: int) -> Fraction:
        return self.pause_after if number == sum(map(len, self.lines)) else super().usual_pause(number)


class Rest(Spoken):
    """Natural breath for an exact time; any words are said over its start.

    Attributes:
        shortest, longest: how far it may be stretched when a session is fitted to a length; None: the usual bounds.
    """

    kind: Literal["rest"] = "rest"
    seconds: RestLength
    shortest: RestLength | None = None
    longest: RestLength | None = None

    @model_validator(mode="after")
    def _bounds_hold_it(self) -> "Rest":
        low, high = self.shortest, self.longest
        if low is not None and high is not None and low > high:
            raise ValueError("the shortest is longer than the longest; swap them")
        return self


class CountStyle(Model):
    """How a set is counted aloud.

    Attributes:
        cue: "on-one": the cue is said on count one. "ahead": it is said in room of its own before count one.
            "none": counts alone.
        cue_room: that room, in counts; used only when the cue goes ahead.
        first_room: the same in the first round, where long forms need more; None: as in the others.
        counting: up, down, silent or tick, for phases that do not say their own.
        carrier: a word said before every number ("sea one, sea two"), or None.
        long_forms: cues are said in full in the first round of each step, short after it.
        ways: a route (nose, mouth, ...) and a fill are spoken where they first apply: in the first round of each step.
        announce_last: "last one" is said before the last round.
        last_ahead: so many counts before it, within the phase that ends the round before; 1: on its last count.
    """

    cue: Literal["on-one", "ahead", "none"] = "on-one"
    cue_room: Annotated[int, Field(ge=1, le=8, strict=True)] = 2
    first_room: Annotated[int, Field(ge=1, le=12, strict=True)] | None = None
    counting: Counting = Counting.UP
    carrier: Annotated[str, Field(min_length=1, max_length=30)] | None = None
    long_forms: bool = False
    ways: bool = True
    announce_last: bool = False
    last_ahead: Annotated[int, Field(ge=1, le=30, strict=True)] = 1

    @field_validator("carrier")
    @classmethod
    def _carrier_is_a_word(cls, carrier: str | None) -> str | None:
        if carrier is not None and (not is_one_line(carrier) or carrier != carrier.strip()):
            raise ValueError("a carrier is a plain word, such as sea; fix it")
        return carrier


def ease_parts(words: str) -> tuple[tuple[str, ...], ...]:
    """The sentences said in each ease of a set, step by step, from its `ease_words`; one part at least."""
    return tuple(sentences(part) for part in words.split("|"))


class BreathSet(_Base):
    """A pattern breathed for a number of rounds, with everything that changes from round to round.

    Attributes:
        pattern, rounds: one round and how many; with a pacing, those of its first step (of each step, where it climbs).
        count_length: seconds a count; None: as `count_from`, or the session's.
        count_from: id of an earlier set whose count length this one takes.
        pacing: how it changes from step to step.
        drop_hold: "step": the last round of each step leaves out its final hold; "last": that of the set only.
        fade: how the voice thins out from round to round.
        prepare: a preparing breath before the first round, said and not counted.
        ease, ease_words: natural breath between steps, in seconds, and what is said over its start; where it differs,
            a part for each step with | between, the last of which goes on.
        calls: what is said of where one is, and phrases, round by round.
        starts_on: the side on which an alternating set begins and ends; left is usual.
        mind: the breath is only thought of, without hands; said once.
        pacer: the breath is heard in it, where the session has such a sound.
    """

    kind: Literal["breath"] = "breath"
    pattern: Pattern
    rounds: Rounds
    count_length: CountLength | None = None
    count_from: BlockId | None = None
    style: CountStyle = CountStyle()
    calls: RoundCalls = RoundCalls()
    chimes: bool = True
    pacing: Pacing | None = None
    drop_hold: Literal["keep", "step", "last"] = "keep"
    fade: Fade = ()
    prepare: Pattern | None = None
    ease: Annotated[Fraction, Seconds("0", "300")] = Fraction(0)
    ease_words: WordsOver = ""
    starts_on: Side = Side.LEFT
    mind: bool = False
    pacer: bool = True

    @model_validator(mode="after")
    def _whole_is_sound(self) -> "BreathSet":
        if self.count_length is not None and self.count_from is not None:
            raise ValueError("the count length is written twice; keep count_length or count_from")
        open_steps = [step for step in self.fade if step.rounds is None and step.seconds is None]
        if len(open_steps) > 1:
            raise ValueError("two steps of the fade take all rounds that are left; give one of them its rounds")
        # A glide's bounds hold whatever it starts from.
        start = self.pacing.to if isinstance(self.pacing, Glide) else Fraction(1)
        steps_of(self.pattern, self.rounds, self.pacing, start)
        return self


class Strokes(_Base):
    """Rapid breathing: regular strokes at so many a minute, with a slow demonstration before and recovery after.

    Attributes:
        form: "rapid": a sharp exhale each stroke, the inhale passive; "bellows": both active.
        strokes, per_minute: how many, and how fast; 4 (a learner's pace) to 240 a minute.
        every: which strokes are counted aloud: 1 every one, 5 every fifth, 0 none.
        counting: up, or down to the last.
        ticks: a soft sound on every stroke, so that the listener can follow it.
        demonstration, demonstration_per_minute: slow strokes beforehand, each said; 0 for none.
        count_in: numbers said before the first stroke, a second each, down to one; 0 for none.
        arms: arms go up on the inhale and down on the exhale; said in the demonstration.
        recovery, recovery_words: natural breath afterwards, in seconds, and what is said over its start.
    """

    kind: Literal["strokes"] = "strokes"
    form: Literal["rapid", "bellows"] = "rapid"
    strokes: Annotated[int, Field(ge=1, le=600, strict=True)]
    per_minute: Annotated[Fraction, Seconds("4", "240", unit="strokes a minute")] = Fraction(60)
    every: Annotated[int, Field(ge=0, le=100, strict=True)] = 10
    counting: Literal[Counting.UP, Counting.DOWN] = Counting.UP
    ticks: bool = True
    demonstration: Annotated[int, Field(ge=0, le=30, strict=True)] = 0
    demonstration_per_minute: Annotated[Fraction, Seconds("4", "60", unit="strokes a minute")] = Fraction(10)
    count_in: Annotated[int, Field(ge=0, le=8, strict=True)] = 0
    arms: bool = False
    recovery: Annotated[Fraction, Seconds("0", str(LONGEST_RECOVERY))] = Fraction(45)
    recovery_words: WordsOver = ""

    @property
    def demonstration_seconds(self) -> Fraction:
        """The slow strokes and one stroke's pause after them."""
        slow: Fraction = 60 / self.demonstration_per_minute
        return (self.demonstration + 1) * slow if self.demonstration else Fraction(0)

    @property
    def stroke_seconds(self) -> Fraction:
        """The set itself."""
        seconds: Fraction = self.strokes * 60 / self.per_minute
        return seconds

    @property
    def seconds(self) -> Fraction:
        """The whole block."""
        return self.demonstration_seconds + self.count_in + self.stroke_seconds + self.recovery


Block = Annotated[Talk | Rest | BreathSet | Strokes, Field(discriminator="kind")]
