"""What commands share: a session with its times, and a line that shows how far work has come."""

import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from nafas.script import Session
    from nafas.timing import Timeline


def compiled(path: Path, strict: bool = True) -> "tuple[Session, Timeline]":
    """A session file and its timeline; not `strict`, its take book may be missing or broken. Raises InputError."""
    from nafas.script import load_session
    from nafas.timing import compile_session
    from nafas.voice import session_narrator

    session = load_session(path)
    # Talk lasts as long as it takes to say, so the timeline asks the same voice that a render would.
    narrator = session_narrator(session, path.parent, strict)
    return session, compile_session(session, narrator.spoken_length)


def progress_line() -> Callable[[str, float], None]:
    """Shows a stage and its share on one line of the terminal."""
    shown = ""

    def show(stage: str, done: float) -> None:
        nonlocal shown
        line = f"\r{stage} {done:4.0%} "
        if line != shown:
            shown = line
            print(line, end="\r" if done < 1 else "\r\033[K", file=sys.stderr, flush=True)

    return show
