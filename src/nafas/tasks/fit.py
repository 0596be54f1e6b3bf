"""Give a session a length: the ways there, or one of them written as a new session."""

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.script.edits.session_edits import rebase_assets
from nafas.script.file import save_session
from nafas.script.model.session import Session
from nafas.state.permissions import permit_readable
from nafas.suggest.length_fit import LengthFit, fit
from nafas.tasks.exit_codes import ExitCode
from nafas.voice import session_narrator


@dataclass(frozen=True)
class FitRequest:
    """What is to be brought to which length.

    Attributes:
        session: it.
        folder: where its relative paths start.
        target: exact seconds, from 1 s to 4 h.
        take: the number of the way to take, from 1; None lists them.
        output: the session that is written, where a way is taken.
    """

    session: Session
    folder: Path
    target: Fraction
    take: int | None = None
    output: Path | None = None


@dataclass(frozen=True)
class FitResult:
    """The ways, and the one that was taken, if any."""

    ways: LengthFit
    request: FitRequest
    exit_code: ExitCode = ExitCode.DONE
    warnings: tuple[str, ...] = ()

    def lines(self) -> list[str]:
        if self.request.take is not None:
            way = self.ways.options[self.request.take - 1]
            return [f"{self.request.output}: {way.title}. {way.consequence}"]
        lines = [self.ways.summary]
        for number, way in enumerate(self.ways.options, 1):
            lines += [f"{number:3}  {way.title}", f"     {way.consequence}"]
        return lines

    def figures(self) -> dict[str, Any]:
        ways = [
            {"kind": o.kind, "title": o.title, "consequence": o.consequence, "exact": o.exact, "length": str(o.length)}
            for o in self.ways.options
        ]
        found = self.ways
        return {"now": str(found.now), "target": str(found.target), "summary": found.summary, "ways": ways}


def run(request: FitRequest) -> FitResult:
    """List the ways, or write the session that the chosen one makes. Raises InputError: the length is out of bounds,
    there is no such way, or the file cannot be written."""
    session, folder = request.session, request.folder
    ways = fit(session, session_narrator(session, folder).spoken_length, request.target)
    if request.take is not None:
        if not 1 <= request.take <= len(ways.options):
            raise InputError(f"--take {request.take}", f"there are {len(ways.options)} ways", "choose one of them")
        if request.output is None:
            raise InputError("-o", "is missing", "name the session that is to be written")
        way = ways.options[request.take - 1]
        permit_readable(way.session, folder)
        save_session(rebase_assets(way.session, folder, request.output.parent), request.output)
    return FitResult(ways, request)
