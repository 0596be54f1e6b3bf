"""What commands share: a session with its times, the files it may read, a line that shows how far work has come."""

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager, nullcontext
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from nafas import interruption
from nafas.errors import InputError
from nafas.files import AlreadyThere, new_name

if TYPE_CHECKING:
    from nafas.script import Session
    from nafas.timing import Timeline


class Result(Protocol):
    """What every task gives."""

    @property
    def exit_code(self) -> int: ...
    @property
    def warnings(self) -> Sequence[str]: ...
    def lines(self) -> list[str]: ...


def show(result: Result, figures: Callable[[], object] | None = None) -> int:
    """Print a result: its lines, or as JSON where `figures` are given; warnings on standard error. Its exit code."""
    if figures is not None:
        print(json.dumps(figures(), indent=1, ensure_ascii=False))
    else:
        print("\n".join(result.lines()))
    for warning in result.warnings:
        print(f"nafas: {warning}", file=sys.stderr)
    return result.exit_code


def on_all_cores() -> AbstractContextManager[None]:
    """Inside, work is shared out to forked processes, where this process is the program's own."""
    from nafas.parallel.shares import forking

    return forking() if interruption.watching() else nullcontext()


def allow_outside(command: argparse.ArgumentParser) -> None:
    """Give a command the flag that lets a session read files outside its own folder."""
    command.add_argument(
        "--allow-outside", action="store_true", help="let the session read files outside its folder, from now on"
    )


def whole(low: int, high: int = 2**63 - 1) -> Callable[[str], int]:
    """What reads a whole number of an argument, within bounds."""

    def read(text: str) -> int:
        number = int(text)
        if not low <= number <= high:
            raise argparse.ArgumentTypeError(f"{text} is not within {low:,} and {high:,}")
        return number

    read.__name__ = "whole number"  # as argparse names it where it is none
    return read


def allow_force(command: argparse.ArgumentParser) -> None:
    """Give a command that writes files the flag that lets it replace what stands there."""
    command.add_argument("--force", action="store_true", help="replace a file of that name")


def output(path: Path, options: argparse.Namespace, *endings: str) -> Path:
    """A file that a command is to write, seen to be free or replaceable, before any work.

    Whatever else the command names is taken for something that it reads, and never written over.

    Raises:
        InputError: as `files.new_name`.
    """
    named = [each for value in vars(options).values() for each in (value if isinstance(value, list) else [value])]
    inputs = [each for each in named if isinstance(each, Path) and each is not path]
    try:
        new_name(path, endings, options.force, inputs)
    except AlreadyThere as error:
        raise AlreadyThere(error.place, error.problem, f"{error.remedy}; --force replaces it") from None
    return path


def session_name(options: argparse.Namespace) -> Path:
    """The session file that a command is to write with `-o`. Raises InputError: none is named, or as `output`."""
    name: Path | None = options.output
    if name is None or name.suffix != ".nafas":
        raise InputError(str(name or "-o"), "is no session's name", "name a file that ends in .nafas with -o")
    return output(name, options)


def opened(path: Path, options: argparse.Namespace) -> "Session":
    """A session file, or of "-" what stands on standard input, its paths from the working folder. Files outside its
    folder that nobody has permitted are named, and asked for at a terminal.

    Raises:
        InputError: it cannot be read, or asks for such files and they were not allowed.
    """
    from nafas.script import load_session
    from nafas.script.file import MAX_FILE_BYTES, parse_session
    from nafas.state.permissions import NotPermitted, outside, permit

    if path == Path("-"):
        session = parse_session(sys.stdin.read(MAX_FILE_BYTES), "standard input")
    else:
        session = load_session(path)
    paths = outside(session, path.parent)
    if paths and not getattr(options, "allow_outside", False):
        named = ", ".join(map(str, paths[:4])) + (f" and {len(paths) - 4} more" if len(paths) > 4 else "")
        if not (sys.stdin.isatty() and sys.stderr.isatty()):
            problem = f"uses files outside its own folder that were not chosen here: {named}"
            raise NotPermitted(str(path), problem, "if you know where it comes from, add --allow-outside")
        print(f"{path} uses files outside its own folder: {named}", file=sys.stderr)
        if input("Read them? [y/N] ").strip().lower() not in ("y", "yes"):
            raise NotPermitted(str(path), "its files outside its folder were not allowed", "nothing was read")
    permit(paths)
    return session


def compiled(path: Path, options: argparse.Namespace, strict: bool = True) -> "tuple[Session, Timeline]":
    """A session file and its timeline; not `strict`, its take book may be missing or broken. Raises InputError."""
    from nafas.timing import compile_session
    from nafas.voice import session_narrator

    session = opened(path, options)
    # Talk lasts as long as it takes to say, so the timeline asks the same voice that a render would.
    narrator = session_narrator(session, path.parent, strict)
    return session, compile_session(session, narrator.spoken_length)


def control(text: str) -> None:
    """Write to standard error as it is, cursor movements and all."""
    write = getattr(sys.stderr, "control", None) or sys.stderr.write
    write(text)
    sys.stderr.flush()


def progress_line(quiet: bool = False) -> Callable[[str, float], None]:
    """Shows a stage and its share on one line of the terminal; nothing where `quiet`, or where there is no terminal."""
    shown = ""
    if quiet or not sys.stderr.isatty():
        return lambda stage, done: None

    def show(stage: str, done: float) -> None:
        nonlocal shown
        line = f"\r{stage} {done:4.0%} "
        if line != shown:
            shown = line
            control(line + ("\r" if done < 1 else "\r\033[K"))

    return show
