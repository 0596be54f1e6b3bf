"""The command line; its exit codes are those of `tasks.exit_codes`.

Heavy parts are imported by the command that needs them, so that `nafas --version` answers at once.
"""

import argparse
import contextlib
import json
import os
import sys
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from nafas import __version__, interruption
from nafas.cli import balance, deliver, desktop, ledger, review, script, series, sound, takes, voices
from nafas.cli.shared import allow_force, allow_outside, compiled, opened, session_name, show
from nafas.errors import Cancelled, InputError, UsageError
from nafas.languages import LIBRARY
from nafas.plain_text import make_streams_printable, pluralize
from nafas.tasks.exit_codes import MEANINGS, ExitCode

if TYPE_CHECKING:
    from fractions import Fraction

    from nafas.script.notation.typed.interpret import Reading
    from nafas.timing import Moment


def main(arguments: Sequence[str] | None = None, begin: Callable[[], None] = lambda: None) -> int:
    """Run one command and return its exit code. What it prints is harmless to a terminal, whatever files say.

    Args:
        arguments: those of the process where None.
        begin: called once it is known that there is something to do.
    """
    kept = sys.stdout, sys.stderr
    make_streams_printable()
    try:
        return _run(arguments, begin)
    finally:
        sys.stdout, sys.stderr = kept


def _run(arguments: Sequence[str] | None, begin: Callable[[], None]) -> int:
    parser = _parser()
    options = parser.parse_args(arguments)
    command: Callable[[argparse.Namespace], int] | None = getattr(options, "run", None)
    if command is None and options.desktop is not None:
        command = partial(desktop.run, parser, {int(code): words for code, words in MEANINGS.items()})
    if command is None:
        parser.print_usage(sys.stderr)
        return ExitCode.USAGE
    begin()
    make_streams_printable()  # it may have given standard error another place
    try:
        return command(options)
    except InputError as error:
        print(f"nafas: {error}", file=sys.stderr)
        return ExitCode.USAGE if isinstance(error, UsageError) else ExitCode.REFUSED
    except (Cancelled, KeyboardInterrupt):
        print("nafas: stopped; no unfinished file was left", file=sys.stderr)
        return ExitCode.STOPPED
    except BrokenPipeError:
        # The reader of a pipe has had enough. Keep Python from complaining about it at exit.
        with contextlib.suppress(OSError, ValueError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except OSError as error:
        path = error.filename if isinstance(error.filename, str) else "the file system"
        print(f"nafas: {path}: {error.strerror or error}; choose another place or free some space", file=sys.stderr)
        return ExitCode.REFUSED
    except Exception as error:
        if interruption.happened():
            raise KeyboardInterrupt from None
        fault = _refused(error)
        if fault is not None:
            print(f"nafas: {fault}", file=sys.stderr)
            return ExitCode.REFUSED
        from nafas.log import LOG, log_folder, logger

        logger.exception("command %s", options.command_name)
        message = " ".join(f"{type(error).__name__}: {error}".split())[:200]
        print(f"nafas: an error in Nafas: {message}; please report it with {log_folder() / LOG}", file=sys.stderr)
        return ExitCode.FAULT


def _refused(error: Exception) -> InputError | None:
    """What a model of the script refuses, as an error of the input; None for any other error."""
    if "pydantic_core" not in sys.modules:
        return None
    from pydantic import ValidationError

    from nafas.script.faults import as_input_error

    return as_input_error(error) if isinstance(error, ValidationError) else None


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="nafas", description="Script, time, mix and prove guided breathing recordings."
    )
    parser.add_argument("--version", action="version", version=f"nafas {__version__}")
    desktop.add_options(parser)
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", dest="command_name")

    new = commands.add_parser("new", help="write a session from breath notation")
    new.add_argument("notation", nargs="+", help='breath sets such as "4-2-8 x6 @ 1s"')
    new.add_argument("-o", "--output", type=Path, required=True, metavar="FILE.nafas")
    new.add_argument("--title", default=None)
    allow_force(new)
    new.set_defaults(run=_new)

    script.add_commands(commands)

    timeline = commands.add_parser("timeline", help="print every event with its exact time")
    timeline.add_argument("session", type=Path)
    timeline.add_argument("--json", action="store_true")
    timeline.add_argument("--rate", type=int, default=48_000, help="samples a second (default 48000)")
    allow_outside(timeline)
    timeline.set_defaults(run=_timeline)

    sound.add_commands(commands)
    balance.add_commands(commands)
    review.add_commands(commands)
    deliver.add_commands(commands)
    ledger.add_commands(commands)
    series.add_commands(commands)

    fitted = commands.add_parser("fit", help="list the ways to give a session a length, or take one")
    fitted.add_argument("session", type=Path)
    fitted.add_argument("length", help="a length such as 12:00, or an audio file whose exact length to take")
    fitted.add_argument("--take", type=int, metavar="N", help="apply way N, and write the session to -o")
    fitted.add_argument("-o", "--output", type=Path, metavar="FILE.nafas")
    allow_force(fitted)
    fitted.add_argument("--json", action="store_true")
    allow_outside(fitted)
    fitted.set_defaults(run=_fit)

    sheet = commands.add_parser("sheet", help="print the session as a timed page to read from")
    sheet.add_argument("session", type=Path)
    allow_outside(sheet)
    sheet.set_defaults(run=_sheet)

    takes.add_commands(commands)
    voices.add_commands(commands)

    library = commands.add_parser("library", help="list patterns and outlines, or start a session from one")
    library.add_argument("name", nargs="?", help="an entry's name")
    library.add_argument("-o", "--output", type=Path, metavar="FILE.nafas")
    library.add_argument("--language", choices=LIBRARY, default="en", help="of its talk and counts: en")
    allow_force(library)
    library.set_defaults(run=_library)

    schema = commands.add_parser("schema", help="print the JSON Schema of the session file")
    schema.set_defaults(run=_schema)

    helped = commands.add_parser("help", help="explain a command: nafas help series render")
    helped.add_argument("about", nargs="*", metavar="COMMAND")
    helped.set_defaults(run=partial(_help, parser))

    opened = commands.add_parser("open", help="open the window, on a session if one is named")
    opened.add_argument("session", type=Path, nargs="?")
    opened.set_defaults(run=_open)
    return parser


