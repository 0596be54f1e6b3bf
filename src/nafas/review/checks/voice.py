"""The voice: lines that do not fit, lines without a take, words shortened."""

from collections.abc import Iterator

from nafas.plain_text import pluralize
from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.suggest.finding_remedies import FindingRemedy
from nafas.suggest.line_remedies import remedies
from nafas.voice.engines.narrator import Narrator
from nafas.voice.line_status import worst_misfits
from nafas.voice.placement import Placement


def _at(subject: Subject, placement: Placement) -> tuple[int | None, str]:
    moment = placement.moment
    return subject.places.get(moment.block), subject.timeline.address(moment)


def _short(line: str) -> str:
    return line[:50].rstrip(". ")


def _misfits(subject: Subject) -> Iterator[Finding]:
    assert subject.cast is not None
    for misfit in worst_misfits(subject.cast):
        moment = misfit.placement.moment
        index, detail = subject.places.get(moment.block), moment.text.lower()[:80]
        text = str(misfit).removeprefix(f"{misfit.address}: ")  # the place is named with the finding
        yield subject.finding("misfit", Severity.MUST, f"{text}.", detail, index, moment.at, misfit.address)


def line_fixes(subject: Subject, finding: Finding, narrator: Narrator) -> tuple[FindingRemedy, ...]:
    """What makes a line fit that a finding is about, each tried on the whole session (some 30 ms for each); () for
    findings of other checks, and where only another take would help."""
    if subject.cast is None or finding.check != "misfit":
        return ()
    for misfit in worst_misfits(subject.cast):
        moment = misfit.placement.moment
        if subject.places.get(moment.block) == finding.block and finding.key.endswith(moment.text.lower()[:80]):
            ways = remedies(subject.cast, misfit, narrator)
            return tuple(FindingRemedy(way.title, way.session) for way in ways if way.session is not None)
    return ()


def _takes(subject: Subject) -> Iterator[Finding]:
    """Lines without a take, where a person's voice is used or the session is to be published."""
    cast, session = subject.cast, subject.session
    assert cast is not None
    first = {placement.moment.text: placement for placement in reversed(cast.placements)}
    lines, waiting = cast.stand_in_lines, cast.waiting_lines
    if lines and (session.publishing or session.take_books):
        severity = Severity.SHOULD if session.publishing else Severity.LOOK
        reads = "is read" if len(lines) == 1 else "are read"
        others = " next to a person's own voice" if session.take_books else ""
        marked = ", and the session is marked for publishing" if session.publishing else ""
        text = f"{pluralize(len(lines), 'line')} {reads} by {cast.narrator}{others}{marked}: “{_short(lines[0])}”."
        index, where = _at(subject, first[lines[0]])
        yield subject.finding("stand-ins", severity, text, "read", index, first[lines[0]].moment.at, where)
    if waiting:
        text = (
            f"{pluralize(len(waiting), 'line is', 'lines are')} silent without a take, such as “{_short(waiting[0])}”."
        )
        index, where = _at(subject, first[waiting[0]])
        yield subject.finding("stand-ins", Severity.MUST, text, "silent", index, first[waiting[0]].moment.at, where)
    for problem in cast.voice_problems:
        text = f"{problem[:1].upper()}{problem[1:]}."
        yield subject.finding("stand-ins", Severity.SHOULD, text, problem[:60], where="the voice")


def _shortened(subject: Subject) -> Iterator[Finding]:
    assert subject.cast is not None
    short = subject.cast.shortened
    if short:
        one = min(short, key=lambda placement: placement.clip.part)
        text = (
            f"{pluralize(len(short), 'word is', 'words are')} shortened to fit, by up to {1 - one.clip.part:.0%} "
            f"(“{one.moment.text[:40]}”): listen whether it sounds hurried."
        )
        index, where = _at(subject, one)
        yield subject.finding("shortened", Severity.LOOK, text, "", index, one.moment.at, where)


CHECKS = (
    Check("misfit", "Sound", "lines longer than their place", _misfits, needs="cast"),
    Check("stand-ins", "Sound", "lines without a take, and who reads them", _takes, needs="cast"),
    Check("shortened", "Sound", "words shortened to fit", _shortened, needs="cast"),
)
