"""All checks, and a session put to them."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from nafas.review.checks import (
    breath_flow,
    cautions,
    listener,
    promised_counts,
    promised_lengths,
    promised_manner,
    promised_rounds,
    safety,
    sound,
    voice,
)
from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.review.checks.measures import measure_mix
from nafas.sound.meters.measure import Progress
from nafas.sound.mix.mix import build_mix
from nafas.voice.casting import Cast

_FILES = (
    promised_rounds, promised_counts, promised_lengths, promised_manner, cautions, safety, listener, breath_flow, voice,
    sound,
)  # fmt: skip
CHECKS: tuple[Check, ...] = tuple(check for file in _FILES for check in file.CHECKS)
GROUPS = tuple(dict.fromkeys(check.group for check in CHECKS))
_ORDER = list(Severity)


@dataclass(frozen=True, eq=False)
class Review:
    """What was found.

    Attributes:
        findings: the gravest first, then in order of time; those set aside among them.
        looked: the checks that were made.
        waiting: those that could not be made yet, because what they need is not known.
    """

    findings: tuple[Finding, ...]
    looked: tuple[Check, ...]
    waiting: tuple[Check, ...]

    @property
    def open(self) -> tuple[Finding, ...]:
        """Findings that were not set aside."""
        return tuple(finding for finding in self.findings if not finding.reason)

    def of(self, severity: Severity) -> tuple[Finding, ...]:
        return tuple(finding for finding in self.open if finding.severity is severity)

    @property
    def passes(self) -> bool:
        """Nothing must or should be changed."""
        return not self.of(Severity.MUST) and not self.of(Severity.SHOULD)


def review(subject: Subject, checks: Sequence[Check] = CHECKS) -> Review:
    """Put a session to the checks that can be made of what is known of it."""
    looked = tuple(check for check in checks if check.can_look(subject))
    findings = [finding for check in looked for finding in check.run(subject)]
    findings.sort(key=lambda each: (bool(each.reason), _ORDER.index(each.severity), each.at is None, each.at or 0))
    return Review(tuple(findings), looked, tuple(check for check in checks if check not in looked))


def subject_of(cast: Cast, folder: Path, listen: bool = True, progress: Progress = lambda done: None) -> Subject:
    """A cast session with its mix, and what is measured of it where `listen`. Raises Cancelled when `progress` does."""
    mix = build_mix(cast, folder, strict=False)
    measures = measure_mix(mix, progress) if listen and mix.length else None
    return Subject(cast.timeline, cast, mix, measures)
