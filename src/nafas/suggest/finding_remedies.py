"""What can be done about a finding: changed sessions, made by one edit each."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from fractions import Fraction

from nafas.errors import InputError
from nafas.languages import library_words
from nafas.script.edits.session_edits import change, change_block, insert_block
from nafas.script.model.blocks import BreathSet, Rest, Strokes, Talk
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import PhaseKind, Side
from nafas.script.model.session import Session
from nafas.script.words.cautions import caution_words
from nafas.timing.compile import SpokenLength, compile_session
from nafas.timing.timeline import Timeline

_OTHER_SIDE = {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}


@dataclass(frozen=True)
class FindingRemedy:
    """One way out of a finding.

    Attributes:
        title: what it does, for people.
        session: with it.
        lines: sentences it writes again, which need new takes where a person speaks.
        confirms: (topics, sentences) that are kept for other sessions when it is chosen; None: nothing.
    """

    title: str
    session: Session
    lines: int = 0
    confirms: tuple[tuple[str, ...], tuple[str, ...]] | None = None

    def cost(self, timeline: Timeline, spoken_length: SpokenLength) -> Fraction:
        """Seconds it adds to the session as it stands."""
        return compile_session(self.session, spoken_length).length - timeline.length


def tried(*offers: tuple[str, Callable[[], Session], int]) -> tuple[FindingRemedy, ...]:
    """Of (title, edit, lines written again) those that give a session that may be."""
    remedies = []
    for title, edit, lines in offers:
        try:
            remedies.append(FindingRemedy(title, edit(), lines))
        except (ValueError, InputError, IndexError):
            continue
    return tuple(remedies)


def with_words(session: Session, index: int | None, old: str, new: str, title: bool = False) -> Session:
    """The session with the first `old` in a block's words (its title; the session's own where `index` is None) in
    other words. Raises InputError where it does not stand there."""
    if index is None:
        for name, text in (("title", session.title), ("comment", session.tags.comment)):
            if old in text:
                if name == "title":
                    return change(session, title=text.replace(old, new, 1))
                return change(session, tags=session.tags.model_copy(update={"comment": text.replace(old, new, 1)}))
        raise InputError("the session's title", f"does not hold {old!r}", "look again")
    block = session.blocks[index]
    if title:
        if old not in block.title:
            raise InputError(block.title, f"does not hold {old!r}", "look again")
        return change_block(session, index, title=block.title.replace(old, new, 1))
    paragraphs = list(getattr(block, "paragraphs", ()))
    for number, text in enumerate(paragraphs):
        if old in text:
            paragraphs[number] = text.replace(old, new, 1)
            return change_block(session, index, paragraphs=tuple(paragraphs))
    for name in ("ease_words", "recovery_words"):
        text = getattr(block, name, "")
        if old in text:
            return change_block(session, index, **{name: text.replace(old, new, 1)})
    raise InputError(block.title or block.id, f"does not hold {old!r}", "look again")


def without_sentence(session: Session, index: int, sentence: str) -> Session:
    """The session without a sentence of a block. Raises InputError where it does not stand there as a whole."""
    paragraphs = getattr(session.blocks[index], "paragraphs", ())
    for between in (f" {sentence}", f"{sentence} "):  # with the space that stood next to it
        if any(between in text for text in paragraphs):
            return with_words(session, index, between, "")
    return with_words(session, index, sentence, "")


def with_bed_under(session: Session, under: float) -> Session:
    """The session with its bed so many LU under the voice. Raises ValueError without a bed."""
    if session.bed is None:
        raise ValueError("there is no bed")
    return change(session, bed=session.bed.model_copy(update={"under_voice": under}))


def with_rounds(session: Session, index: int, rounds: int) -> Session:
    """The session with so many rounds of a set, or strokes. Raises ValueError out of bounds."""
    block = session.blocks[index]
    if isinstance(block, Strokes):
        return change_block(session, index, strokes=rounds)
    if not isinstance(block, BreathSet) or block.pacing is not None:
        raise ValueError("its rounds follow its steps")
    return change_block(session, index, rounds=rounds)


def with_counts(session: Session, index: int, kinds: tuple[PhaseKind, ...], counts: int) -> Session:
    """The session with so many counts in the one phase of a set that is of these kinds. Raises ValueError where there
    is none or more than one, or where its counts change from step to step."""
    block = session.blocks[index]
    if not isinstance(block, BreathSet) or block.pacing is not None:
        raise ValueError("its counts follow its steps")
    of_kind = [phase for phase in block.pattern.phases if phase.kind in kinds and not phase.parts]
    if len(of_kind) != 1:
        raise ValueError("there is no one phase to change")
    phases = tuple(
        phase.model_copy(update={"counts": counts}) if phase is of_kind[0] else phase for phase in block.pattern.phases
    )
    return change_block(session, index, pattern=Pattern(phases=phases))


def with_sides_swapped(session: Session, index: int) -> Session:
    """The session with left and right swapped in a set."""
    block = session.blocks[index]
    if not isinstance(block, BreathSet):
        raise ValueError("no set")
    phases = tuple(
        phase.model_copy(update={"side": _OTHER_SIDE.get(phase.side, phase.side)}) if phase.side else phase
        for phase in block.pattern.phases
    )
    pattern = block.pattern.model_copy(update={"phases": phases})
    return change_block(session, index, pattern=pattern, starts_on=_OTHER_SIDE.get(block.starts_on, block.starts_on))


def with_cautions(session: Session, before: int, keys: Iterable[str]) -> Session:
    """The session with the usual cautions said before a block, in its language."""
    words = caution_words(tuple(keys), session.language)
    title = library_words(session.language).get("Cautions", "Cautions")
    talk = Talk(id="cautions", title=title, paragraphs=words, sentence_pause=Fraction(3, 2))
    return insert_block(session, before, talk)


def with_rest(session: Session, before: int, seconds: Fraction, words: str = "") -> Session:
    """The session with natural breath before a block."""
    rest = Rest(id="ease", title="Natural breath", seconds=seconds, paragraphs=(words,) if words else ())
    return insert_block(session, before, rest)
