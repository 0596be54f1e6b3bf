"""The commands `check` and `audit`: what the review finds in a session, and in a recording."""

import argparse
import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import allow_outside, on_all_cores, opened, progress_line
from nafas.errors import InputError

if TYPE_CHECKING:
    from nafas.review.audit.audit import Audit
    from nafas.review.checks.finding import Finding, Subject
    from nafas.review.checks.register import Review

FOUND = 6
"""Exit code: the review found something that must or should be changed."""


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `check` and `audit`."""
    check = commands.add_parser("check", help="what the words promise, what is safe, what a listener would stumble on")
    check.add_argument("session", type=Path)
    check.add_argument("--no-sound", action="store_true", help="leave out what has to be listened to")
    check.add_argument("--json", action="store_true")
    allow_outside(check)
    check.set_defaults(run=_check)
    audit = commands.add_parser("audit", help="put a finished or performed recording to the test")
    audit.add_argument("recording", type=Path)
    audit.add_argument("--for", dest="session", type=Path, metavar="FILE.nafas", help="the session it is of")
    audit.add_argument("--labels", type=Path, metavar="FILE", help="write what was heard as a label track")
    made = "make a session of it, with its words as takes"
    audit.add_argument("--session", dest="made", type=Path, metavar="FILE.nafas", help=made)
    audit.add_argument("--language", metavar="CODE", help="of its cues and numbers, where no session says it: en")
    audit.add_argument("--counts", type=int, metavar="N", help="the highest number counted: 12")
    audit.add_argument("--no-talk", dest="talk", action="store_false", help="leave out talk, which takes half the time")
    audit.add_argument("--pdf", type=Path, metavar="FILE", help="write it as a page")
    audit.add_argument("--json", action="store_true")
    allow_outside(audit)
    audit.set_defaults(run=_audit)


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


def _audit(options: argparse.Namespace) -> int:
    from nafas.review.audit.audit import audit
    from nafas.review.audit.page import text
    from nafas.review.audit.vocabulary import MOST_COUNTED, USUALLY_COUNTED, of_language
    from nafas.review.checks.finding import Severity
    from nafas.script.words.languages import LANGUAGES

    counts = USUALLY_COUNTED if options.counts is None else options.counts
    if not 1 <= counts <= MOST_COUNTED:
        raise InputError(f"--counts {counts}", "is no number that is listened for", f"use 1 to {MOST_COUNTED}")
    timeline = None
    if options.language not in (None, *LANGUAGES):
        raise InputError(
            f"--language {options.language}", "is no language of Nafas", f"use one of {' '.join(LANGUAGES)}"
        )
    if options.session is not None:
        from nafas.cli.shared import compiled

        _, timeline = compiled(options.session, options)
    with on_all_cores():
        asked = options.language is not None or options.counts is not None
        words = of_language(options.language or "en", counts) if asked else None
        found = audit(options.recording, timeline, progress_line(), words, options.talk)
    from nafas.exchange.records import record_audit

    told = record_audit(found, None if timeline is None else timeline.session)
    if told:
        print(f"nafas: {told}", file=sys.stderr)
    if options.pdf is not None:
        _print(found, options.pdf)
    if options.labels is not None:
        from nafas.files import write_whole

        write_whole(options.labels, found.labels().encode())
    print(json.dumps(found.figures(), indent=1, ensure_ascii=False) if options.json else text(found))
    if options.made is not None:
        print(_made_session(found, options.made), file=sys.stderr if options.json else sys.stdout)
    grave = any(each.severity is not Severity.LOOK for each in found.findings)
    return FOUND if grave else 0


def _print(found: "Audit", path: Path) -> None:
    """Write the page; no screen is needed."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from nafas.desk.application import application
    from nafas.desk.paper.audit_page import print_audit

    application()
    print_audit(found, path)


def _made_session(found: "Audit", path: Path) -> str:
    """Write the session made of a recording, and say what was moved."""
    from nafas.plain_text import many
    from nafas.review.audit.infer import infer
    from nafas.script import save_session
    from nafas.timing.clock import clock

    if path.suffix != ".nafas" or path.exists():
        problem = "is there already" if path.exists() else "is no name of a session"
        raise InputError(str(path), problem, "choose a new name that ends in .nafas")
    made = infer(found, path.parent, progress_line())
    save_session(made.session, path)
    blocks, takes = many(len(made.session.blocks), "block"), many(made.takes, "take")
    lines = [f"{path}: {blocks}, {takes} in the performer's own voice"]
    far = sorted(made.moved, key=lambda each: -abs(each.by))
    mean = sum(abs(each.by) for each in made.moved) / max(1, len(made.moved))
    lines.append(f"on the grid each word is moved by {1000 * mean:.0f} ms on average; most of all:")
    lines += [f"  {clock(each.at, tenths=True)}  “{each.text}” by {each.by:+.3f} s" for each in far[:5]]
    return "\n".join([*lines, *made.notes])
