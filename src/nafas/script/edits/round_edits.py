"""Edits made on the page itself: counts dragged or typed in any round, rounds added at a set's foot, words retyped.

A round may belong to a step of its set, so what is seen there is turned back into what is written.
"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

from nafas.errors import InputError
from nafas.script.edits.session_edits import change_block
from nafas.script.expansion import Round, expand
from nafas.script.model.blocks import BreathSet, Spoken, Strokes
from nafas.script.model.pacing import Ladder, StepUp, Table
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import MAX_COUNTS, Phase, PhaseKind
from nafas.script.model.sentences import Sentence, with_pauses, written
from nafas.script.model.session import Session


def with_counts(session: Session, index: int, round_number: int, phase_number: int, counts: int) -> Session:
    """The session with a phase so many counts long as seen in one round; every step follows.

    Args:
        index: place of the breath set.
        round_number: from 1; the round in which it was changed.
        phase_number: from 1; the phase's place in its pattern.
        counts: new counts there; seconds for a hold written in seconds.

    Raises:
        InputError: the counts there follow from a ladder's ratio.
        ValueError: out of bounds.
    """
    block = _set(session, index)
    if not 0 <= counts <= 300:
        raise ValueError(f"{counts} is not possible; a phase is 0 to {MAX_COUNTS} counts")
    one = expand(block, session.count_length_of(block))[round_number - 1]
    if isinstance(block.pacing, Table) and one.step > 1:
        step = block.pacing.steps_after[one.step - 2]
        steps = list(block.pacing.steps_after)
        steps[one.step - 2] = step.model_copy(update={"pattern": _resized(step.pattern, phase_number, counts)})
        return change_block(session, index, pacing=Table(steps_after=tuple(steps)))
    phase = block.pattern.phases[phase_number - 1]
    if isinstance(block.pacing, Ladder) and phase.kind is PhaseKind.EXHALE:
        raise InputError("this exhale", "follows from the inhale and the ladder's ratios", "change one of those")
    grows = isinstance(block.pacing, StepUp) and phase.counts and (not block.pacing.on or phase.kind in block.pacing.on)
    grown = (one.step - 1) * block.pacing.by if grows and isinstance(block.pacing, StepUp) else 0
    return change_block(session, index, pattern=_resized(block.pattern, phase_number, counts - grown))


def _resized(pattern: Pattern, phase_number: int, counts: int) -> Pattern:
    phases = list(pattern.phases)
    phases[phase_number - 1] = phases[phase_number - 1].resized(counts)
    return Pattern(phases=tuple(phases))


def with_more_rounds(session: Session, index: int, more: int) -> Session:
    """The session with rounds added to a set at its foot (or taken, below 0), at least one staying.

    A table grows in its last step; a set that climbs grows in every step. Raises ValueError.
    """
    block = session.blocks[index]
    if isinstance(block, Strokes):
        return change_block(session, index, strokes=max(1, block.strokes + more))
    block = _set(session, index)
    if isinstance(block.pacing, Table):
        *before, last = block.pacing.steps_after
        last = last.model_copy(update={"rounds": max(1, last.rounds + more)})
        return change_block(session, index, pacing=Table(steps_after=(*before, last)))
    return change_block(session, index, rounds=max(1, block.rounds + more))


def with_sentence(session: Session, index: int, number: int, text: str) -> Session:
    """The session with sentence `number` (from 1) of a talk or rest reading `text`; "" takes it out. The pause after it
    stays as it was unless the text says another."""
    words = " ".join(text.split())

    def retyped(old: Sentence) -> list[Sentence]:
        new = list(with_pauses(words))
        if new and new[-1].pause is None:
            new[-1] = Sentence(new[-1].text, old.pause)
        return new

    return _with_sentences(session, index, number, retyped)


def with_pause(session: Session, index: int, number: int, seconds: Fraction | None) -> Session:
    """The session with a pause of so many seconds after sentence `number` (from 1) of a talk or rest; None: the usual
    one of its block. Raises ValueError over ten minutes."""
    block = session.blocks[index]
    assert isinstance(block, Spoken)
    usual = block.usual_pause(number)
    pause = None if seconds == usual else seconds
    return _with_sentences(session, index, number, lambda old: [Sentence(old.text, pause)])


def _with_sentences(session: Session, index: int, number: int, make: Callable[[Sentence], list[Sentence]]) -> Session:
    block = session.blocks[index]
    assert isinstance(block, Spoken)
    paragraphs: list[str] = []
    seen = 0
    for paragraph in block.paragraphs:
        said = []
        for each in with_pauses(paragraph):
            seen += bool(each.text)
            said += make(each) if each.text and seen == number else [each]
        if text := written(said):
            paragraphs.append(text)
    return change_block(session, index, paragraphs=tuple(paragraphs))


def with_paragraph(session: Session, index: int, text: str) -> Session:
    """The session with one more paragraph in a talk or rest; "" adds none."""
    block = session.blocks[index]
    assert isinstance(block, Spoken)
    words = " ".join(text.split())
    return change_block(session, index, paragraphs=(*block.paragraphs, *([words] if words else [])))


def with_ease_words(session: Session, index: int, number: int, text: str) -> Session:
    """The session with one sentence of what a set says in its ease, or strokes in their recovery, reading `text`."""
    block = session.blocks[index]
    name = "recovery_words" if isinstance(block, Strokes) else "ease_words"
    parts = [list(with_pauses(part)) for part in getattr(block, name).split("|")]
    said = [[position for position, each in enumerate(part) if each.text] for part in parts]
    step, position = 0, number - 1
    while position >= len(said[min(step, len(said) - 1)]):  # the last part is said again at every further step
        if step >= len(said) and not said[-1]:
            raise IndexError(f"there is no sentence {number}")
        position -= len(said[min(step, len(said) - 1)])
        step += 1
    part = parts[min(step, len(parts) - 1)]
    at = said[min(step, len(said) - 1)][position]
    part[at] = Sentence(" ".join(text.split()), part[at].pause)
    return change_block(session, index, **{name: " | ".join(map(written, parts))})


def with_cue(session: Session, index: int, round_number: int, phase_number: int, text: str) -> Session:
    """The session with other words for a phase, as seen in one round; "" goes back to the language's own."""
    words = " ".join(text.split()) or None
    long = round_number == 1 and _set(session, index).style.long_forms
    name = "long_cue" if long else "cue"
    return _with_phase(session, index, round_number, phase_number, {name: words})


