"""The command `series`: one script, many recordings."""

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import on_all_cores

if TYPE_CHECKING:
    from nafas.series.plan import Planned, Series

TROUBLE = 1


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `series` with its own commands."""
    series = commands.add_parser("series", help="one script, many recordings: a table of variants")
    what = series.add_subparsers(title="series", metavar="WHAT", dest="series_name", required=True)
    for name, help_, run in (
        ("plan", "every variant: its length, and what is to be known of it", _plan),
        ("words", "all that is said as a table for a translator", _words),
        ("callsheet", "one call sheet for all of it, as CSV", _callsheet),
        ("check", "what must or should be changed in each variant, and where they differ", _check),
        ("render", "the variants that changed since they were rendered last", _render),
    ):
        command = what.add_parser(name, help=help_)
        command.add_argument("series", type=Path, metavar="FILE.nafas-series")
        if name in ("words", "callsheet"):
            command.add_argument("-o", "--output", type=Path, required=True, metavar="FILE.csv")
        if name == "words":
            command.add_argument(
                "--done", type=Path, metavar="FILE.csv", help="a table with what is translated already"
            )
        if name == "render":
            command.add_argument("--all", dest="every", action="store_true", help="those that did not change too")
        command.set_defaults(run=run)


def _loaded(options: argparse.Namespace) -> "tuple[Series, list[Planned], Path]":
    from nafas.series.plan import load_series, planned

    path = options.series.absolute()
    series = load_series(path)
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
    from nafas.series.words import read_words, words_table
    from nafas.timing.compile import compile_session, paced

    series = load_series(options.series)
    session = load_session(options.series.absolute().parent / series.session)
    done = read_words(options.done) if options.done is not None else None
    write_whole(options.output, words_table(compile_session(session, paced()), done).encode("utf-8-sig"))
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


def _check(options: argparse.Namespace) -> int:
    from nafas.review.checks.finding import Severity, Subject
    from nafas.review.checks.register import review
    from nafas.timing.compile import compile_session, paced

    _, variants, _ = _loaded(options)
    grave, loudness = False, set()
    for each in variants:
        if each.session is None:
            print(f"{each.variant.name}: {each.trouble}")
            grave = True
            continue
        loudness.add(each.session.master.loudness)
        found = review(Subject(compile_session(each.session, paced(each.session.voice.pace))))
        for finding in (*found.of(Severity.MUST), *found.of(Severity.SHOULD)):
            print(f"{each.variant.name}: {finding.severity.value}: {finding.where}: {finding.text}")
            grave = True
    if len(loudness) > 1:
        told = ", ".join(f"{value:g}" for value in sorted(loudness))
        print(f"The variants are not equally loud: {told} LUFS")
    return TROUBLE if grave else 0


def _render(options: argparse.Namespace) -> int:
    from nafas.exchange.records import record_render
    from nafas.review import RenderQueue
    from nafas.review.queue import summary
    from nafas.series.render import jobs_of

    series, variants, folder = _loaded(options)
    jobs, kept = jobs_of(series, variants, folder, options.every)
    for each in variants:
        if each.trouble:
            print(f"{each.variant.name}: {each.trouble}", file=sys.stderr)
    queue = RenderQueue(made=lambda job, made: record_render(job.session, made))
    for job in jobs:
        queue.add(job)
    with on_all_cores():
        queue.run()
    if jobs:
        print(summary(queue.entries))
    print(f"{len(jobs)} rendered, {len(kept)} stand as they are.")
    whole = all(entry.made is not None and entry.made.holds for entry in queue.entries)
    return 0 if whole and not any(each.trouble for each in variants) else TROUBLE
