"""What a check looks at, and what it says."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from enum import StrEnum
from fractions import Fraction
from functools import cached_property

from nafas.script.model.blocks import Block, BreathSet, Strokes, Talk
from nafas.script.model.session import Session
from nafas.sound.mix.mix import Mix
from nafas.suggest.finding_remedies import FindingRemedy
from nafas.timing.timeline import EventKind, Moment, TimedBlock, Timeline
from nafas.voice.casting import Cast

Work = BreathSet | Strokes
"""The blocks in which the breath is led."""


class Severity(StrEnum):
    """How much a finding matters, the gravest first."""

    MUST = "must"
    SHOULD = "should"
    LOOK = "worth a look"


@dataclass(frozen=True)
class Finding:
    """Something a person should know before this is handed over.

    Attributes:
        check: the name of the check that found it.
        severity: how much it matters.
        text: what is so, and why it matters, in whole sentences.
        key: says the same finding again after edits elsewhere; what is set aside is kept under it.
        block: its place in the session, None for the session as a whole.
        at: exact seconds into the session where it is heard; None where it has no moment.
        where: the place for people, such as "Long exhale, round 2".
        remedies: changed sessions without it, if there are any.
        reason: why it was set aside; "" where it was not.
    """

    check: str
    severity: Severity
    text: str
    key: str
    block: int | None = None
    at: Fraction | None = None
    where: str = ""
    remedies: tuple[FindingRemedy, ...] = field(default=(), compare=False, repr=False)
    reason: str = ""


@dataclass(frozen=True)
class Said:
    """A sentence and where it stands.

    Attributes:
        block: the place of its block; None for the session's own title or comment.
        sentence: its number in the block, from 1; 0 for a title.
        text: as written.
        at: exact seconds at which it is begun; None for what is only read.
        title: it is a title and not spoken.
        language: of its words, without a region.
    """

    block: int | None
    sentence: int
    text: str
    at: Fraction | None
    title: bool = False
    language: str = "en"


@dataclass(frozen=True, eq=False)
class Measures:
    """What was measured of a session's sound.

    Attributes:
        loudness: LUFS of the mix; -inf where nothing sounds.
        true_peak: dBTP it would have at the loudness the session asks for.
        mono_loss: LU lost on one loudspeaker.
        voice_over_bed: LU while it speaks; nan without a voice, inf without a bed.
        worst_over_bed, worst_block: the same in the block where it is least, and that block's id.
        jump, jump_at: LU by which what is not the voice rises most suddenly, and when.
        voice: LUFS of the voice while it speaks, at the loudness the session asks for; -inf without one.
        chimes_over_voice, chimes_at: LU of the loudest 400 ms of chimes over the speaking voice, and when.
    """

    loudness: float
    true_peak: float
    mono_loss: float
    voice_over_bed: float
    worst_over_bed: float
    worst_block: str | None
    jump: float
    jump_at: Fraction | None
    voice: float
    chimes_over_voice: float
    chimes_at: Fraction | None


@dataclass(frozen=True, eq=False)
class Subject:
    """What is looked at: a session timed, and where they are known its cast, its mix and what was measured of it."""

    timeline: Timeline
    cast: Cast | None = None
    mix: Mix | None = None
    measures: Measures | None = None

    @property
    def session(self) -> Session:
        return self.timeline.session

    @property
    def language(self) -> str:
        """Of the session, without its region."""
        return self.session.language.partition("-")[0]

    def language_of(self, index: int | None) -> str:
        """Of what is said in a block, without its region; None: of the session."""
        return self.language if index is None else self.timed(index).language.partition("-")[0]

    @cached_property
    def places(self) -> dict[str, int]:
        """The place of each block by its id."""
        return {block.id: index for index, block in enumerate(self.session.blocks)}

    @cached_property
    def said(self) -> tuple[Said, ...]:
        """Every sentence of talk in order of time, words over rests and eases among them."""
        return tuple(
            Said(index, moment.count, moment.text, moment.at, language=self.language_of(index))
            for moment in self.timeline.moments
            if moment.kind is EventKind.TALK and (index := self.places.get(moment.block)) is not None
        )

    @cached_property
    def titles(self) -> tuple[Said, ...]:
        """The session's title and comment, and the titles of its blocks."""
        said = [
            Said(None, 0, text, None, True, self.language)
            for text in (self.session.title, self.session.tags.comment)
            if text
        ]
        said += [
            Said(index, 0, block.title, self.timed(index).start, True, self.language)
            for index, block in enumerate(self.session.blocks)
            if block.title
        ]
        return tuple(said)

    def timed(self, number: int) -> TimedBlock:
        return self.timeline.blocks[number]

    @cached_property
    def work(self) -> tuple[int, ...]:
        """Places of the sets and strokes."""
        return tuple(index for index, block in enumerate(self.session.blocks) if isinstance(block, Work))

    def work_after(self, number: int | None) -> tuple[int, ...]:
        """The sets that words at a place speak of: those that follow, up to the next talk after them; all of the
        session's where there is other talk in between, as in a greeting."""
        if number is None:
            return self.work
        blocks = self.session.blocks
        if isinstance(blocks[number], Work):
            return (number,)
        numbers: list[int] = []
        for later in range(number + 1, len(blocks)):
            block = blocks[later]
            if isinstance(block, Work):
                numbers.append(later)
            elif isinstance(block, Talk):
                if not numbers:
                    return self.work
                break
        return tuple(numbers)

    def finding(
        self,
        check: str,
        severity: Severity,
        text: str,
        detail: str,
        index: "Said | int | None" = None,
        at: Fraction | None = None,
        where: str = "",
        remedies: tuple[FindingRemedy, ...] = (),
    ) -> Finding:
        """A finding at a sentence, at the beginning of a block, or of the session as a whole; `detail` tells it from
        others of the same check in the same block."""
        if isinstance(index, Said):
            block, at, where = index.block, index.at if at is None else at, where or self.where(index)
        else:
            block = index
            if index is not None:
                at, where = self.timed(index).start if at is None else at, where or self.named(index)
        key = ":".join((check, "session" if block is None else self.session.blocks[block].id, detail))
        return Finding(check, severity, text, key[:200], block, at, where, remedies)

    def where(self, said: Said) -> str:
        """The place of a sentence for people."""
        if said.block is None:
            return "the session's title" if said.text == self.session.title else "the session's comment"
        title = self.timeline.address(_of_block(self.session.blocks[said.block]))
        return f"{title}, its title" if said.title else f"{title}, sentence {said.sentence}" if said.sentence else title

    def named(self, number: int) -> str:
        """A block's name for people."""
        return self.timeline.address(_of_block(self.session.blocks[number]))


def _of_block(block: Block) -> Moment:
    return Moment(0, 0, 1, EventKind.BLOCK, block.id)


@dataclass(frozen=True)
class Check:
    """One question put to a session.

    Attributes:
        name: unique; kept in files with what is set aside.
        group: "Promises", "Cautions", "Listener" or "Sound".
        looks: what it looks at, for people: what stands in place of a blank verdict.
        find: the findings; nothing is changed.
        needs: "timeline", "cast" or "measures": what must be known of the subject for it to be asked.
    """

    name: str
    group: str
    looks: str
    find: Callable[[Subject], Iterable[Finding]] = field(compare=False)
    needs: str = "timeline"

    def can_look(self, subject: Subject) -> bool:
        return self.needs == "timeline" or getattr(subject, self.needs) is not None

    def run(self, subject: Subject) -> list[Finding]:
        """Its findings, each once, those set aside with the reason."""
        aside = {each.finding: each.reason for each in subject.session.set_aside}
        findings: dict[str, Finding] = {}
        for finding in self.find(subject):
            findings.setdefault(finding.key, replace(finding, reason=aside.get(finding.key, finding.reason)))
        return list(findings.values())
