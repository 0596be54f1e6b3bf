"""Unsaved work, kept so that the next start finds it after a crash."""

import contextlib
import json
import os
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from pydantic import Field, ValidationError

from nafas.errors import InputError
from nafas.files import process_lives, read_whole, reason, sweep_parts, this_process, write_whole
from nafas.script.file import MAX_FILE_BYTES, parse_session, session_text
from nafas.script.model.phase import Model
from nafas.script.model.session import Session
from nafas.state.folder import made, state_folder

BROKEN = ".broken"
"""What is put behind the name of a copy that cannot be read."""


@dataclass(frozen=True)
class Recovered:
    """Unsaved work of a run that ended without closing.

    Attributes:
        session: the work.
        path: the file it belongs to, or None if it was never saved.
        folder: where its relative paths start.
        base: the sum of that file when the work was begun on it; None where that is not known.
        when: seconds since the epoch.
        kept: the recovery file.
    """

    session: Session
    path: Path | None
    folder: Path
    base: str | None
    when: float
    kept: Path


_LATEST = 1e10  # seconds: the year 2286; later ones are no times that calendars here have


class _Copy(Model):
    """A recovery file. `pid` is how earlier versions named the process."""

    process: Annotated[str, Field(max_length=80)] = ""
    pid: int = 0
    when: Annotated[float, Field(ge=0, le=_LATEST)]
    path: Annotated[str, Field(max_length=5000)] | None
    folder: Annotated[str, Field(max_length=5000)]
    base: Annotated[str, Field(max_length=64)] | None = None
    session: str


def _folder() -> Path:
    return state_folder() / "recovery"


def keep_for_recovery(session: Session, path: Path | None, folder: Path, name: str, base: str | None = None) -> None:
    """Write unsaved work where the next run finds it. `name` is this window's own; the rest as `Recovered`.

    Raises:
        InputError: it cannot be written there.
    """
    data = {
        "process": this_process(),
        "when": time.time(),
        "path": None if path is None else str(path.absolute()),
        "folder": str(folder.absolute()),
        "base": base,
        "session": session_text(session),
    }
    write_whole(made(_folder()) / f"{name}.json", json.dumps(data).encode())


def forget_recovery(name: str) -> None:
    """The work of window `name` is saved or given up."""
    with contextlib.suppress(OSError):
        (_folder() / f"{name}.json").unlink()


def find_recoverable() -> tuple[list[Recovered], list[str]]:
    """Unsaved work of runs that are no longer alive, newest first, and what a person should know of the rest.

    A copy that cannot be read is set aside under another name and told once; it is never deleted.
    """
    copy_ = _folder()
    sweep_parts(copy_)
    try:
        kept = sorted(Path(entry.path) for entry in os.scandir(copy_) if entry.name.endswith(".json"))
    except FileNotFoundError:
        return [], []
    except OSError as error:
        return [], [f"Unsaved work cannot be kept or found: {copy_}: {reason(error)}. Allow reading and writing there."]
    recoverable, notes = [], []
    for path in kept:
        try:
            recovered = _read(path)
        except (InputError, ValidationError, ValueError, ArithmeticError, RecursionError):
            notes.append(_set_aside(path))
            continue
        if recovered is not None:
            recoverable.append(recovered)
    return sorted(recoverable, key=lambda one: -one.when), notes


def _read(kept: Path) -> Recovered | None:
    """The work in a copy; None while the process that wrote it lives."""
    copy = _Copy.model_validate(json.loads(read_whole(kept, 3 * MAX_FILE_BYTES)))
    if copy.process and process_lives(copy.process):
        return None
    session = parse_session(copy.session, str(kept))
    path = Path(copy.path) if copy.path else None
    return Recovered(session, path, Path(copy.folder), copy.base, copy.when, kept)


def _set_aside(path: Path) -> str:
    aside = path.with_name(path.name + BROKEN)
    try:
        path.replace(aside)
    except OSError as error:
        return f"A copy of unsaved work cannot be read or moved: {path}: {reason(error)}."
    return f"A copy of unsaved work could not be read. It was set aside: {aside}"