def with_part_word(session: Session, index: int, round_number: int, phase_number: int, part: int, text: str) -> Session:
    """The session with another word for part `part` (from 0) of a phase."""
    block = _set(session, index)
    phase = _pattern(session, block, round_number).phases[phase_number - 1]
    parts = list(phase.parts)
    old = parts[part]
    parts[part] = type(old)(counts=old.counts, word=" ".join(text.split()), movement=old.movement)
    return _with_phase(session, index, round_number, phase_number, {"parts": tuple(parts)})


def with_call(session: Session, index: int, round_number: int, phase_number: int, call: int, text: str) -> Session:
    """The session with other words for call `call` (from 0) of a hold; "" goes back to the language's own."""
    block = _set(session, index)
    phase = _pattern(session, block, round_number).phases[phase_number - 1]
    calls = list(phase.calls)
    calls[call] = type(calls[call])(at=calls[call].at, units=calls[call].units, text=" ".join(text.split()) or None)
    return _with_phase(session, index, round_number, phase_number, {"calls": tuple(calls)})


def with_phase(session: Session, index: int, round_number: int, phase_number: int, **fields: object) -> Session:
    """The session with fields of one phase changed, in the step of the round it is seen in. Raises ValueError."""
    return _with_phase(session, index, round_number, phase_number, fields)


