"""The command `series`: one script, many recordings."""

import argparse
import sys
from collections.abc import Callable, Sequence
from functools import partial
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
    from nafas.files import write_whole
    from nafas.script.file import load_session
    from nafas.series.plan import load_series
    from nafas.series.words import read_words, words_catalogue, words_table
    from nafas.timing.compile import compile_session, paced

    series = load_series(options.series)
    timeline = compile_session(load_session(options.series.absolute().parent / series.session), paced())
    done = read_words(options.done) if options.done is not None else None
    if options.output.suffix.lower() == ".po":
        write_whole(options.output, words_catalogue(timeline, options.language, done).encode())
    else:
        write_whole(options.output, words_table(timeline, done).encode("utf-8-sig"))
    print(options.output)
    return 0


def _callsheet(options: argparse.Namespace) -> int:
    from nafas.files import write_whole
    from nafas.timing.compile import compile_session, paced
    from nafas.voice.call_sheet import as_csv, call_sheet

    _, variants, _ = _loaded(options)
    timelines = [compile_session(each.session, paced()) for each in variants if each.session is not None]
    write_whole(options.output, as_csv(call_sheet(timelines)).encode())
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
    from nafas.series.check import Checking, apart, check_one

    _, variants, folder = _loaded(options)
    able = [each for each in variants if each.session is not None]
    ended = _spread(check_one, [Checking(each, folder) for each in able], [e.variant.name for e in able], options)
    grave, found = bool(_told_troubles(variants)), []
    for each, end in zip(able, ended):
        if end.made is None:
            print(f"{each.variant.name}: not checked. {end.trouble}")
            grave = True
            continue
        found.append(end.made)
        for severity, _, where, text in end.made.findings:
            print(f"{each.variant.name}: {severity}: {where}: {text}")
            grave = True
        for line in end.made.too_long:
            print(f"{each.variant.name}: too long: {line}")
    for line in apart(found):
        print(line)
    return TROUBLE if grave else 0


def _render(options: argparse.Namespace) -> int:
    from nafas.series.render import jobs_of, render_one

    series, variants, folder = _loaded(options)
    jobs, kept = jobs_of(series, variants, folder, options.every)
    ended = _spread(render_one, jobs, [job.out.stem for job in jobs], options)
    return _told("rendered", [job.out.stem for job in jobs], ended, kept, variants)


def _deliver(options: argparse.Namespace) -> int:
    from nafas.desk.deliver.drawn_alone import drawn_alone
    from nafas.errors import InputError
    from nafas.exchange.deliver import PURPOSES
    from nafas.series.render import Wanted, deliver_one, handings_of

    if options.purpose not in PURPOSES:
        raise InputError(options.purpose, "is no purpose", f"use {', '.join(PURPOSES)}")
    _, variants, folder = _loaded(options)
    audio, texts = PURPOSES[options.purpose]
    video = options.video or ("1080p" if options.purpose == "video" else None)
    drawings = partial(drawn_alone, "sheet" in texts, video) if "sheet" in texts or video else None
    into = options.output.absolute()
    wanted = Wanted(audio, texts, video, drawings, options.anyway)
    tasks, kept = handings_of(variants, folder, into, wanted, options.every)
    names = [task.planned.variant.name for task in tasks]
    return _told("delivered", names, _spread(deliver_one, tasks, names, options), kept, variants)


def _page(options: argparse.Namespace) -> int:
    from nafas.errors import InputError
    from nafas.files import write_whole
    from nafas.series.standing import series_page, standings

    if options.output.suffix.lower() not in (".html", ".htm"):
        raise InputError(str(options.output), "is no page", "end its name in .html")
    series, variants, folder = _loaded(options)
    found = standings(series, variants, folder)
    write_whole(options.output, series_page(series, found, options.output.absolute().parent).encode())
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
    whole = not _told_troubles(variants)
    for name, end in zip(names, ended):
        print(f"{name}: {end.made.words}" if end.made is not None else f"{name}: not {what}. {end.trouble}")
        whole = whole and end.made is not None and end.made.holds
    print(f"{sum(end.made is not None for end in ended)} {what}, {len(kept)} stand as they are.")
    return 0 if whole else TROUBLE


def _told_troubles(variants: "Sequence[Planned]") -> int:
    for each in variants:
        if each.trouble:
            print(f"{each.variant.name}: {each.trouble}", file=sys.stderr)
    return TROUBLE if any(each.trouble for each in variants) else 0
