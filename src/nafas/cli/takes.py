"""The command line of the voice: the call sheet, and takes cut out of a recording."""

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

from nafas.cli.shared import allow_outside, compiled, opened, progress_line, show
from nafas.files import real_path
from nafas.plain_text import pluralize

if TYPE_CHECKING:
    from nafas.voice.takebook.book import TakeBook, TakeIndex


def add_commands(commands: Any) -> None:
    """Add `callsheet` and `takes` to the parser's commands."""
    called = commands.add_parser("callsheet", help="list every line to record for a session, or for a series")
    called.add_argument("session", type=Path, nargs="+")
    called.add_argument("--csv", action="store_true", help="as a table, with the state of each line")
    allow_outside(called)
    called.set_defaults(run=_callsheet)

    takes = commands.add_parser("takes", help="cut a recording up into takes, and look at them")
    kinds = takes.add_subparsers(title="what to do", metavar="ACTION", required=True)
    imported = kinds.add_parser("import", help="find a session's lines in a recording and put them in a take book")
    imported.add_argument("recording", type=Path, help="a recording, or a folder of clips")
    imported.add_argument("--for", dest="session", type=Path, required=True, metavar="FILE.nafas")
    imported.add_argument("-o", "--output", type=Path, required=True, metavar="TAKEBOOK")
    imported.add_argument("--labels", type=Path, metavar="FILE", help="tab-separated labels, SRT or VTT")
    imported.add_argument("--json", action="store_true")
    allow_outside(imported)
    imported.set_defaults(run=_takes_import)
    beats = kinds.add_parser("beats", help="the felt beat of every take, as kept and as estimated again")
    beats.add_argument("takebook", type=Path)
    beats.add_argument("--set", action="store_true", help="save the new beats, except those that a person set")
    beats.add_argument("--json", action="store_true")
    beats.set_defaults(run=_takes_beats)
    check = kinds.add_parser("check", help="which lines of a session a take book has, lacks, or has too long")
    check.add_argument("takebook", type=Path)
    check.add_argument("--for", dest="session", type=Path, required=True, metavar="FILE.nafas")
    allow_outside(check)
    check.set_defaults(run=_takes_check)


def _callsheet(options: argparse.Namespace) -> int:
    from nafas.script import load_session
    from nafas.state.permissions import asset_path
    from nafas.voice.call_sheet import as_csv, as_text, call_sheet
    from nafas.voice.takebook.book import TakeBook

    lines = call_sheet(compiled(path, options, strict=False)[1] for path in options.session)
    if not options.csv:
        print(as_text(lines), end="")
        return 0
    session, folder = load_session(options.session[0]), options.session[0].parent
    own = {"" if asset == session.voice.take_book else asset.path: asset for asset in session.take_books}
    print(as_csv(lines, {name: TakeBook(asset_path(asset, folder)) for name, asset in own.items()}), end="")
    return 0


def _takes_import(options: argparse.Namespace) -> int:
    from nafas.tasks.import_takes import ImportRequest, run
    from nafas.voice.call_sheet import call_sheet, takes_of

    session, timeline = compiled(options.session, options, strict=False)
    book = takes_of(options.output, session, options.session.parent)
    lines = [line for line in call_sheet([timeline]) if line.book == book]
    result = run(
        ImportRequest(options.recording, lines, options.output, session.title, options.labels),
        progress_line(options.json),
    )
    return show(result, result.figures if options.json else None)


def _takes_beats(options: argparse.Namespace) -> int:
    from nafas.voice.beat.felt_beat import find_beat
    from nafas.voice.takebook.book import TakeBook

    book = TakeBook(options.takebook)
    rows = []
    for take in book.index.takes:
        clip = book.clip(take)
        beat = find_beat(clip.samples, clip.rate)
        rows.append({
            "file": take.file, "line": take.text, "kept": round(take.beat, 4), "found": round(beat.seconds, 4),
            "confidence": round(beat.confidence, 3), "vowel": [round(rise, 4) for rise in beat.rises],
        })  # fmt: skip
    if options.set:
        _set_beats(book)
    if options.json:
        print(json.dumps(rows, ensure_ascii=False, indent=1))
        return 0
    print(f"{'file':<28} {'kept':>7} {'found':>7} {'sure':>5}  line")
    for row in rows:
        figures = f"{row['kept']:7.3f} {row['found']:7.3f} {row['confidence']:5.2f}"
        print(f"{row['file']:<28} {figures}  {str(row['line'])[:50]}")
    return 0


def _set_beats(book: "TakeBook") -> None:
    from nafas.voice.takebook.editor import estimated
    from nafas.voice.takebook.writing import change_book

    # In a book of format 1 nothing says who set a beat: all of them were estimated.
    old = book.index.format == 1
    by_ear = [take.beat_confidence is None and not old for take in book.index.takes]
    changed = {take: estimated(book, take) for take, ear in zip(book.index.takes, by_ear) if not ear}

    def with_beats(index: "TakeIndex") -> "TakeIndex":
        # As the index stands by now: takes that were added or changed meanwhile stay as they are.
        return index.model_copy(update={"takes": tuple(changed.get(take, take) for take in index.takes)})

    change_book(book.folder, with_beats)


def _takes_check(options: argparse.Namespace) -> int:
    from nafas.script.edits.session_edits import change
    from nafas.script.model.voice import Voice
    from nafas.state.permissions import permit
    from nafas.suggest.line_remedies import remedies
    from nafas.timing import compile_session
    from nafas.voice import Narrator, cast_timeline
    from nafas.voice.call_sheet import LineState, call_sheet, takes_of
    from nafas.voice.line_status import line_statuses, worst_misfits
    from nafas.voice.segmentation.unlisted import unlisted
    from nafas.voice.takebook.book import TakeBook

    book = TakeBook(options.takebook)
    permit([options.takebook])
    session = opened(options.session, options)
    own = takes_of(options.takebook, session, options.session.parent)
    if not own:
        spoken = Voice(**{**dict(session.voice), "take_book": {"path": str(real_path(options.takebook))}})
        session = change(session, voice=spoken)
    narrator = Narrator(session.voice, session.language, options.session.parent, strict=False)
    timeline = compile_session(session, narrator.spoken_length)
    cast = cast_timeline(timeline, narrator)
    lines = [line for line in call_sheet([timeline]) if line.book == own]
    statuses = line_statuses(lines, book, cast)
    for state in LineState:
        these = [standing.line.text[:50] for standing in statuses if standing.state is state]
        if these and state is not LineState.RECORDED:
            print(f"{state}: " + ", ".join(map(repr, these)))
    doubts = [standing.line.text[:50] for standing in statuses if standing.doubtful]
    if doubts:
        print("to listen to: " + ", ".join(map(repr, doubts)))
    for misfit in worst_misfits(cast):
        print(str(misfit).rpartition(";")[0])
        for remedy in remedies(cast, misfit, narrator):
            left = f", {pluralize(remedy.left, 'other misfit')} left" if remedy.left else ""
            print(f"    {remedy.title}: {float(remedy.cost):+.1f} s{left}")
    for problem in narrator.problems.values():
        print(f"cannot be used: {problem}")
    lost = unlisted(book)
    if lost:
        print(f"{len(lost)} recordings without a line: nafas takes import {options.takebook} -o {options.takebook} "
              f"--for {options.session} gives them their lines again")  # fmt: skip
    print(f"{sum(standing.state is LineState.RECORDED for standing in statuses)} of {len(statuses)} lines are recorded")
    return 0
