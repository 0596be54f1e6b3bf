"""The commands of sound: render masters, and look at a recording that is to be a bed."""

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import NOT_PROVEN, OUT_OF_REACH, allow_outside, control, on_all_cores, opened, progress_line
from nafas.errors import InputError

if TYPE_CHECKING:
    from nafas.review import Job, RenderQueue


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
    render.add_argument("--no-proof", action="store_true", help="do not decode the files again and prove them")
    render.add_argument("--anyway", action="store_true", help="also where the loudness asked for is out of reach")
    allow_outside(render)
    render.add_argument("--json", action="store_true")
    render.set_defaults(run=_render)

    prove = commands.add_parser("prove", help="prove a finished file: every cue, chime and level, from the file itself")
    prove.add_argument("file", type=Path)
    prove.add_argument("--for", dest="session", type=Path, required=True, metavar="SESSION")
    prove.add_argument("--page", type=Path, metavar="FILE", help="also write it as a page to look at, .html")
    allow_outside(prove)
    prove.add_argument("--json", action="store_true")
    prove.set_defaults(run=_prove)

    bed = commands.add_parser("bed", help="look at a recording as bed: level, loop, tempo, and counts that agree")
    bed.add_argument("recording", type=Path)
    bed.add_argument("--count", default="1", metavar="SECONDS", help="the count it should agree with (default 1)")
    bed.add_argument("--begin", type=float, default=0.0, metavar="SECONDS", help="what of it is used: from")
    bed.add_argument("--end", type=float, default=None, metavar="SECONDS", help="and to")
    bed.add_argument("--json", action="store_true")
    bed.set_defaults(run=_bed)


def _render(options: argparse.Namespace) -> int:
    from nafas.exchange.records import record_render
    from nafas.review import RenderQueue, report
    from nafas.review.queue import summary

    jobs = _jobs(options)
    shown = _queue_line(lambda: queue) if sys.stderr.isatty() and not options.json else lambda: None
    queue = RenderQueue(shown, lambda job, made: record_render(job.session, made, job.folder))
    for job in jobs:
        queue.add(job)
    with on_all_cores():
        queue.run()
    made = [entry.made for entry in queue.entries]
    if options.json:
        found = [
            each.summary() if each is not None else {"file": str(entry.job.out), "trouble": entry.trouble}
            for entry, each in zip(queue.entries, made)
        ]
        print(json.dumps(found[0] if len(found) == 1 else found, indent=1))
    elif len(made) == 1 and made[0] is not None:
        print(report(made[0]))
    elif len(made) > 1:
        print(summary(queue.entries))
    if len(made) == 1 and made[0] is None:
        print(f"nafas: {queue.entries[0].trouble}", file=sys.stderr)
    for entry in queue.entries:
        if entry.made is not None and entry.trouble:
            print(f"nafas: {entry.trouble}", file=sys.stderr)
    failed = [entry for entry in queue.entries if entry.made is None]
    if not failed and not all(each.holds for each in made if each is not None):
        return NOT_PROVEN
    return 0 if not failed else OUT_OF_REACH if all(entry.out_of_reach for entry in failed) else 1


def _prove(options: argparse.Namespace) -> int:
    from nafas.exchange.aac import decoded
    from nafas.files import write_whole
    from nafas.review.proof import prove_again
    from nafas.review.proof.page import page
    from nafas.review.proof.record import as_record, record_path, save_record
    from nafas.review.report import proof_lines

    if options.page is not None and options.page.suffix.lower() not in (".html", ".htm"):
        raise InputError(str(options.page), "is no page", "end its name in .html")
    progress = (lambda stage, done: None) if options.json else progress_line()
    session = opened(options.session, options)
    with on_all_cores(), decoded(options.file, lambda done: progress("decoding", done)) as sound:
        proof = prove_again(options.file, session, options.session.parent, progress, sound)
    try:
        save_record(proof)
    except InputError as error:  # the file may lie where nothing can be written: the proof itself stands
        print(f"nafas: the record of it is not kept: {error}", file=sys.stderr)
    if options.page is not None:
        write_whole(options.page, page(proof).encode())
    if options.json:
        print(json.dumps(as_record(proof), indent=1, ensure_ascii=False))
    else:
        print("\n".join([*proof_lines(proof), f"record: {record_path(proof.path)}"]))
    return 0 if proof.holds else NOT_PROVEN


def _jobs(options: argparse.Namespace) -> "list[Job]":
    """What is to be rendered. Raises InputError before anything is."""
    from nafas.review import Job
    from nafas.script.edits.session_edits import change
    from nafas.script.model.targets import TARGETS

    wanted = next((target for target in TARGETS if target.key == options.target), None)
    into = options.output[0] if len(options.output) == 1 and options.output[0].is_dir() else None
    if into is None and len(options.session) > 1:
        raise InputError(str(options.output[0]), "is no folder", "name one folder with -o for several sessions")
    if into is not None and len(options.session) > 1 and options.stems:
        raise InputError("--stems", "is for one session", "render the sessions one by one")
    jobs = []
    for place in options.session:
        session = opened(place, options)
        if wanted is not None:
            master = session.master.model_copy(update={"loudness": wanted.loudness, "mono": wanted.mono})
            session = change(session, master=master)
        outs = options.output
        if into is not None:
            outs = [into / f"{place.stem}.{ending.lstrip('.')}" for ending in options.formats or ["flac"]]
        with_proof = not options.no_proof
        jobs.append(
            Job(
                session,
                place.parent,
                outs[0],
                tuple(outs[1:]),
                options.stems,
                options.bits,
                options.rate,
                with_proof,
                options.anyway,
            )
        )
    return jobs


def _queue_line(queue: "Callable[[], RenderQueue]") -> Callable[[], None]:
    """A line of progress that is written over: which render, how far, how long still."""
    from nafas.review.queue import State

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
        raise InputError("--count", str(fault).partition(";")[0], "write seconds such as 1.2") from None
    try:
        choice = FileBed(file=Asset(path=options.recording.name), begin=options.begin, end=options.end)
    except ValidationError:
        raise InputError("--begin and --end", "are no part of a recording", "let it end after it begins") from None
    facts = bed_facts(options.recording, choice, count)
    if options.json:
        print(json.dumps(facts.summary(), indent=1))
    else:
        print("\n".join([f"{options.recording}: {facts.first_line}", *facts.lines]))
    return 0
