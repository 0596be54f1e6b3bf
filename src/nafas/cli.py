"""The command line. Exit codes: 0 done, 1 the input is at fault (one line says what, where and the remedy), 2 usage.

Heavy parts are imported by the command that needs them, so that `nafas --version` answers at once.
"""

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from nafas import __version__
from nafas.errors import Cancelled, InputError

if TYPE_CHECKING:
    from nafas.script import Session
    from nafas.timing import Moment, Timeline


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code."""
    parser = _parser()
    options = parser.parse_args(arguments)
    command: Callable[[argparse.Namespace], int] | None = getattr(options, "run", None)
    if command is None:
        parser.print_usage(sys.stderr)
        return 2
    try:
        return command(options)
    except InputError as error:
        print(f"nafas: {error}", file=sys.stderr)
        return 1
    except (Cancelled, KeyboardInterrupt):
        print("nafas: stopped; nothing was left half done", file=sys.stderr)
        return 1
    except BrokenPipeError:
        # The reader of a pipe has had enough. Keep Python from complaining about it at exit.
        sys.stderr.close()
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="nafas", description="Script, time, mix and prove guided breathing recordings."
    )
    parser.add_argument("--version", action="version", version=f"nafas {__version__}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND")

    new = commands.add_parser("new", help="write a session from breath notation")
    new.add_argument("notation", nargs="+", help='breath sets such as "4-2-8 x6 @ 1s"')
    new.add_argument("-o", "--output", type=Path, required=True, metavar="FILE.nafas")
    new.add_argument("--title", default=None)
    new.add_argument("--force", action="store_true", help="overwrite an existing file")
    new.set_defaults(run=_new)

    timeline = commands.add_parser("timeline", help="print every event with its exact time")
    timeline.add_argument("session", type=Path)
    timeline.add_argument("--json", action="store_true")
    timeline.add_argument("--rate", type=int, default=48_000, help="samples a second (default 48000)")
    timeline.set_defaults(run=_timeline)

    render = commands.add_parser("render", help="render the master, measure it and prove every count")
    render.add_argument("session", type=Path)
    render.add_argument("-o", "--output", type=Path, required=True, metavar="FILE.wav|FILE.flac")
    render.add_argument("--stems", type=Path, metavar="DIR", help="also write voice.wav, chimes.wav and bed.wav there")
    render.add_argument("--rate", type=int, default=48_000, help="samples a second (default 48000)")
    render.add_argument("--no-proof", action="store_true", help="do not search the voice stem for every cue")
    render.add_argument("--json", action="store_true")
    render.set_defaults(run=_render)

    schema = commands.add_parser("schema", help="print the JSON Schema of the session file")
    schema.set_defaults(run=_schema)

    opened = commands.add_parser("open", help="open the window, on a session if one is named")
    opened.add_argument("session", type=Path, nargs="?")
    opened.set_defaults(run=_open)
    return parser


def _new(options: argparse.Namespace) -> int:
    from nafas.script import Session, read_block, save_session
    from nafas.script.edit import insert_block

    output: Path = options.output
    if output.suffix != ".nafas":
        raise InputError(str(output), "is no session's name", "end it in .nafas")
    if output.exists() and not options.force:
        raise InputError(str(output), "exists already", "choose another name or add --force")
    session = Session(title=options.title or output.stem)
    for text in options.notation:
        block = read_block(text)
        session = insert_block(session, len(session.blocks), block)
    save_session(session, output)
    print(f"{output}: {len(session.blocks)} block(s), {float(session.written_length):g} s with opening and closing")
    return 0


def _compiled(path: Path) -> "tuple[Session, Timeline]":
    from nafas.script import load_session
    from nafas.timing import compile_session
    from nafas.voice import session_narrator

    session = load_session(path)
    # Talk lasts as long as it takes to say, so the timeline asks the same voice that a render would.
    narrator = session_narrator(session, path.parent)
    return session, compile_session(session, narrator.spoken_length)


def _timeline(options: argparse.Namespace) -> int:
    if not 1 <= options.rate <= 768_000:
        raise InputError(f"rate {options.rate}", "is not possible", "write 1 to 768000")
    _, timeline = _compiled(options.session)
    if options.json:
        events = [_event(moment, options.rate) for moment in timeline.moments]
        length = timeline.length
        print(json.dumps({"length": str(length), "seconds": float(length), "rate": options.rate, "events": events}))
        return 0
    print(f"{'time':>12} {'sample':>10}  {'event':<7} where and what")
    for moment in timeline.moments:
        row = f"{float(moment.at):12.6f} {moment.sample(options.rate):10d}  {moment.kind:<7} {moment.address}"
        print(row + (f"  {moment.text!r}" if moment.text else ""))
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
        "count": moment.count or None,
        "text": moment.text or None,
    }


def _render(options: argparse.Namespace) -> int:
    from nafas.review import produce, report
    from nafas.script import load_session

    session = load_session(options.session)
    show = _progress_line() if sys.stderr.isatty() and not options.json else lambda stage, done: None
    made = produce(
        session,
        options.session.parent,
        options.output,
        options.stems,
        rate=options.rate,
        with_proof=not options.no_proof,
        progress=show,
    )
    print(json.dumps(made.summary(), indent=1) if options.json else report(made))
    return 0


def _progress_line() -> Callable[[str, float], None]:
    shown = ""

    def show(stage: str, done: float) -> None:
        nonlocal shown
        line = f"\r{stage} {done:4.0%} "
        if line != shown:
            shown = line
            print(line, end="\r" if done < 1 else "\r\033[K", file=sys.stderr, flush=True)

    return show


def _schema(options: argparse.Namespace) -> int:
    from nafas.script.file import schema

    print(json.dumps(schema(), indent=1))
    return 0


def _open(options: argparse.Namespace) -> int:
    from nafas.desk.app import open_window

    return open_window(options.session)
