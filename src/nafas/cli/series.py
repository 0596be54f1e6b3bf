"""The command `series`: one script, many recordings."""

import argparse
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from nafas.cli.shared import allow_outside, control, on_all_cores, opened

if TYPE_CHECKING:
    from nafas.series.plan import Planned, Series
    from nafas.series.spread import Ended, Note

TROUBLE = 1
_WRITES = {"words": "FILE.csv", "callsheet": "FILE.csv", "page": "FILE.html", "sessions": "FOLDER", "deliver": "FOLDER"}


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `series` with its own commands."""
    series = commands.add_parser("series", help="one script, many recordings: a table of variants")
    what = series.add_subparsers(title="series", metavar="WHAT", dest="series_name", required=True)
    for name, help_, run in (
        ("plan", "every variant: its length, and what is to be known of it", _plan),
        ("words", "all that is said for a translator, as CSV or PO", _words),
        ("callsheet", "one call sheet for all of it, as CSV", _callsheet),
        ("check", "what must or should be changed in each variant, and where they differ", _check),
        ("sessions", "every variant as a session file of its own", _sessions),
        ("render", "the variants that changed since they were rendered last", _render),
        ("deliver", "the variants that changed since they were delivered last, each in a folder of its own", _deliver),
        ("page", "where every variant stands, as a page to look at", _page),
    ):
        command = what.add_parser(name, help=help_)
        command.add_argument("series", type=Path, metavar="FILE.nafas-series")
        if name in _WRITES:
            command.add_argument("-o", "--output", type=Path, required=True, metavar=_WRITES[name])
        if name == "words":
            command.add_argument("--done", type=Path, metavar="FILE", help="a table with what is translated already")
            command.add_argument("--language", default="", metavar="CODE", help="of the translation, for PO")
        if name in ("render", "deliver"):
            command.add_argument("--all", dest="every", action="store_true", help="those that did not change too")
        if name in ("render", "deliver", "check"):
            command.add_argument("--at-once", type=int, metavar="N", help="how many together; usual: one a core")
        if name == "deliver":
            command.add_argument("--for", dest="purpose", default="podcast", metavar="PURPOSE")
            command.add_argument("--video", metavar="SIZE", help="a guide video too: 1080p, 720p or square")
            command.add_argument("--anyway", action="store_true", help="with findings that must be mended")
        allow_outside(command)
        command.set_defaults(run=run)


def _loaded(options: argparse.Namespace) -> "tuple[Series, list[Planned], Path]":
    from nafas.series.plan import load_series, planned

    path = options.series.absolute()
    series = load_series(path)
    opened((path.parent / series.session).resolve(), options)  # asks for what lies outside its folder
    with on_all_cores():
        return series, planned(series, path.parent), path.parent


def _plan(options: argparse.Namespace) -> int:
    from nafas.timing.clock import clock

    _, variants, _ = _loaded(options)
    for each in variants:
        if each.trouble:
            print(f"{each.variant.name}: {each.trouble}")
            continue
        assert each.session is not None and each.length is not None
        notes = f"  ({'; '.join(each.notes)})" if each.notes else ""
        print(f"{each.variant.name}: {clock(each.length)}, {each.session.language}, “{each.session.title}”{notes}")
    return TROUBLE if any(each.trouble for each in variants) else 0


def _words(options: argparse.Namespace) -> int:
    from nafas.script.file import load_session
    from nafas.series.outputs import write_words
    from nafas.series.plan import load_series
    from nafas.series.words import read_words

    series = load_series(options.series)
    session = load_session(options.series.absolute().parent / series.session)
    done = read_words(options.done) if options.done is not None else None
    write_words(session, options.output, options.language, done)
    print(options.output)
    return 0


def _callsheet(options: argparse.Namespace) -> int:
    from nafas.series.outputs import write_call_sheet

    write_call_sheet(_loaded(options)[1], options.output)
    print(options.output)
    return 0


def _sessions(options: argparse.Namespace) -> int:
    from nafas.errors import InputError
    from nafas.script.edits.session_edits import rebase_assets
    from nafas.script.file import save_session
    from nafas.state.permissions import permit_readable

    _, variants, folder = _loaded(options)
    options.output.mkdir(parents=True, exist_ok=True)
    paths = {each.variant.name: options.output / f"{each.variant.name}.nafas" for each in variants}
    for path in paths.values():
        if path.exists():
            raise InputError(str(path), "is there already", "choose another folder, or move it away")
    for each in variants:
        if each.session is not None:
            permit_readable(each.session, folder)
            path = paths[each.variant.name]
            save_session(rebase_assets(each.session, folder, path.parent.absolute()), path)
            print(path)
    return _told_troubles(variants)


def _check(options: argparse.Namespace) -> int:
    from nafas.series.check import Checking, check_lines, check_one

    _, variants, folder = _loaded(options)
    able = [each for each in variants if each.session is not None]
    names = [each.variant.name for each in able]
    ended = _spread(check_one, [Checking(each, folder) for each in able], names, options)
    for line in check_lines(names, ended):
        print(line)
    grave = any(end.made is None or end.made.findings for end in ended)
    return TROUBLE if _told_troubles(variants) or grave else 0


def _render(options: argparse.Namespace) -> int:
    from nafas.series.render import jobs_of, render_one

    series, variants, folder = _loaded(options)
    jobs, kept = jobs_of(series, variants, folder, options.every)
    ended = _spread(render_one, jobs, [job.out.stem for job in jobs], options)
    return _told("rendered", [job.out.stem for job in jobs], ended, kept, variants)


def _deliver(options: argparse.Namespace) -> int:
    from nafas.desk.deliver.wanted import wanted_for
    from nafas.series.render import deliver_one, handings_of

    wanted = wanted_for(options.purpose, options.video, options.anyway)
    _, variants, folder = _loaded(options)
    tasks, kept = handings_of(variants, folder, options.output.absolute(), wanted, options.every)
    names = [task.planned.variant.name for task in tasks]
    return _told("delivered", names, _spread(deliver_one, tasks, names, options), kept, variants)


def _page(options: argparse.Namespace) -> int:
    from nafas.errors import InputError
    from nafas.series.outputs import write_page

    if options.output.suffix.lower() not in (".html", ".htm"):
        raise InputError(str(options.output), "is no page", "end its name in .html")
    series, variants, folder = _loaded(options)
    write_page(series, variants, folder, options.output)
    print(options.output)
    return 0


def _spread(
    work: "Callable[[Any, Note], Any]", items: Sequence[Any], names: Sequence[str], options: argparse.Namespace
) -> "list[Ended]":
    """Do it on every item, with a line of progress at a terminal."""
    from nafas.errors import InputError
    from nafas.series.spread import spread

    if options.at_once is not None and options.at_once < 1:
        raise InputError(f"--at-once {options.at_once}", "is none", "write 1 or more")
    shares = [0.0] * len(items)

    def told(place: int, stage: str, done: float) -> None:
        if not stage:
            shares[place] = 1.0
        if sys.stderr.isatty():
            ready = sum(share == 1.0 for share in shares)
            now = f", {names[place]}: {stage} {done:4.0%}" if stage else ""
            control(f"\r\033[K{ready} of {len(items)}{now}" + ("\r\033[K" if ready == len(items) else ""))

    with on_all_cores():  # where one is done alone, in this process
        return spread(work, items, options.at_once, told)


def _told(
    what: str, names: Sequence[str], ended: "Sequence[Ended]", kept: "Sequence[Planned]", variants: "Sequence[Planned]"
) -> int:
    from nafas.series.render import made_lines

    for line in made_lines(what, names, ended):
        print(line)
    whole = not _told_troubles(variants) and all(end.made is not None and end.made.holds for end in ended)
    print(f"{sum(end.made is not None for end in ended)} {what}, {len(kept)} stand as they are.")
    return 0 if whole else TROUBLE


def _told_troubles(variants: "Sequence[Planned]") -> int:
    for each in variants:
        if each.trouble:
            print(f"{each.variant.name}: {each.trouble}", file=sys.stderr)
    return TROUBLE if any(each.trouble for each in variants) else 0
