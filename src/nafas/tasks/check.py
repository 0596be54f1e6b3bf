"""Check a session: what its words promise, what is not safe, what a listener stumbles on, how it sounds."""

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from nafas.plain_text import pluralize
from nafas.review.checks.finding import Finding, Subject
from nafas.review.checks.register import Review, review, subject_of
from nafas.review.checks.voice import line_fixes
from nafas.script.model.session import Session
from nafas.sound.mix.mix import cast_with_sounds
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.progress import Note, quiet
from nafas.timing.clock import clock
from nafas.voice.engines.narrator import session_narrator

_MOST_FIXED = 12
"""Lines whose fixes are looked for: each is tried on the whole session."""


@dataclass(frozen=True)
class CheckRequest:
    """What is to be checked.

    Attributes:
        session: it.
        folder: where its relative paths start.
        listen: with the checks that measure its sound.
    """

    session: Session
    folder: Path
    listen: bool = True


@dataclass(frozen=True)
class CheckResult:
    """The findings, and what they are about."""

    review: Review
    subject: Subject
    warnings: tuple[str, ...] = ()

    @property
    def exit_code(self) -> ExitCode:
        return ExitCode.DONE if self.review.passes else ExitCode.FOUND

    def lines(self) -> list[str]:
        review_, lines = self.review, list[str]()
        for finding in review_.open:
            at = "" if finding.at is None else f" {clock(finding.at)}"
            lines.append(f"{finding.severity.value.upper()}{at}  {finding.where or 'the whole session'}")
            lines.append(f"  {finding.text}")
            lines += [f"  · {remedy.title}" for remedy in finding.remedies]
        aside = [finding for finding in review_.findings if finding.reason]
        lines += [f"ignored: {finding.text} ({finding.reason})" for finding in aside]
        if not review_.open:
            lines.append("Nothing found.")
        lines.append(f"Looked at {pluralize(len(review_.looked), 'thing')}:")
        groups: dict[str, list[str]] = {}
        for check in review_.looked:
            groups.setdefault(check.group, []).append(check.looks)
        lines += [f"  {group}: {'; '.join(looks)}" for group, looks in groups.items()]
        if review_.waiting:
            lines.append(f"Not checked: {'; '.join(check.looks for check in review_.waiting)}")
        length = clock(self.subject.timeline.length)
        return [*lines, f"{length}. These checks help; they do not replace licensed practice."]

    def figures(self) -> dict[str, Any]:
        return {
            "passes": self.review.passes,
            "findings": [self._figures(finding) for finding in self.review.findings],
            "looked_at": {check.name: check.looks for check in self.review.looked},
            "not_looked_at": {check.name: check.looks for check in self.review.waiting},
        }

    def _figures(self, finding: Finding) -> dict[str, object]:
        return {
            "check": finding.check,
            "severity": finding.severity.value,
            "where": finding.where,
            "block": None if finding.block is None else self.subject.session.blocks[finding.block].id,
            "at": None if finding.at is None else round(float(finding.at), 3),
            "text": finding.text,
            "key": finding.key,
            "set_aside": finding.reason or None,
            "remedies": [{"title": remedy.title, "lines": remedy.lines} for remedy in finding.remedies],
        }


def run(request: CheckRequest, note: Note = quiet) -> CheckResult:
    """Check a session. Raises InputError: its takes or sounds cannot be read; Cancelled: when `note` does."""
    cast = cast_with_sounds(request.session, request.folder)
    subject = subject_of(cast, request.folder, request.listen, lambda done: note("listening", done))
    note("listening", 1.0)
    return CheckResult(_with_line_fixes(review(subject), subject, request), subject)


def _with_line_fixes(found: Review, subject: Subject, request: CheckRequest) -> Review:
    """The review with ways to make lines fit at the first findings about lines that do not."""
    lines = [finding for finding in found.open if finding.check == "misfit"][:_MOST_FIXED]
    if not lines:
        return found
    narrator = session_narrator(request.session, request.folder)
    fixed = {each.key: replace(each, remedies=line_fixes(subject, each, narrator)) for each in lines}
    return replace(found, findings=tuple(fixed.get(finding.key, finding) for finding in found.findings))
