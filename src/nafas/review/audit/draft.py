"""A recording as a script: its sets on an exact grid, its talk between them with the pauses it has."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

from nafas.review.audit.talk import Sentence
from nafas.script.expansion import set_seconds
from nafas.script.model.blocks import Block, BreathSet, CountStyle, Rest, Talk
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Counting, Phase, PhaseKind
from nafas.script.model.session import Session
from nafas.script.performed import PerformedSet
from nafas.script.words.lexicon import CUE_KEYS, lexicon_of
from nafas.script.words.wording import Wording
from nafas.timing.clock import clock

_FINEST = Fraction(1, 100)
"""Seconds to which a count is brought: finer says nothing of what was meant."""
_LEAST_ROUNDS = 2
_MOST_OPENING = 100
"""Seconds before the first word that are taken for the opening."""
_LONGEST_PAUSE, _LONGEST_REST = 600, 3600
_A_PARAGRAPH = 8
"""Sentences of a paragraph."""
_LEAST_GAP = 1.0


@dataclass(frozen=True)
class Draft:
    """A session made of what was heard.

    Attributes:
        session: without takes.
        sets: what each of its sets was made of, in order.
        talk: its sentences by the text they have in the session; of two that are alike, both.
        begins: seconds of the recording at which each block begins, by its id.
        left: sets heard that had too little to go by.
    """

    session: Session
    sets: tuple[PerformedSet, ...]
    talk: dict[str, tuple[Sentence, ...]]
    begins: dict[str, float]
    left: int

    @cached_property
    def blocks(self) -> tuple[BreathSet, ...]:
        """The sets as written."""
        return tuple(block for block in self.session.blocks if isinstance(block, BreathSet))


def drafted(title: str, sets: Sequence[PerformedSet], talk: Sequence[Sentence], language: str) -> Draft | None:
    """The script of what was heard; None where no set of two rounds or more has a count that can be known.

    Args:
        title: of the session.
        sets, talk: in order of time.
        language: a code.
    """
    good = [one for one in sets if len(one.rounds) >= _LEAST_ROUNDS and one.count_length is not None]
    if not good:
        return None
    blocks: list[Block] = []
    begins: dict[str, float] = {}
    texts: dict[str, tuple[Sentence, ...]] = {}
    first = min([good[0].start, *(sentence.start for sentence in talk)])
    opening = min(Fraction(_MOST_OPENING), _decimal(first))
    at = float(opening)

    def add(block: Block, begin: float) -> None:
        blocks.append(block)
        begins[block.id] = begin

    for number, one in enumerate([*good, None], 1):
        until = one.start if one is not None else None
        said = [s for s in talk if s.start >= at - _LEAST_GAP and (until is None or s.end <= until + _LEAST_GAP)]
        if said:
            for sentence in said:
                texts[_text(sentence)] = (*texts.get(_text(sentence), ()), sentence)
            add(_talk(said, at, until, f"talk-{number}"), at)
        elif until is not None and until - at >= _LEAST_GAP:
            rest = min(Fraction(_LONGEST_REST), Fraction(round((until - at) * 10), 10))
            add(Rest(id=f"between-{number}", title="Not counted here", seconds=rest), at)
        if one is not None:
            block = _set(one, number)
            add(block, one.start)
            at = one.start + float(_seconds(block))
    session = Session(
        title=title[:120],
        language=language,
        opening=opening,
        end_bell=False,
        bed=None,
        blocks=tuple(blocks),
        wording=_wording(good, language),
    )
    return Draft(session, tuple(good), texts, begins, len(sets) - len(good))


def _decimal(seconds: float) -> Fraction:
    return Fraction(round(max(0.0, seconds) * 100), 100)


def _text(sentence: Sentence) -> str:
    return sentence.text or f"What is said at {clock(sentence.start, tenths=True)}."


def _talk(said: Sequence[Sentence], begin: float, until: float | None, name: str) -> Talk:
    """What is said, each sentence with the pause that follows it."""
    ends = [*(after.start for after in said[1:]), until if until is not None else said[-1].end + 2]
    pauses = [min(Fraction(_LONGEST_PAUSE), _decimal(end - sentence.end)) for sentence, end in zip(said, ends)]
    lead = _decimal(said[0].start - begin)
    written = [f"{_text(sentence)} [{float(pause):g}s]" for sentence, pause in zip(said, pauses)]
    written[-1] = _text(said[-1])
    if lead > 0:
        written[0] = f"[{float(min(lead, Fraction(_LONGEST_PAUSE))):g}s] {written[0]}"
    paragraphs = tuple(" ".join(written[k : k + _A_PARAGRAPH]) for k in range(0, len(written), _A_PARAGRAPH))
    return Talk(id=name, title="", paragraphs=paragraphs, pause_after=pauses[-1])


def _wording(sets: Sequence[PerformedSet], language: str) -> Wording:
    """The cue words that were used, where the language's own are others."""
    used = Counter(
        (phase.kind, phase.words[0].text)
        for one in sets
        for phases in one.rounds
        for phase in phases
        if phase.words[0].kind is not None
    )
    usual, own = lexicon_of(language, Wording()), {}
    for kind in PhaseKind:
        most = max(((count, text) for (of, text), count in used.items() if of is kind), default=None)
        if most is not None and most[1] != usual.kind(kind).lower():
            own[CUE_KEYS[kind]] = most[1]
    return Wording(**own)


def _set(one: PerformedSet, number: int) -> BreathSet:
    assert one.count_length is not None
    usual = next(r for r in one.rounds if tuple((p.kind, p.counts) for p in r) == one.pattern)
    phases = tuple(
        Phase(kind=phase.kind, counts=phase.counts, counting=Counting.DOWN if phase.falls else None) for phase in usual
    )
    rising = [phase.numbers[0] for phase in usual if phase.numbers and not phase.falls]
    ahead = bool(rising) and set(rising) == {1}
    silent = not any(phase.numbers for phase in usual)
    return BreathSet(
        id=f"set-{number}",
        title=f"Set {number}",
        pattern=Pattern(phases=phases),
        rounds=len(one.rounds),
        count_length=max(_FINEST, round(Fraction(one.count_length) / _FINEST) * _FINEST),
        style=CountStyle(cue="ahead" if ahead else "on-one", counting=Counting.SILENT if silent else Counting.UP),
    )


def _seconds(block: BreathSet) -> Fraction:
    return set_seconds(block, block.count_length or Fraction(1))
