"""What can be done about a line that does not fit its place, each tried on the whole session, with what it costs.

A remedy is a changed session. It is offered only where casting it again shows that the line then fits, wherever it did
not; what it costs is the time it adds to the session.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import ceil

from nafas.errors import InputError
from nafas.script.edits.round_edits import phase_of, with_phase
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.blocks import Block, BreathSet, CountStyle, Rest, Strokes, Talk
from nafas.script.model.exact import decimal_text
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import PhaseKind
from nafas.script.model.session import Session
from nafas.script.model.voice import MOST_SHORTENED
from nafas.script.words.lexicon import CUE_KEYS
from nafas.timing.compile import compile_session
from nafas.timing.timeline import EventKind
from nafas.voice.casting import Cast, cast_timeline
from nafas.voice.engines.narrator import Narrator
from nafas.voice.misfits import Misfit, MisfitKind

_SHORT = {"en": dict(zip(PhaseKind, ("in", "hold", "out", "rest")))}
"""The shortest usual cues (common practice, no source). Other languages' usual cues are short already."""
_MOST_ROOM = 4
_STEP = Fraction(1, 20)


@dataclass(frozen=True, eq=False)
class Remedy:
    """One way out.

    Attributes:
        title: what it does, for people.
        session: with it; None where it is done at the microphone.
        cost: seconds it adds to the session.
        left: how many misfits of any line remain with it.
    """

    title: str
    session: Session | None
    cost: Fraction
    left: int


def remedies(cast: Cast, misfit: Misfit, narrator: Narrator) -> list[Remedy]:
    """The ways to make a line fit everywhere, the cheapest first; what is done at the microphone comes last.

    Args:
        cast: of the session as it stands.
        misfit: one of the cast's.
        narrator: the voice of the session.
    """
    session = cast.timeline.session
    text, kind = misfit.placement.moment.text, misfit.kind
    before = _misses(cast, text)
    remedies_: list[Remedy] = []
    tried: list[Session] = []
    for title, changed in _candidates(session, misfit):
        if changed == session or changed in tried:
            continue
        tried.append(changed)
        try:
            timeline = compile_session(changed, narrator.spoken_length)
            new = cast_timeline(timeline, narrator, cast.rate)
        except InputError:
            continue
        if _misses(new, text) < before and not any(_same(m, misfit) for m in new.misfits):
            remedies_.append(Remedy(title, changed, timeline.length - cast.timeline.length, len(new.misfits)))
    # Of several sizes of one remedy, the smallest that works, and makes no other line too long, is enough.
    cheapest: dict[str, Remedy] = {}
    others = len(cast.misfits) - before
    for remedy in remedies_:
        name = remedy.title.split(":")[0]
        if name not in cheapest or (cheapest[name].left > others >= remedy.left):
            cheapest[name] = remedy
    ordered = sorted(cheapest.values(), key=lambda remedy: (remedy.cost, remedy.left))
    if kind is MisfitKind.TOO_LONG:
        word = "Record it" if misfit.placement.clip.stand_in else "Record a faster take"
        ordered.append(
            Remedy(f"{word}: within {max(0.0, misfit.room):.2f} s", None, Fraction(0), len(cast.misfits) - before)
        )
    return ordered


def _misses(cast: Cast, text: str) -> int:
    return sum(misfit.placement.moment.text == text for misfit in cast.misfits)


def _same(one: Misfit, other: Misfit) -> bool:
    a, b = one.placement.moment, other.placement.moment
    # A cue may move from count one into room of its own: it is the same line of the same phase.
    same = (a.block, a.round, a.phase, a.text) == (b.block, b.round, b.phase, b.text)
    return same and (a.count == b.count or {a.count, b.count} <= {0, 1})


def _candidates(session: Session, misfit: Misfit) -> Iterator[tuple[str, Session]]:
    """Sessions that may help. The words before a colon name the remedy; a later one of the same name is larger."""
    over = Fraction(ceil(misfit.over * 20 + 0.2), 20)
    if misfit.kind is MisfitKind.BEFORE_START:
        yield (
            f"A longer opening: {decimal_text(session.opening + over)} s",
            change(session, opening=session.opening + over),
        )
        return
    if misfit.kind is MisfitKind.PAST_END:
        yield (
            f"A longer closing: {decimal_text(session.closing + over)} s",
            change(session, closing=session.closing + over),
        )
        return
    moment = misfit.placement.moment
    index = next((i for i, block in enumerate(session.blocks) if block.id == moment.block), None)
    if index is None:
        return
    block = session.blocks[index]
    clip = misfit.placement.clip
    if moment.kind is not EventKind.TALK:
        after_beat = (clip.spoken - round(clip.beat * clip.rate)) / clip.rate
        share = ceil(100 * misfit.over / max(after_beat, 1e-9)) / 100
        for more in (0.0, 0.02, 0.04, 0.06):
            share_now = round(share + more, 2)
            if session.voice.shorten < share_now <= MOST_SHORTENED:
                voice = session.voice.model_copy(update={"shorten": share_now})
                yield f"Shorten at the same pitch: by up to {share_now:.0%}", change(session, voice=voice)
    yield from _own_words(session, index, block, misfit)
    if isinstance(block, BreathSet):
        yield from _of_a_set(session, index, block, misfit)
    elif isinstance(block, Strokes):
        for down in range(1, 9):
            slower = block.per_minute * (20 - down) / 20
            slower = Fraction(max(4, round(slower)))
            yield f"Slower strokes: {decimal_text(slower)} a minute", change_block(session, index, per_minute=slower)
    elif isinstance(block, Rest):
        for longer in (block.seconds + over, block.seconds + over + 1):
            yield f"A longer rest: {decimal_text(longer)} s", _fields(session, index, seconds=longer)
    elif isinstance(block, Talk) and block.slot is not None:
        for longer in (block.slot + over, block.slot + over + 1):
            yield f"A longer slot: {decimal_text(longer)} s", _fields(session, index, slot=longer)


