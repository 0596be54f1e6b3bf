"""The command `check`: what the review finds in a session."""

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import allow_outside, on_all_cores, opened, progress_line

if TYPE_CHECKING:
    from nafas.review.checks.finding import Finding, Subject
    from nafas.review.checks.register import Review

FOUND = 6
"""Exit code: the review found something that must or should be changed."""


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `check`."""
    check = commands.add_parser("check", help="what the words promise, what is safe, what a listener would stumble on")
    check.add_argument("session", type=Path)
    check.add_argument("--no-sound", action="store_true", help="leave out what has to be listened to")
    check.add_argument("--json", action="store_true")
    allow_outside(check)
    check.set_defaults(run=_check)


def _check(options: argparse.Namespace) -> int:
    from nafas.review.checks.register import review, subject_of
    from nafas.voice.casting import cast_session

    session = opened(options.session, options)
    folder = options.session.parent
    show = progress_line()
    with on_all_cores():
        cast = cast_session(session, folder)
        subject = subject_of(cast, folder, not options.no_sound, lambda done: show("listening", done))
    show("listening", 1.0)
    found = review(subject)
    print(json.dumps(_figures(found, subject), indent=1, ensure_ascii=False) if options.json else _page(found, subject))
    return 0 if found.passes else FOUND


def _page(found: "Review", subject: "Subject") -> str:
    from nafas.plain_text import many
    from nafas.timing.clock import clock

    lines = []
    for finding in found.open:
        at = "" if finding.at is None else f" {clock(finding.at)}"
        lines.append(f"{finding.severity.value.upper()}{at}  {finding.where or 'the whole session'}")
        lines.append(f"  {finding.text}")
        lines += [f"  · {remedy.title}" for remedy in finding.remedies]
    aside = [finding for finding in found.findings if finding.reason]
    lines += [f"set aside: {finding.text} ({finding.reason})" for finding in aside]
    if not found.open:
        lines.append("Nothing found.")
    lines.append(f"Looked at {many(len(found.looked), 'thing')}:")
    groups: dict[str, list[str]] = {}
    for check in found.looked:
        groups.setdefault(check.group, []).append(check.looks)
    lines += [f"  {group}: {'; '.join(looks)}" for group, looks in groups.items()]
    if found.waiting:
        lines.append(f"Not looked at: {'; '.join(check.looks for check in found.waiting)}")
    lines.append(f"{clock(subject.timeline.length)}. These checks help; they do not replace licensed practice.")
    return "\n".join(lines)


def _figures(found: "Review", subject: "Subject") -> dict[str, object]:
    def row(finding: "Finding") -> dict[str, object]:
        block = None if finding.block is None else subject.session.blocks[finding.block].id
        return {
            "check": finding.check,
            "severity": finding.severity.value,
            "where": finding.where,
            "block": block,
            "at": None if finding.at is None else round(float(finding.at), 3),
            "text": finding.text,
            "key": finding.key,
            "set_aside": finding.reason or None,
            "remedies": [{"title": r.title, "lines": r.lines} for r in finding.remedies],
        }

    return {
        "passes": found.passes,
        "findings": [row(finding) for finding in found.findings],
        "looked_at": {check.name: check.looks for check in found.looked},
        "not_looked_at": {check.name: check.looks for check in found.waiting},
    }
