"""The command `ledger`: what was made when, of which version, and where it went."""

import argparse
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import allow_force, output, show, whole
from nafas.errors import UsageError

if TYPE_CHECKING:
    from nafas.ledger.entries import Entry


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `ledger` with its own commands."""
    about = "what was rendered, delivered, rehearsed and published, and what changed since"
    ledger = commands.add_parser("ledger", help=about)
    what = ledger.add_subparsers(title="ledger", metavar="WHAT", dest="ledger_name", required=True)
    listed = what.add_parser("list", help="entries, the newest first")
    listed.add_argument("words", nargs="*", help="that must stand in them")
    listed.add_argument("--kind", help="render, delivery, rehearsal, audit, publication or note")
    listed.add_argument("--most", type=whole(1), default=50)
    listed.set_defaults(run=_list)
    shown = what.add_parser("show", help="one entry in full, and what changed since the version before")
    shown.add_argument("entry", type=whole(1))
    shown.set_defaults(run=_show)
    compared = what.add_parser("compare", help="what changed from one entry's version to another's")
    compared.add_argument("older", type=whole(1))
    compared.add_argument("newer", type=whole(1))
    compared.set_defaults(run=_compare)
    back = what.add_parser("open", help="write the session as it was")
    back.add_argument("entry", type=whole(1))
    back.add_argument("-o", "--output", type=Path, required=True, metavar="FILE.nafas")
    allow_force(back)
    back.set_defaults(run=_open)
    which = what.add_parser("which", help="which entry a file belongs to, by its checksum or by its sound")
    which.add_argument("file", type=Path)
    which.set_defaults(run=_which)
    published = what.add_parser("published", help="note where and when an entry was published")
    published.add_argument("entry", type=whole(1))
    published.add_argument("where")
    published.add_argument("--when", default="", metavar="DATE")
    published.set_defaults(run=_published)
    note = what.add_parser("note", help="add a note to an entry")
    note.add_argument("entry", type=whole(1))
    note.add_argument("words")
    note.set_defaults(run=_note)
    exported = what.add_parser("export", help="all of it, as .json or .csv")
    exported.add_argument("-o", "--output", type=Path, required=True, metavar="FILE")
    allow_force(exported)
    exported.set_defaults(run=_export)
    backup = what.add_parser("backup", help="a copy of the whole ledger")
    backup.add_argument("-o", "--output", type=Path, required=True, metavar="FILE")
    allow_force(backup)
    backup.set_defaults(run=_backup)


def _line(entry: "Entry") -> str:
    files = f", {len(entry.files)} files" if len(entry.files) > 1 else ""
    about = f" of {entry.about}" if entry.about is not None else ""
    words = f": {entry.words}" if entry.words else ""
    variant = f" ({entry.data['variant']})" if entry.data.get("variant") else ""
    moment = entry.moment[:16].replace("T", " ")
    return f"{entry.id:5}  {moment}  {entry.kind.value}{about}  {entry.title}{variant}{files}{words}"


def _list(options: argparse.Namespace) -> int:
    from nafas.ledger.entries import Kind, find

    kinds = [kind.value for kind in Kind if kind is not Kind.OTHER]
    if options.kind is not None and options.kind not in kinds:
        raise UsageError(f"--kind {options.kind}", "is not a kind of entry", f"use {', '.join(kinds)}")
    kind = None if options.kind is None else Kind(options.kind)
    for entry in find(" ".join(options.words), kind, most=max(1, options.most)):
        print(_line(entry))
    return 0


def _show(options: argparse.Namespace) -> int:
    from nafas.ledger.entries import before_it, changed_since, get

    entry = get(options.entry)
    print(_line(entry))
    for file in entry.files:
        held = {None: "", 1: ", proof holds", 0: ", proof does not hold"}[file["proof"]]
        loud = "" if file["loudness"] is None else f", {file['loudness']:.1f} LUFS, {file['true_peak']:.1f} dBTP"
        print(f"       {file['path']}: {file['size']} bytes{loud}{held}, checksum {file['sum'][:12]}")
    if entry.data:
        print(f"       {json.dumps(entry.data, ensure_ascii=False)}")
    before = before_it(entry) if entry.version else None
    if before is not None:
        print(f"       since entry {before.id}: {'; '.join(changed_since(before, entry)) or 'nothing'}")
    return 0


def _compare(options: argparse.Namespace) -> int:
    from nafas.ledger.entries import changed_since, get

    changes = changed_since(get(options.older), get(options.newer))
    print("\n".join(changes) or "Nothing changed.")
    return 0


def _open(options: argparse.Namespace) -> int:
    from nafas.ledger.entries import get, session_in
    from nafas.script import save_session
    from nafas.script.model.assets import assets_of

    output(options.output, options, ".nafas")
    entry = get(options.entry)
    session = session_in(entry, options.output.absolute().parent)
    if "folder" not in entry.data and assets_of(session):
        print("nafas: where its relative paths started is not known; they are left as they were", file=sys.stderr)
    save_session(session, options.output)
    print(options.output)
    return 0


def _which(options: argparse.Namespace) -> int:
    from nafas.ledger.entries import which

    matches = which(options.file)
    for entry, how in matches:
        print(f"{_line(entry)}  (by its {how})")
    if not matches:
        print("No entry of the ledger is this file, by checksum or by sound.")
    return 0 if matches else 1


def _published(options: argparse.Namespace) -> int:
    from nafas.ledger.entries import Kind, add, get

    entry = get(options.entry)
    data = {"where": options.where, "when": options.when}
    when = f", {options.when}" if options.when else ""
    print(add(Kind.PUBLICATION, words=f"{options.where}{when}", data=data, about=entry.id, title=entry.title))
    return 0


def _note(options: argparse.Namespace) -> int:
    from nafas.ledger.entries import Kind, add, get

    entry = get(options.entry)
    print(add(Kind.NOTE, words=options.words, about=entry.id, title=entry.title))
    return 0


def _export(options: argparse.Namespace) -> int:
    from nafas.tasks.export import ExportRequest, run

    output(options.output, options, ".json", ".csv")
    return show(run(ExportRequest(options.output)))


def _backup(options: argparse.Namespace) -> int:
    from nafas.tasks.export import ExportRequest, run

    output(options.output, options)
    return show(run(ExportRequest(options.output, whole=True)))