def _new(options: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from nafas.script import Session, save_session
    from nafas.script.edits.session_edits import insert_blocks
    from nafas.script.faults import as_input_error

    made = session_name(options)
    try:
        session = Session(title=options.title if options.title is not None else made.stem)
    except ValueError:
        problem = "cannot be a title: more than 120 characters, or more than one line of plain text"
        raise InputError(
            "--title" if options.title is not None else made.name, problem, "use another --title"
        ) from None
    for text in options.notation:
        reading = _read(text)
        try:
            session = insert_blocks(session, len(session.blocks), reading.blocks)
        except ValidationError as error:
            fault = as_input_error(error, repr(text))
            raise fault from None
    save_session(session, made)
    blocks = pluralize(len(session.blocks), "block")
    print(f"{made}: {blocks}, {float(session.written_length):g} s with opening and closing")
    return 0


def _read(text: str) -> "Reading":
    """A typed line as it is likeliest meant; what was assumed is reported. Raises InputError with a line that could be
    meant."""
    from fractions import Fraction

    from nafas.library.named import named
    from nafas.library.own import own, shipped
    from nafas.script.notation.typed.interpret import Reading, interpret

    line = interpret(text)
    if not line.readings:
        entries = named(text, (kept.entry for kept in (*own()[0], *shipped())), Fraction(1))
        if entries and (block := entries[0].block) is not None:
            print(f"{text!r}: {entries[0].name}, of the library", file=sys.stderr)
            return Reading((block,))
    if not line.ways:
        assert line.fault is not None
        offer = f'; perhaps "{line.offers[0]}" is meant' if line.offers else ""
        raise InputError(line.fault.place, line.fault.problem, line.fault.remedy + offer)
    first, *rest = line.ways
    if first.unused:
        print(f"{text!r}: not used: {first.unused}", file=sys.stderr)
    if first.note:
        others = "".join(f'; "{reading.notation}": {reading.note}' for reading in rest)
        print(f"{text!r}: {first.note}{others}", file=sys.stderr)
    return first


def _timeline(options: argparse.Namespace) -> int:
    if not 1 <= options.rate <= 768_000:
        raise InputError(f"rate {options.rate}", "is not possible", "write 1 to 768000")
    _, timeline = compiled(options.session, options)
    if options.json:
        events = [_event(moment, options.rate) for moment in timeline.moments]
        length = timeline.length
        print(json.dumps({"length": str(length), "seconds": float(length), "rate": options.rate, "events": events}))
        return 0
    print(f"{'time':>12} {'sample':>10}  {'event':<7} where and what")
    for moment in timeline.moments:
        row = f"{float(moment.at):12.6f} {moment.sample(options.rate):10d}  {moment.kind:<7} {timeline.address(moment)}"
        print(row + (f"  “{moment.text}”" if moment.text else ""))
    return 0


def _event(moment: "Moment", rate: int) -> dict[str, object]:
    return {
        "time": str(moment.at),
        "seconds": float(moment.at),
        "sample": moment.sample(rate),
        "length": str(moment.length),
        "kind": moment.kind.value,
        "block": moment.block or None,
        "round": moment.round or None,
        "phase": moment.phase or None,
        "breath": moment.phase_kind.value if moment.phase_kind else None,
        "side": moment.side.value if moment.side else None,
        "count": moment.count or None,
        "text": moment.text or None,
    }


def _target(text: str) -> "Fraction":
    is_file = False
    from nafas.sound.files.recording import recording_length
    from nafas.timing.clock import parse_clock

    with contextlib.suppress(OSError, ValueError):  # a name that no file can have is no file
        is_file = Path(text).is_file()
    if is_file:
        return recording_length(Path(text))
    try:
        return parse_clock(text)
    except ValueError as fault:
        problem, _, remedy = str(fault).partition("; ")
        raise InputError("length", problem, remedy or "write for example 12:00") from None


def _fit(options: argparse.Namespace) -> int:
    from nafas.tasks.fit import FitRequest, run

    made = None if options.take is None else session_name(options)
    session = opened(options.session, options)
    result = run(FitRequest(session, options.session.parent, _target(options.length), options.take, made))
    return show(result, result.figures if options.json else None)


def _sheet(options: argparse.Namespace) -> int:
    from nafas.timing.sheet import sheet_text

    print(sheet_text(compiled(options.session, options)[1]), end="")
    return 0


def _library(options: argparse.Namespace) -> int:
    from nafas.library.own import own, shipped
    from nafas.script import block_notation, save_session

    entries = [kept.entry for kept in (*shipped(), *own()[0])]
    if options.name is None:
        for entry in entries:
            notation = "whole session" if entry.block is None else block_notation(entry.block)
            print(f"{entry.name:<32} {entry.purpose:<8} {notation}")
        return 0
    wanted = [entry for entry in entries if entry.name.casefold() == options.name.casefold()]
    if not wanted:
        raise InputError(repr(options.name), "is in no library here", "list the names with: nafas library")
    entry, made = wanted[0], session_name(options)
    save_session(entry.begun(options.language), made)
    print(f"{made}: {entry.name}, with its cautions")
    return 0


def _schema(options: argparse.Namespace) -> int:
    from nafas.script.file import schema

    print(json.dumps(schema(), indent=1))
    return 0


def _help(parser: argparse.ArgumentParser, options: argparse.Namespace) -> int:
    for name in options.about:
        groups = (action for action in parser._actions if isinstance(action, argparse._SubParsersAction))
        found = next((group.choices[name] for group in groups if name in group.choices), None)
        if found is None:
            raise UsageError(name, "is no command", "list them with: nafas help")
        parser = found
    parser.print_help()
    return 0


def _open(options: argparse.Namespace) -> int:
    from nafas.desk.app import open_window

    return open_window(options.session)
