"""Audit a finished or performed recording: what is heard in it, what is wrong, and a session made of it."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from nafas.errors import UsageError
from nafas.exchange.aac import decoded
from nafas.files import new_name
from nafas.languages import LANGUAGES
from nafas.plain_text import pluralize
from nafas.review.audit.audit import Audit, audit
from nafas.review.audit.infer import Inferred, infer
from nafas.review.audit.page import text
from nafas.review.audit.vocabulary import MOST_COUNTED, USUALLY_COUNTED, of_language
from nafas.review.checks.finding import Severity
from nafas.script.file import save_session
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.progress import Note, quiet
from nafas.tasks.records import record_audit
from nafas.timing.clock import clock
from nafas.timing.timeline import Timeline

STAGES = {"hearing": (0.0, 0.55), "measuring": (0.55, 0.6), "listening to talk": (0.6, 1.0)}


@dataclass(frozen=True)
class AuditRequest:
    """What is to be audited.

    Attributes:
        recording: WAV, FLAC, AIFF, MP3, Ogg, Opus, M4A or MP4.
        timeline: of the session it belongs to, or None.
        language: of its cues and numbers, a code; None: the session's, or English.
        counts: the highest number that is listened for; None: the usual one.
        talk: whether talk is listened to as well.
    """

    recording: Path
    timeline: Timeline | None = None
    language: str | None = None
    counts: int | None = None
    talk: bool = True

    def check(self) -> None:
        """Raises InputError: a number or a language that is not listened for."""
        if self.counts is not None and not 1 <= self.counts <= MOST_COUNTED:
            raise UsageError(
                f"--counts {self.counts}", "is not a number that can be recognised", f"use 1 to {MOST_COUNTED}"
            )
        if self.language not in (None, *LANGUAGES):
            offered = f"use one of {' '.join(LANGUAGES)}"
            raise UsageError(f"--language {self.language}", "is not a language that Nafas knows", offered)


@dataclass(frozen=True)
class AuditResult:
    """What was heard. warnings: why it is not in the ledger, if it is not."""

    audit: Audit
    warnings: tuple[str, ...] = ()

    @property
    def exit_code(self) -> ExitCode:
        grave = any(finding.severity is not Severity.LOOK for finding in self.audit.findings)
        return ExitCode.FOUND if grave else ExitCode.DONE

    def lines(self) -> list[str]:
        return text(self.audit).split("\n")

    def figures(self) -> dict[str, Any]:
        return self.audit.figures()


def run(request: AuditRequest, note: Note = quiet) -> AuditResult:
    """Audit a recording and put that into the ledger.

    Raises:
        InputError: it cannot be read, is too long, or something is asked for that is not listened for.
        Cancelled: when `note` does.
    """
    request.check()
    timeline, words = request.timeline, None
    if request.language is not None or request.counts is not None:
        words = of_language(request.language or "en", request.counts or USUALLY_COUNTED)
    with decoded(request.recording, lambda done: note("hearing", 0.0)) as sound:
        heard = audit(sound or request.recording, timeline, note, words, request.talk)
    heard = replace(heard, path=request.recording)
    return AuditResult(heard, record_audit(heard, None if timeline is None else timeline.session))


@dataclass(frozen=True)
class MadeSession:
    """A session made of a recording, and its file."""

    path: Path
    made: Inferred

    def lines(self) -> list[str]:
        """What it holds, how far its words were moved, and what is to be known of it."""
        made = self.made
        blocks, takes = pluralize(len(made.session.blocks), "block"), pluralize(made.takes, "take")
        far = sorted(made.moved, key=lambda each: -abs(each.by))
        mean = sum(abs(each.by) for each in made.moved) / max(1, len(made.moved))
        return [
            f"{self.path}: {blocks}, {takes} in the performer's own voice",
            f"on the grid each word is moved by {1000 * mean:.0f} ms on average; most of all:",
            *(f"  {clock(each.at, tenths=True)}  “{each.text}” by {each.by:+.3f} s" for each in far[:5]),
            *made.notes,
        ]


def make_session(heard: Audit, path: Path, note: Note = quiet) -> MadeSession:
    """Make an exact session of a recording, with its words as takes next to it.

    Raises:
        InputError: the name is taken or no session's, or no set was heard.
        Cancelled: when `note` does.
    """
    new_name(path, (".nafas",))
    with decoded(heard.path) as sound:
        made = infer(replace(heard, path=sound or heard.path), path.parent, note)
    save_session(made.session, path)
    return MadeSession(path, made)


def savers(heard: Audit) -> dict[str, Callable[[Path], None]]:
    """What an audit can be written as, by the ending of the file."""
    import json

    from nafas.drawing.application import ensure_application
    from nafas.files import write_whole

    def page(path: Path) -> None:
        ensure_application()
        from nafas.drawing.paper.audit_page import print_audit

        print_audit(heard, path)

    return {
        ".pdf": page,
        ".json": lambda path: write_whole(path, json.dumps(heard.figures(), indent=1, ensure_ascii=False).encode()),
        ".txt": lambda path: write_whole(path, heard.labels().encode()),
    }
