"""The command `series`: one script, many recordings."""

import argparse
import sys
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import allow_force, allow_outside, on_all_cores, opened, output, progress_line, show
from nafas.errors import UsageError
from nafas.files import real_path
from nafas.tasks.exit_codes import ExitCode

if TYPE_CHECKING:
    from nafas.series.plan import Planned, Series
    from nafas.tasks.series import SeriesResult

_WRITES = {
    "table": "FILE.csv|xlsx",
    "words": "FILE.csv",
    "callsheet": "FILE.csv",
    "page": "FILE.html",
    "sessions": "FOLDER",
    "deliver": "FOLDER",
}
_TABLES = (".csv", ".tsv", ".txt", ".xlsx")


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `series` with its own commands."""
    series = commands.add_parser("series", help="one script, many recordings: a table of variants")
    what = series.add_subparsers(title="series", metavar="WHAT", dest="series_name", required=True)
    for name, help_, run in (
        ("plan", "every variant with its length and notes", _plan),
        ("table", "the rows as a table for a spreadsheet, CSV or XLSX", _table),
        ("take", "import rows from a table: rows with a known name change that variant, others are added", _take),
        ("grow", "rows by a rule, shown before they are written: one thing grows from day to day", _grow),
        ("words", "all spoken words for a translator, as CSV or PO", _words),
        ("callsheet", "one call sheet for all variants, as CSV", _callsheet),
        ("check", "what must or should be changed in each variant, and where they differ", _check),
        ("sessions", "every variant as a session file of its own", _sessions),
        ("render", "the variants that changed since they were rendered last", _render),
        ("deliver", "the variants that changed since they were delivered last, each in a folder of its own", _deliver),
        ("page", "the status of every variant as a page", _page),
    ):
        command = what.add_parser(name, help=help_)
        command.add_argument("series", type=Path, metavar="FILE.nafas-series")
        if name == "take":
            command.add_argument("table", type=Path, help="CSV, tab-separated or XLSX, headings in its first row")
            command.add_argument("--of", type=Path, metavar="FILE.nafas", help="begin a new series of this session")
        if name == "grow":
            command.add_argument("column", help='what grows, by its heading, such as "Rounds, Long exhale" or "Length"')
            command.add_argument("first", help="its value on the first day: 4, 1.1 or 6:00")
            command.add_argument("--by", default="1", help="what is added at each step; below 0 it shrinks")
            command.add_argument("--every", type=int, default=1, metavar="DAYS", help="days from one step to the next")
            command.add_argument("--most", default="", help="where it stops")
            command.add_argument("--days", type=int, default=21, help="how many rows; usual: 21")
            command.add_argument("--name", default="Day {day}", help='of the rows; usual: "Day {day}"')
            command.add_argument("--write", action="store_true", help="write them; without it they are only shown")
        if name in _WRITES:
            command.add_argument("-o", "--output", type=Path, required=True, metavar=_WRITES[name])
        if name in _WRITES and name != "deliver":
            allow_force(command)
        if name == "words":
            command.add_argument(
                "--done", type=Path, metavar="FILE", help="a table of words that are already translated"
            )
            command.add_argument("--language", default="", metavar="CODE", help="of the translation, for PO")
        if name in ("render", "deliver"):
            command.add_argument("--all", dest="every", action="store_true", help="those that did not change too")
        if name in ("render", "deliver", "check"):
            command.add_argument("--at-once", type=int, metavar="N", help="how many together; usual: one a core")
        if name == "deliver":
            command.add_argument("--for", dest="purpose", default="podcast", metavar="PURPOSE")
            command.add_argument("--video", metavar="SIZE", help="a guide video too: 1080p, 720p or square")
            command.add_argument("--anyway", action="store_true", help="even with findings that must be changed")
        allow_outside(command)
        command.set_defaults(run=run)


def _loaded(options: argparse.Namespace) -> "tuple[Series, list[Planned], Path]":
    from nafas.series.plan import load_series, place_outside
    from nafas.series.planner import planned
    from nafas.state.permissions import permit

    path = options.series.absolute()
    series = load_series(path)
    opened(real_path(path.parent / series.session), options)  # asks for what lies outside its folder
    outside = place_outside(series, path.parent)
    if outside is not None and options.allow_outside:
        permit([outside])
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
    return ExitCode.REFUSED if any(each.trouble for each in variants) else ExitCode.DONE


def _table(options: argparse.Namespace) -> int:
    from nafas.files import write_whole
    from nafas.series.cells import as_rows
    from nafas.series.columns import columns_of
    from nafas.series.open_series import OpenSeries
    from nafas.tables import dialect_of, written

    output(options.output, options, *_TABLES)
    file, dialect = OpenSeries(options.series), dialect_of(options.output)
    rows = as_rows(columns_of(file.session), file.series.variants, dialect.comma)
    write_whole(options.output, written(rows, dialect))
    print(options.output)
    return 0


def _take(options: argparse.Namespace) -> int:
    from nafas.plain_text import pluralize
    from nafas.series.cells import with_rows
    from nafas.series.columns import columns_of
    from nafas.series.open_series import OpenSeries, begin_series
    from nafas.series.plan import Series, save_series
    from nafas.tables import read_table

    table = read_table(options.table)
    if options.of is not None:
        from nafas.files import new_name

        new_name(options.series, (".nafas-series",), inputs=[options.of, options.table])
        session = opened(options.of, options)
    else:
        file = OpenSeries(options.series)
        session = file.session
    columns, place = columns_of(session), str(options.table)
    if options.of is not None:
        series = with_rows(Series(session="x"), columns, table, place, f"{place}, row")  # before anything is written
        begin_series(options.of, options.series)
        file = OpenSeries(options.series)
    series = with_rows(file.series, columns, table, place, f"{place}, row")
    save_series(series, options.series)
    print(f"{options.series}: {pluralize(len(series.variants), 'variant')}")
    return 0


def _grow(options: argparse.Namespace) -> int:
    from nafas.errors import InputError
    from nafas.series.columns import columns_of
    from nafas.series.growth import Rule, grown
    from nafas.series.open_series import OpenSeries

    file = OpenSeries(options.series)
    columns = {column.heading.casefold(): column for column in columns_of(file.session)[1:]}
    column = columns.get(options.column.strip().casefold())
    if column is None:
        headings = ", ".join(f'"{each.heading}"' for each in columns.values())
        raise InputError(options.column, "is no column of this series", f"use one of {headings}")
    rule = Rule(column, options.first, options.by, options.every, options.most, options.days, options.name)
    try:
        series = grown(file.series, rule)
    except ValueError as fault:
        raise InputError(str(options.series), str(fault), "change the rule") from None
    known = {variant.name: variant for variant in file.series.variants}
    for variant in series.variants:
        if known.get(variant.name) != variant:
            print(f"{variant.name}: {column.heading} {column.text(variant)}{'' if variant.name in known else ' (new)'}")
    if options.write:
        file.change(series)
        print(options.series)
    else:
        print("Nothing is written yet: add --write to write these rows.")
    return ExitCode.DONE


def _words(options: argparse.Namespace) -> int:
    from nafas.files import new_name
    from nafas.plain_text import pluralize
    from nafas.script.file import load_session
    from nafas.series.outputs import write_words
    from nafas.series.plan import load_series
    from nafas.series.words import read_words

    series = load_series(options.series)
    session = load_session(options.series.absolute().parent / series.session)
    path = new_name(options.output, (*_TABLES, ".po"), True, [options.series])
    done = {} if options.done is None else read_words(options.done)
    stale = write_words(session, path, options.language, done, fresh=options.force)
    print(path)
    if stale:
        print(f"{pluralize(stale, 'translation')} of words that are no longer spoken, kept at the end", file=sys.stderr)
    return 0


def _callsheet(options: argparse.Namespace) -> int:
    from nafas.series.outputs import write_call_sheet

    output(options.output, options, ".csv")
    write_call_sheet(_loaded(options)[1], options.output)
    print(options.output)
    return 0


def _sessions(options: argparse.Namespace) -> int:
    from nafas.script.edits.session_edits import rebase_assets
    from nafas.script.file import save_session
    from nafas.state.permissions import permit_readable

    _, variants, folder = _loaded(options)
    options.output.mkdir(parents=True, exist_ok=True)
    paths = {each.variant.name: options.output / f"{each.variant.name}.nafas" for each in variants}
    for path in paths.values():
        output(path, options)
    for each in variants:
        if each.session is not None:
            permit_readable(each.session, folder)
            path = paths[each.variant.name]
            save_session(rebase_assets(each.session, folder, path.parent.absolute()), path)
            print(path)
    return _told_troubles(variants)


def _check(options: argparse.Namespace) -> int:
    from nafas.tasks.series import check_series

    return _run(options, check_series)


def _render(options: argparse.Namespace) -> int:
    from nafas.tasks.series import render_series

    return _run(options, render_series)


def _deliver(options: argparse.Namespace) -> int:
    from nafas.tasks.delivery import for_purpose
    from nafas.tasks.series import deliver_series

    for_purpose(options.purpose, options.video)  # before anything is planned
    into, video = options.output.absolute(), options.video
    return _run(
        options, partial(deliver_series, into=into, purpose=options.purpose, video=video, anyway=options.anyway)
    )


def _run(options: argparse.Namespace, task: "Callable[..., SeriesResult]") -> int:
    """Do a task on the variants, with a line of progress at a terminal."""
    from nafas.tasks.series import SeriesRequest

    if options.at_once is not None and options.at_once < 1:
        raise UsageError(f"--at-once {options.at_once}", "is none", "write 1 or more")
    series, variants, folder = _loaded(options)
    request = SeriesRequest(series, variants, folder, getattr(options, "every", False), options.at_once)
    with on_all_cores():  # where one is done alone, in this process
        result = task(request, note=progress_line())
    code = show(result)
    if result.what != "checked":
        print(result.summary)
    return code


def _page(options: argparse.Namespace) -> int:
    from nafas.series.outputs import write_page

    output(options.output, options, ".html", ".htm")
    series, variants, folder = _loaded(options)
    write_page(series, variants, folder, options.output)
    print(options.output)
    return 0


def _told_troubles(variants: "Sequence[Planned]") -> int:
    for each in variants:
        if each.trouble:
            print(f"{each.variant.name}: {each.trouble}", file=sys.stderr)
    return ExitCode.REFUSED if any(each.trouble for each in variants) else ExitCode.DONE
