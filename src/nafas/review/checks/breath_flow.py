"""What a listener would stumble on in the breath: directions, sides, first counts, changes, the voice coming back."""

from collections.abc import Iterator
from fractions import Fraction
from functools import partial
from itertools import pairwise

from nafas.languages import READ
from nafas.review.checks.finding import Check, Finding, Severity, Subject, Work
from nafas.review.checks.patterns import names
from nafas.script.advice import flags
from nafas.script.edits.session_edits import change_block
from nafas.script.model.blocks import BreathSet, Strokes, Talk
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import PhaseKind, Side
from nafas.suggest.finding_remedies import tried, with_rest
from nafas.timing.clock import clock
from nafas.timing.timeline import EventKind

_ROOM, _SETTLES = Fraction(3, 2), Fraction(3)
"""Seconds between the last word of talk and a first count without a preparing breath: at least, and as wanted (common
practice, no source)."""
_CHANGE, _BETWEEN = Fraction(5), Fraction(15)
"""Seconds of one's own breath between two sets: at least, and as wanted (common practice, no source)."""
_OWN = {
    PhaseKind.INHALE: ("into_cue", "a breath in"),
    PhaseKind.EXHALE: ("out_cue", "a breath out"),
    PhaseKind.HOLD_FULL: ("hold_cue", "a hold"),
    PhaseKind.HOLD_EMPTY: ("hold_cue", "a hold"),
}
_CUES = ("into_cue", "out_cue", "hold_cue")
_WORDS = (EventKind.COUNT, EventKind.CUE)


def _directions(subject: Subject) -> Iterator[Finding]:
    """Cues that name another direction than the breath goes."""
    seen: set[tuple[str, str, str]] = set()
    for moment in subject.timeline.spoken:
        language = subject.language_of(subject.places.get(moment.block))
        if moment.phase_kind is None or moment.kind not in _WORDS or language not in READ:
            continue
        right, breath = _OWN[moment.phase_kind]
        if (moment.block, moment.text, right) in seen:
            continue
        seen.add((moment.block, moment.text, right))
        named = [key for key in _CUES if names(language, "listener", key, moment.text)]
        if named and right not in named:
            where = subject.timeline.address(moment)
            text = f"“{moment.text}” is said on {breath} ({where})."
            index = subject.places[moment.block]
            detail = moment.text.lower()
            yield subject.finding("direction", Severity.MUST, text, detail, index, moment.at, where)


def _sides(subject: Subject) -> Iterator[Finding]:
    for flag in flags(subject.session):
        if flag.about != "landing":
            text = f"{subject.named(flag.block)} {flag.text}."
            yield subject.finding("sides", Severity.SHOULD, text, flag.about, flag.block)
    for index in subject.work:
        times: dict[tuple[PhaseKind, Side], Fraction] = {}
        for one in subject.timed(index).rounds:
            for phase in one.phases:
                if phase.side is not None:
                    key = phase.kind, phase.side
                    times[key] = times.get(key, Fraction(0)) + phase.counts * one.count_length
        for kind in (PhaseKind.INHALE, PhaseKind.EXHALE):
            left, right = times.get((kind, Side.LEFT)), times.get((kind, Side.RIGHT))
            if left is not None and right is not None and left != right:
                text = (
                    f"{subject.named(index)}: the left side breathes {'in' if kind is PhaseKind.INHALE else 'out'} for "
                    f"{clock(left)}, the right for {clock(right)}; sides should come out even."
                )
                yield subject.finding("sides", Severity.SHOULD, text, kind.value, index)


def _last_word(subject: Subject, number: int) -> Fraction | None:
    """When the last word of a block is over."""
    timed = subject.timed(number)
    if subject.cast is not None:
        placed = subject.cast.of_block(timed.block.id)
        return max((Fraction(p.said, subject.cast.rate) for p in placed), default=None)
    talk = (event for event in timed.body.events if event.kind is EventKind.TALK)
    return max((timed.at(event) + Fraction(event.length, timed.body.per_second) for event in talk), default=None)


def _first_count(subject: Subject) -> Iterator[Finding]:
    session = subject.session
    for index in subject.work:
        block = session.blocks[index]
        if index == 0 or not isinstance(session.blocks[index - 1], Talk):
            continue
        if isinstance(block, BreathSet) and block.prepare is not None:
            continue
        if isinstance(block, Strokes) and (block.count_in or block.demonstration):
            continue
        over = _last_word(subject, index - 1)
        if over is None or (room := subject.timed(index).start - over) >= _ROOM:
            continue
        text = (
            f"{subject.named(index)} begins {max(0.0, float(room)):.1f} s after the last word, with no preparing "
            "breath: a listener is still breathing the other way."
        )
        prepared = partial(change_block, session, index, prepare=Pattern.model_validate("3-4"))
        pause = partial(change_block, session, index - 1, pause_after=_SETTLES)
        offers = tried(("A preparing breath before it", prepared, 0), ("3 s of pause before it", pause, 0))
        yield subject.finding("first-count", Severity.SHOULD, text, "", index, remedies=offers)


def _rushed(subject: Subject) -> Iterator[Finding]:
    blocks = subject.session.blocks
    for index, (block, after) in enumerate(pairwise(blocks)):
        if not isinstance(block, Work) or not isinstance(after, Work):
            continue
        recovery = block.recovery if isinstance(block, Strokes) else Fraction(0)
        if recovery < _CHANGE and not (isinstance(after, BreathSet) and after.prepare is not None):
            name = subject.named(index + 1)
            text = f"{name} begins with no breath of one's own after {subject.named(index)}: the change is rushed."
            rest = partial(with_rest, subject.session, index + 1, _BETWEEN, "Breathe naturally.")
            offers = tried(("15 s of natural breath between", rest, 1))
            yield subject.finding("rushed", Severity.SHOULD, text, "", index + 1, remedies=offers)


def _voice_back(subject: Subject) -> Iterator[Finding]:
    """Counts and cues in rounds in which the voice is to be away."""
    for index in subject.work:
        timed = subject.timed(index)
        quiet = {one.number for one in timed.rounds if not one.level.speaks}
        for event in timed.body.events:
            if event.round in quiet and event.text and event.kind in _WORDS:
                text = (
                    f"The voice says “{event.text}” in round {event.round} of {subject.named(index)}, where it is away."
                )
                yield subject.finding("voice-back", Severity.SHOULD, text, "", index, timed.at(event))
                break


def _calls(subject: Subject) -> Iterator[Finding]:
    """Calls in a hold that fall on the moment of another one, which alone is said."""
    for index in subject.work:
        timed = subject.timed(index)
        for one in timed.rounds:
            lost = next((lost for phase in one.phases if (lost := phase.lost_calls)), None)
            if lost is not None and one.level.speaks:
                said, unsaid = (call.written for call in lost)
                text = (
                    f"In round {one.number} of {subject.named(index)} two calls fall on one moment: “{said}” is said, "
                    f"“{unsaid}” is not. Call one of them at another time."
                )
                yield subject.finding("calls", Severity.LOOK, text, "", index)
                break


CHECKS = (
    Check("direction", "Listener", "words of direction on the wrong phase", _directions),
    Check("sides", "Listener", "sides balanced, begun and ended where they should", _sides),
    Check("first-count", "Listener", "the first count after talk, and the breath before it", _first_count),
    Check("rushed", "Listener", "changes between sets", _rushed),
    Check("calls", "Listener", "calls in a hold that fall on one moment", _calls),
    Check("voice-back", "Listener", "whether the voice is away and back on whole rounds", _voice_back),
)