def _is_cue(session: Session, block: Block, misfit: Misfit) -> bool:
    """Whether it is said for a phase, on its first count or ahead of it, rather than a number."""
    moment = misfit.placement.moment
    if moment.kind is EventKind.COUNT and moment.count == 1:
        number = moment.text.split()[-1:]
        return number not in ([session.lexicon_of(block).count(n)] for n in range(61))
    return moment.kind is EventKind.CUE


def _own_words(session: Session, index: int, block: Block, misfit: Misfit) -> Iterator[tuple[str, Session]]:
    """Short forms: the long form of the first round left out, the shortest cue, a number without its carrier."""
    moment = misfit.placement.moment
    if not isinstance(block, BreathSet):
        return
    cue = _is_cue(session, block, misfit)
    if block.style.long_forms and moment.round == 1 and cue:
        yield "Short forms from the first round on", change_block(session, index, style=_style(block, long_forms=False))
    if block.style.carrier and not cue:
        title = f"Numbers without {block.style.carrier!r}"
        yield title, change_block(session, index, style=_style(block, carrier=None))
    its_own = block.language not in (None, session.language)  # the session's wording does not reach it
    short = None if its_own else _SHORT.get(session.language, {}).get(moment.phase_kind or PhaseKind.INHALE)
    if cue and short and moment.phase_kind and moment.text == session.lexicon.kind(moment.phase_kind):
        wording = session.wording.model_copy(update={CUE_KEYS[moment.phase_kind]: short})
        if short != moment.text:
            yield f"A short form: {short!r} for {moment.text!r}", change(session, wording=wording)


def _of_a_set(session: Session, index: int, block: BreathSet, misfit: Misfit) -> Iterator[tuple[str, Session]]:
    moment = misfit.placement.moment
    if moment.kind is EventKind.CALL and moment.phase:
        yield from _earlier_call(session, index, block, misfit)
    if _is_cue(session, block, misfit):
        yield from _of_a_phase(session, index, block, misfit)
        first = block.style.cue_room + 1 if block.style.cue == "ahead" else 1
        for room in range(first, first + _MOST_ROOM):
            try:
                style = _style(block, cue="ahead", cue_room=room)
                title = f"Start earlier: each cue {room} count{'s' * (room > 1)} ahead"
                yield title, change_block(session, index, style=style)
            except ValueError:
                break
    now = session.count_length_of(block)
    least = now * Fraction(misfit.need) / Fraction(max(misfit.room, 0.05))
    for more in (0, 1, 2, 4, 6):
        length = Fraction(ceil(least / _STEP)) * _STEP + more * _STEP
        if now < length <= 2 * now:
            title = f"Longer counts: {decimal_text(length)} s"
            yield from _tried(title, session, index, count_length=length, count_from=None)


def _of_a_phase(session: Session, index: int, block: BreathSet, misfit: Misfit) -> Iterator[tuple[str, Session]]:
    """Counts of its own before the one phase whose words are long; a movement named once, or alone."""
    moment = misfit.placement.moment
    try:
        phase = phase_of(session, index, moment.round, moment.phase)
    except IndexError:
        return
    name = moment.phase_kind.plain if moment.phase_kind else "phase"

    def changed(**fields: object) -> Session:
        try:
            return with_phase(session, index, moment.round, moment.phase, **fields)
        except (ValueError, InputError):
            return session

    first = (phase.cue_room or 0) + 1
    for room in range(first, first + _MOST_ROOM):
        count = f"{room} count{'s' * (room > 1)}"
        yield f"Room before this {name}: {count} of its own", changed(cue_room=room)
    if phase.movement is not None and phase.movement.always:
        once = phase.movement.model_copy(update={"always": False})
        yield f"“{phase.movement.words}” in the first round of each step only", changed(movement=once)
        yield f"“{phase.movement.words}” alone, without the cue", changed(cue=phase.movement.words, movement=None)


def _earlier_call(session: Session, index: int, block: BreathSet, misfit: Misfit) -> Iterator[tuple[str, Session]]:
    phases = list(block.pattern.phases)
    position = misfit.placement.moment.phase - 1
    if position >= len(phases):
        return
    phase = phases[position]
    for number, call in enumerate(phase.calls):
        if call.at != "left":
            continue
        for more in (1, 2, 3):
            calls = list(phase.calls)
            calls[number] = call.model_copy(update={"units": call.units + more})
            new = [*phases[:position], phase.model_copy(update={"calls": tuple(calls)}), *phases[position + 1 :]]
            title = f"Start earlier: called {more} sooner"
            try:
                yield title, change_block(session, index, pattern=Pattern(phases=tuple(new)))
            except ValueError:
                break


def _style(block: BreathSet, **fields: object) -> CountStyle:
    return CountStyle.model_validate({**block.style.model_dump(), **fields})


def _tried(title: str, session: Session, index: int, **fields: object) -> Iterator[tuple[str, Session]]:
    try:
        yield title, change_block(session, index, **fields)
    except ValueError:
        return


def _fields(session: Session, index: int, **fields: object) -> Session:
    try:
        return change_block(session, index, **fields)
    except ValueError:
        return session
