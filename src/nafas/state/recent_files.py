"""Recent session files."""

import contextlib
from pathlib import Path

from nafas.state.folder import read_names, write_names

_NAME = "recent.json"
_MOST = 12


def recent_files() -> list[Path]:
    """Recently used session files that still exist, newest first."""
    paths = []
    for path in map(Path, read_names(_NAME)):
        with contextlib.suppress(OSError, ValueError):
            if path.is_file():
                paths.append(path)
    return paths[:_MOST]


def note_recent(path: Path) -> None:
    """Put a file at the head of the recent ones."""
    path = path.absolute()
    write_names(_NAME, [str(path), *(str(p) for p in recent_files() if p != path)][:_MOST])
