"""What the talk of a recording promises, against what was performed: the checks of a session, on its draft.

Its words are a draft too, so that a broken promise is worth a look, and no more.
"""

from bisect import bisect_right
from fractions import Fraction

from nafas.review.audit.draft import Draft
from nafas.review.audit.judge import AuditFinding
from nafas.review.checks import promised_counts, promised_lengths, promised_rounds
from nafas.review.checks.finding import Severity, Subject
from nafas.timing.compile import compile_session

_CHECKS = (*promised_rounds.CHECKS, *promised_counts.CHECKS, *promised_lengths.CHECKS)


def broken_promises(draft: Draft) -> list[AuditFinding]:
    """Rounds, counts and lengths named in talk that are not what was performed, at their time in the recording."""
    if not draft.talk:
        return []

    def spoken(text: str) -> Fraction:
        said = draft.talk.get(text)
        return Fraction(round((said[0].end - said[0].start) * 100), 100) if said else Fraction(1)

    timeline = compile_session(draft.session, spoken)
    subject = Subject(timeline)
    starts = [float(timed.start) for timed in timeline.blocks]
    findings = []
    for check in _CHECKS:
        for finding in check.run(subject) if check.can_look(subject) else ():
            at = 0.0
            if finding.at is not None and starts:
                best = max(0, bisect_right(starts, float(finding.at)) - 1)
                at = draft.begins[draft.session.blocks[best].id] + float(finding.at) - starts[best]
            findings.append(AuditFinding(check.name, Severity.LOOK, at, f"{finding.text} (The words are as heard.)"))
    return findings
