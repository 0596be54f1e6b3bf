"""What is kept for the producer between runs: unsaved work for recovery after a crash, and recent files.

All of it lives in one state folder; `NAFAS_STATE` overrides the platform's place. Losing it loses no session file.
"""

import contextlib
import json
import os
import time
from dataclasses import dataclass
from pathlib import Path

from nafas.errors import InputError
from nafas.files import write_whole
from nafas.script.file import parse_session, session_text
from nafas.script.session import Session

_MOST_RECENT = 12


def state_folder() -> Path:
    """Where state is kept."""
    chosen = os.environ.get("NAFAS_STATE")
    if chosen:
        return Path(chosen)
    import platformdirs

    return platformdirs.user_state_path("nafas")


@dataclass(frozen=True)
class Recovered:
    """Unsaved work of a run that ended without closing.

    Attributes:
        session: the work.
        path: the file it belongs to, or None if it was never saved.
        folder: where its relative paths start.
        when: seconds since the epoch.
        kept: the recovery file.
    """

    session: Session
    path: Path | None
    folder: Path
    when: float
    kept: Path


def keep_for_recovery(session: Session, path: Path | None, folder: Path, name: str) -> None:
    """Write unsaved work where the next run finds it. `name` is this window's own. Raises InputError."""
    place = state_folder() / "recovery"
    try:
        place.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(str(place), f"cannot be made ({error.strerror})", "allow writing there") from None
    data = {
        "pid": os.getpid(),
        "when": time.time(),
        "path": None if path is None else str(path.absolute()),
        "folder": str(folder.absolute()),
        "session": session_text(session),
    }
    write_whole(place / f"{name}.json", json.dumps(data).encode())


def forget_recovery(name: str) -> None:
    """The work of window `name` is saved or given up."""
    with contextlib.suppress(OSError):
        (state_folder() / "recovery" / f"{name}.json").unlink()


def find_recoverable() -> list[Recovered]:
    """Unsaved work of runs that are no longer alive, newest first. What cannot be read is left alone."""
    found = []
    for kept in (state_folder() / "recovery").glob("*.json"):
        with contextlib.suppress(OSError, ValueError, KeyError, TypeError, InputError):
            data = json.loads(kept.read_text(encoding="utf-8"))
            if _alive(int(data["pid"])):
                continue
            session = parse_session(str(data["session"]), str(kept))
            path = Path(data["path"]) if data["path"] else None
            found.append(Recovered(session, path, Path(data["folder"]), float(data["when"]), kept))
    return sorted(found, key=lambda one: -one.when)


def _alive(pid: int) -> bool:
    if pid == os.getpid():
        return True
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def recent_files() -> list[Path]:
    """Recently used session files that still exist, newest first."""
    with contextlib.suppress(OSError, ValueError, TypeError):
        names = json.loads((state_folder() / "recent.json").read_text(encoding="utf-8"))
        return [path for path in map(Path, names) if path.is_file()][:_MOST_RECENT]
    return []


def note_recent(path: Path) -> None:
    """Put a file at the head of the recent ones; a full disk is no reason to complain."""
    path = path.absolute()
    names = [str(path), *(str(p) for p in recent_files() if p != path)][:_MOST_RECENT]
    with contextlib.suppress(OSError, InputError):
        state_folder().mkdir(parents=True, exist_ok=True)
        write_whole(state_folder() / "recent.json", json.dumps(names).encode())
