"""The commands of sound: render masters, and look at a recording that is to be a bed."""

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import allow_force, allow_outside, control, on_all_cores, opened, output, progress_line, show
from nafas.errors import InputError, UsageError

if TYPE_CHECKING:
    from nafas.tasks.queue import RenderQueue
    from nafas.tasks.render import RenderRequest


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `render`, `prove` and `bed`."""
    render = commands.add_parser("render", help="render the master, measure it and prove every count")
    render.add_argument("session", type=Path, nargs="+", help="several are rendered one after another")
    render.add_argument(
        "-o",
        "--output",
        type=Path,
        required=True,
        action="append",
        metavar="FILE",
        help="the master: .wav, .flac, .mp3, .ogg or .opus; again for another format in the same pass. A folder: "
        "every session's master under its own name",
    )
    render.add_argument(
        "--as", dest="formats", action="append", metavar="ENDING", help="in a folder: its format (flac); again for more"
    )
    render.add_argument("--bits", choices=("16", "24", "float"), default="24", help="of a sample in WAV and FLAC")
    render.add_argument(
        "--target",
        choices=("spoken", "spoken-mono", "streaming", "broadcast"),
        help="instead of the session's own loudness",
    )
    render.add_argument("--stems", type=Path, metavar="DIR", help="also write voice.wav, chimes.wav and bed.wav there")
    render.add_argument("--rate", type=int, default=48_000, help="samples a second (default 48000)")
    render.add_argument("--no-proof", action="store_true", help="do not decode and prove the files")
    render.add_argument("--anyway", action="store_true", help="even where the target loudness cannot be reached")
    allow_outside(render)
    allow_force(render)
    render.add_argument("--json", action="store_true")
    render.set_defaults(run=_render)

    prove = commands.add_parser("prove", help="prove a finished file: every cue, chime and level, from the file itself")
    prove.add_argument("file", type=Path)
    prove.add_argument("--for", dest="session", type=Path, required=True, metavar="SESSION")
    prove.add_argument("--page", type=Path, metavar="FILE", help="also write it as a page, .html")
    allow_outside(prove)
    allow_force(prove)
    prove.add_argument("--json", action="store_true")
    prove.set_defaults(run=_prove)

    bed = commands.add_parser("bed", help="measure a recording as a bed: level, loop, tempo, and matching counts")
    bed.add_argument("recording", type=Path)
    bed.add_argument("--count", default="1", metavar="SECONDS", help="the count it should match (default 1)")
    bed.add_argument("--begin", type=float, default=0.0, metavar="SECONDS", help="part to use: from")
    bed.add_argument("--end", type=float, default=None, metavar="SECONDS", help="and to")
    bed.add_argument("--json", action="store_true")
    bed.set_defaults(run=_bed)


def _render(options: argparse.Namespace) -> int:
    from nafas.tasks.queue import RenderQueue, summary

    shown = _queue_line(lambda: queue) if sys.stderr.isatty() and not options.json else lambda: None
    queue = RenderQueue(shown)
    for request in _requests(options):
        queue.add(request)
    with on_all_cores():
        queue.run()
    entries = queue.entries
    if options.json:
        figures = [
            {"file": str(entry.request.out), "trouble": entry.trouble}
            if entry.result is None
            else entry.result.figures()
            for entry in entries
        ]
        print(json.dumps(figures[0] if len(figures) == 1 else figures, indent=1))
    elif len(entries) > 1:
        print(summary(entries))
    elif entries[0].result is not None:
        print("\n".join(entries[0].result.lines()))
    if len(entries) == 1 and entries[0].trouble:
        print(f"nafas: {entries[0].trouble}", file=sys.stderr)
    for entry in entries:
        for warning in entry.result.warnings if entry.result is not None else ():
            print(f"nafas: {warning}", file=sys.stderr)
    return queue.exit_code


def _prove(options: argparse.Namespace) -> int:
    from nafas.files import write_whole
    from nafas.review.proof.page import page
    from nafas.tasks.prove import ProveRequest, run

    if options.page is not None:
        output(options.page, options, ".html", ".htm")
    request = ProveRequest(options.file, opened(options.session, options), options.session.parent)
    with on_all_cores():
        result = run(request, progress_line(options.json))
    if options.page is not None:
        write_whole(options.page, page(result.proof).encode())
    return show(result, result.figures if options.json else None)


def _requests(options: argparse.Namespace) -> "list[RenderRequest]":
    """What is to be rendered. Raises InputError before anything is."""
    from nafas.review.proof.prove import RATES
    from nafas.script.edits.session_edits import change
    from nafas.script.model.targets import TARGETS
    from nafas.tasks.render import RenderRequest, anything, made_before

    if options.rate not in RATES:
        raise UsageError(f"--rate {options.rate}", "is not offered", f"use one of {', '.join(map(str, RATES))}")
    wanted = next((target for target in TARGETS if target.key == options.target), None)
    into = options.output[0] if len(options.output) == 1 and options.output[0].is_dir() else None
    if into is None and len(options.session) > 1:
        raise InputError(str(options.output[0]), "is no folder", "name one folder with -o for several sessions")
    if into is not None and len(options.session) > 1 and options.stems:
        raise UsageError("--stems", "is for one session", "render the sessions one by one")
    requests = []
    for path in options.session:
        session = opened(path, options)
        if wanted is not None:
            master = session.master.model_copy(update={"loudness": wanted.loudness, "mono": wanted.mono})
            session = change(session, master=master)
        outs = options.output
        if into is not None:
            outs = [into / f"{path.stem}.{ending.lstrip('.')}" for ending in options.formats or ["flac"]]
        requests.append(RenderRequest(
            session, path.parent, outs[0], options.stems, options.rate, not options.no_proof, tuple(outs[1:]),
            options.bits, options.anyway, anything if options.force else made_before,
        ))  # fmt: skip
    return requests


def _queue_line(queue: "Callable[[], RenderQueue]") -> Callable[[], None]:
    """A line of progress that is written over: which render, how far, how long still."""
    from nafas.tasks.queue import State

    shown = ""

    def show() -> None:
        nonlocal shown
        entries = queue().entries
        now = next((n for n, entry in enumerate(entries) if entry.state is State.RUNNING), None)
        if now is None:
            line = ""
        else:
            left = queue().left
            line = f"{now + 1} of {len(entries)}: {entries[now].stage} {entries[now].done:4.0%}"
            line += "" if left is None else f", about {left:.0f} s left"
        if line != shown:
            control("\r" + line.ljust(len(shown)) + ("" if line else "\r"))
            shown = line

    return show


def _bed(options: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from nafas.script.model.assets import Asset
    from nafas.script.model.beds import FileBed
    from nafas.script.model.exact import parse_seconds
    from nafas.sound.bed.facts import bed_facts

    try:
        count = parse_seconds(options.count)
    except ValueError as fault:
        raise UsageError("--count", str(fault).partition(";")[0], "write seconds such as 1.2") from None
    try:
        choice = FileBed(file=Asset(path=options.recording.name), begin=options.begin, end=options.end)
    except ValidationError:
        raise UsageError(
            "--begin and --end", "select no part of the recording", "let the end be after the beginning"
        ) from None
    facts = bed_facts(options.recording, choice, count)
    if options.json:
        print(json.dumps(facts.summary(), indent=1))
    else:
        print("\n".join([f"{options.recording}: {facts.first_line}", *facts.lines]))
    return 0
