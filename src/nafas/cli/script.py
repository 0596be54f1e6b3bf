"""The command line of written scripts: a text becomes a session, a session a text."""

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from nafas.cli.shared import allow_force, output, session_name
from nafas.errors import InputError, UsageError
from nafas.plain_text import pluralize

if TYPE_CHECKING:
    from nafas.script import Session
    from nafas.script.text.building import Piece
    from nafas.script.text.reading import Script


def add_commands(commands: Any) -> None:
    """Add `script` to the parser's commands."""
    script = commands.add_parser("script", help="make a session of a written text, or write a session as text")
    script.add_argument("text", type=Path, help="a text, DOCX, ODT, SRT or VTT; or a session, to be written as text")
    script.add_argument("-o", "--output", type=Path, metavar="FILE", help="FILE.nafas, or a text file")
    script.add_argument("--into", type=Path, metavar="FILE.nafas", help="change the session that it was written from")
    script.add_argument("--language", default="", metavar="CODE", help="of the text; else the likeliest")
    script.add_argument(
        "--choose", action="append", default=[], metavar="LINE=WAY", help="another way to read a line: 12=talk"
    )
    script.add_argument("--lines", action="store_true", help="list what every line became")
    allow_force(script)
    script.set_defaults(run=_script)


def _script(options: argparse.Namespace) -> int:
    from nafas.script import load_session
    from nafas.script.text.own import is_written
    from nafas.script.text.written import written_text

    if options.text.suffix == ".nafas":
        return _write(written_text(load_session(options.text)), options)
    from nafas.script.text.files import read_text_file

    text = read_text_file(options.text)
    if is_written(text):
        return _read_back(text, options)
    if options.into is not None:
        problem = f"was not written by: nafas script {options.into.name}"
        raise InputError(str(options.text), problem, "write the session as text first, and edit that")
    return _read(text, options)


def _write(text: str, options: argparse.Namespace) -> int:
    """The text of a session, to a file or to standard output."""
    from nafas.files import write_whole

    if options.output is None:
        print(text, end="")
        return 0
    write_whole(output(options.output, options, ".txt", ".md"), text.encode())
    print(f"{options.output}: edit it, and read it again with: nafas script {options.output} --into {options.text}")
    return 0


def _read_back(text: str, options: argparse.Namespace) -> int:
    """A text that was written from a session and edited."""
    from nafas.script.differences import differences
    from nafas.script.edits.session_edits import rebase_assets
    from nafas.script.file import load_with_digest, save_session
    from nafas.script.text.own import read_written

    if options.into is None:
        return _save(read_written(text, None, str(options.text)), options)
    base, digest = load_with_digest(options.into)
    session = read_written(text, base, str(options.text))
    if options.output is not None:
        made = session_name(options)
        save_session(rebase_assets(session, options.into.parent, made.parent), made)
    else:
        made = options.into
        save_session(session, made, digest)
    changes = differences(base, session)
    print(f"{made}: {pluralize(len(changes), 'change') if changes else 'nothing is changed'}")
    print("".join(f"  {line}\n" for line in changes), end="")
    return 0


def _read(text: str, options: argparse.Namespace) -> int:
    from nafas.languages import LANGUAGES
    from nafas.script.text.reading import read_script

    if options.language and options.language not in LANGUAGES:
        raise UsageError(f"--language {options.language}", "is not known", f"write one of {', '.join(LANGUAGES)}")
    made = session_name(options)
    script = read_script(text, options.language, name=str(options.text))
    choices = _choices(script, options.choose)
    if choices:
        script = read_script(text, options.language, choices, str(options.text))
    result = _save(script.session, options, made)
    for piece in script.pieces if options.lines else script.unsure:
        print(_in_words(piece), file=sys.stdout if options.lines else sys.stderr)
    return result


def _choices(script: "Script", chosen: list[str]) -> dict[str, str]:
    """The keys of the pieces on the lines that are named, with the ways to take. Raises UsageError."""
    choices: dict[str, str] = {}
    for text in chosen:
        number, _, way = text.partition("=")
        pieces = [p for p in script.pieces if p.ways and number.isdecimal() and p.first < int(number) <= p.end]
        known = [p for p in pieces if way in dict(p.ways)]
        if not known:
            ways = dict.fromkeys(way for piece in pieces for way, _ in piece.ways)
            remedy = f"write one of {', '.join(ways)}" if ways else "list all lines with --lines"
            raise UsageError(f"--choose {text}", "is not a way to read that line", remedy)
        choices |= {piece.key: way for piece in known}
    return choices


def _in_words(piece: "Piece") -> str:
    """What a part of the text became, and how else it could be read."""
    words = piece.text if len(piece.text) <= 60 else f"{piece.text[:57]}..."
    line = f"line {piece.first + 1}: “{words}”: {piece.became}"
    if piece.unsure:
        line += f"; not sure: {piece.unsure}"
        others = ", ".join(f"--choose {piece.first + 1}={way} ({what})" for way, what in piece.ways[1:])
        line += f"; or {others}" if others else ""
    return line


def _save(session: "Session", options: argparse.Namespace, made: Path | None = None) -> int:
    from nafas.script import BreathSet, save_session

    made = made or session_name(options)
    save_session(session, made)
    sets = sum(isinstance(block, BreathSet) for block in session.blocks)
    what = f"{pluralize(len(session.blocks), 'block')}, {pluralize(sets, 'breath set')}"
    print(f"{made}: {session.title!r}, {what}")
    return 0