def phase_of(session: Session, index: int, round_number: int, phase_number: int) -> Phase:
    """A phase as written, in the step of the round it is seen in; round 0 is the first step."""
    return _pattern(session, _set(session, index), round_number).phases[phase_number - 1]


def _with_phase(
    session: Session, index: int, round_number: int, phase_number: int, fields: dict[str, object]
) -> Session:
    block = _set(session, index)
    pattern = _pattern(session, block, round_number)
    phases = list(pattern.phases)
    old = phases[phase_number - 1]
    phases[phase_number - 1] = Phase.model_validate({n: getattr(old, n) for n in Phase.model_fields} | fields)
    new = Pattern(phases=tuple(phases))
    if isinstance(block.pacing, Table) and (step := _step(session, block, round_number)) > 1:
        steps = list(block.pacing.steps_after)
        steps[step - 2] = steps[step - 2].model_copy(update={"pattern": new})
        return change_block(session, index, pacing=Table(steps_after=tuple(steps)))
    return change_block(session, index, pattern=new)


def _step(session: Session, block: BreathSet, round_number: int) -> int:
    if not round_number:
        return 1
    return expand(block, session.count_length_of(block))[round_number - 1].step


def _pattern(session: Session, block: BreathSet, round_number: int) -> Pattern:
    step = _step(session, block, round_number)
    return block.pacing.steps_after[step - 2].pattern if isinstance(block.pacing, Table) and step > 1 else block.pattern


def _set(session: Session, index: int) -> BreathSet:
    block = session.blocks[index]
    if not isinstance(block, BreathSet):
        raise TypeError(f"block {index} is no breath set")
    return block


@dataclass(frozen=True)
class WordTarget:
    """What is changed when a word on the page is retyped: a "cue", the name of a "part", or the words of a "call".

    `phase` is its number; `index` the part or the call.
    """

    kind: str
    phase: int
    index: int = 0


def word_target(
    one: Round, phase_number: int, count: int, nth_call: int | None, number: bool = True
) -> WordTarget | None:
    """What a word of a round stands for.

    Args:
        one: the round.
        phase_number, count: where it is said; count 0 is a cue said ahead.
        nth_call: for a call, which one of its phase in order of time, from 0; else None.
        number: whether it may be a number; else it is the word of the part it stands in, wherever that found room.

    Returns:
        None for a number and for what the set says of itself ("last one"): those follow from its counting.
    """
    position = one.numbers.index(phase_number)
    phase = one.phases[position]
    if nth_call is not None:
        order = sorted((i for i, c in enumerate(phase.calls) if c.at != "release"), key=lambda i: _place(phase, i))
        return WordTarget("call", phase_number, order[nth_call]) if nth_call < len(order) else None
    if count <= 1:
        released = (
            [i for i, call in enumerate(one.phases[position - 1].calls) if call.at == "release"] if position else []
        )
        if released:
            return WordTarget("call", one.numbers[position - 1], released[0])
        return (
            WordTarget("part", phase_number, 0)
            if phase.parts and phase.parts[0].word
            else WordTarget("cue", phase_number)
        )
    at = 1
    for place_of_part, part in enumerate(phase.parts):
        if at == count or (not number and at <= count < at + part.counts):
            return WordTarget("part", phase_number, place_of_part)
        at += part.counts
    return None


def _place(phase: Phase, index: int) -> Fraction:
    call = phase.calls[index]
    return {"half": phase.size / 2, "in": Fraction(call.units)}.get(call.at, phase.size - call.units)


def with_word(session: Session, index: int, round_number: int, target: WordTarget, text: str) -> Session:
    """The session with a word of a round retyped. Raises ValueError."""
    if target.kind == "part":
        return with_part_word(session, index, round_number, target.phase, target.index, text)
    if target.kind == "call":
        return with_call(session, index, round_number, target.phase, target.index, text)
    return with_cue(session, index, round_number, target.phase, text)
