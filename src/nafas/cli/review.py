"""The commands `check` and `audit`: what the review finds in a session, and in a recording."""

import argparse
import sys
from pathlib import Path

from nafas.cli.shared import allow_force, allow_outside, compiled, on_all_cores, opened, output, progress_line, show


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `check` and `audit`."""
    check = commands.add_parser("check", help="check promises, safety and what disturbs a listener")
    check.add_argument("session", type=Path)
    check.add_argument("--no-sound", action="store_true", help="skip checks that need the sound")
    check.add_argument("--json", action="store_true")
    allow_outside(check)
    check.set_defaults(run=_check)
    audit = commands.add_parser("audit", help="audit a finished or performed recording")
    audit.add_argument("recording", type=Path)
    audit.add_argument("--for", dest="session", type=Path, metavar="FILE.nafas", help="the session it belongs to")
    audit.add_argument("--labels", type=Path, metavar="FILE", help="write the recognised words as a label track")
    made = "make a session of it, with its words as takes"
    audit.add_argument("--session", dest="made", type=Path, metavar="FILE.nafas", help=made)
    audit.add_argument("--language", metavar="CODE", help="language of its cues and numbers, without a session: en")
    audit.add_argument("--counts", type=int, metavar="N", help="the highest number counted: 12")
    audit.add_argument("--no-talk", dest="talk", action="store_false", help="skip talk; takes half the time")
    audit.add_argument("--pdf", type=Path, metavar="FILE", help="write it as a page")
    audit.add_argument("--json", action="store_true")
    allow_outside(audit)
    allow_force(audit)
    audit.set_defaults(run=_audit)


def _check(options: argparse.Namespace) -> int:
    from nafas.tasks.check import CheckRequest, run

    session = opened(options.session, options)
    with on_all_cores():
        result = run(CheckRequest(session, options.session.parent, not options.no_sound), progress_line())
    return show(result, result.figures if options.json else None)


def _audit(options: argparse.Namespace) -> int:
    from nafas.tasks.audit import AuditRequest, make_session, run, savers

    # Before an hour of listening, not after.
    for path, *endings in ((options.made, ".nafas"), (options.pdf, ".pdf"), (options.labels, ".txt", ".tsv")):
        if path is not None:
            output(path, options, *endings)
    timeline = compiled(options.session, options)[1] if options.session is not None else None
    request = AuditRequest(options.recording, timeline, options.language, options.counts, options.talk)
    with on_all_cores():
        result = run(request, progress_line())
    written = savers(result.audit)
    if options.pdf is not None:
        written[".pdf"](options.pdf)
    if options.labels is not None:
        written[".txt"](options.labels)
    code = show(result, result.figures if options.json else None)
    if options.made is not None:
        lines = make_session(result.audit, options.made, progress_line()).lines()
        print("\n".join(lines), file=sys.stderr if options.json else sys.stdout)
    return code
