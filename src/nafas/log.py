"""The log: a file in the state folder that keeps what went wrong, with its traceback; and the chatter of C libraries.

libmpg123 and others write to the process's standard error as they please. `divert_chatter` sends that to a file of its
own, so that what a person reads there is ours alone.
"""

import contextlib
import logging
import os
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

from nafas.errors import InputError
from nafas.state.folder import made, state_folder

LOG, CHATTER = "nafas.log", "libraries.log"
_MOST_BYTES = 500_000

logger = logging.getLogger("nafas")


def log_folder() -> Path:
    """Where the log files are."""
    return state_folder() / "log"


def begin_log() -> None:
    """Write the log to its file from now on, where the state folder can be written; else nowhere."""
    logger.setLevel(logging.INFO)
    logger.propagate = False
    logger.handlers.clear()
    handler: logging.Handler = logging.NullHandler()
    with contextlib.suppress(InputError, OSError):
        folder = made(log_folder())
        handler = RotatingFileHandler(folder / LOG, maxBytes=_MOST_BYTES, backupCount=2, encoding="utf-8", delay=True)
        handler.setFormatter(logging.Formatter("%(asctime)s %(process)d %(levelname)s %(message)s"))
    logger.addHandler(handler)


def divert_chatter() -> None:
    """Send what libraries write to standard error into a file; Python's own goes where it went. Done once a process."""
    with contextlib.suppress(InputError, OSError, ValueError, AttributeError):
        path = made(log_folder()) / CHATTER
        if path.exists() and path.stat().st_size > _MOST_BYTES:
            path.unlink()
        sys.stderr.flush()
        kept = os.dup(2)
        into = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_NOFOLLOW | os.O_CLOEXEC, 0o644)
        os.dup2(into, 2)
        os.close(into)
        sys.stderr = open(kept, "w", buffering=1, encoding="utf-8", errors="backslashreplace")  # noqa: SIM115, PTH123
