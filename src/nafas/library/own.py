"""The repertoire: patterns and outlines to start from, shown as the library. What ships, and the producer's own.

Own entries are files in one folder, `NAFAS_LIBRARY` or the platform's place for data; each is whole in itself, so that
exporting one is writing it elsewhere. Nothing here is changed in a session once it has been put there.
"""

import contextlib
import json
import os
import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.files import read_whole, write_whole
from nafas.library.entry import PURPOSES, LibraryEntry, Purpose
from nafas.library.outlines import OUTLINES
from nafas.library.patterns import PATTERNS
from nafas.script.faults import as_input_error
from nafas.script.file import MAX_FILE_BYTES
from nafas.script.notation.block import read_block

SUFFIX = ".nafas-entry"


@dataclass(frozen=True)
class Kept:
    """An entry with the file it is kept in; None for those that ship."""

    entry: LibraryEntry
    path: Path | None = None


@cache
def shipped() -> tuple[Kept, ...]:
    """What comes with Nafas: patterns, then outlines."""
    patterns = [
        LibraryEntry.model_validate({"name": name, "purpose": purpose, "about": about, "block": _named(notation, name)})
        for name, purpose, notation, about in PATTERNS
    ]
    outlines = []
    for purpose, make, about, cautions in OUTLINES:
        session = make()
        outlines.append(LibraryEntry.model_validate(
            {"name": session.title, "purpose": purpose, "about": about, "cautions": cautions, "session": session}
        ))  # fmt: skip
    return tuple(map(Kept, [*patterns, *outlines]))


def _named(notation: str, name: str) -> object:
    return read_block(notation).model_copy(update={"title": name})


def library_folder() -> Path:
    """Where the producer's own entries are."""
    chosen = os.environ.get("NAFAS_LIBRARY")
    if chosen:
        return Path(chosen)
    import platformdirs

    return platformdirs.user_data_path("nafas") / "library"


def own() -> tuple[list[Kept], list[InputError]]:
    """The producer's own entries by name, and what is wrong with files that could not be read. Those are left alone."""
    entries, faults = [], []
    for path in sorted(library_folder().glob(f"*{SUFFIX}")):
        try:
            entries.append(Kept(read_entry(path), path))
        except InputError as fault:
            faults.append(fault)
    return sorted(entries, key=lambda kept: kept.entry.name.casefold()), faults


def read_entry(path: Path) -> LibraryEntry:
    """Read an entry's file. Raises InputError, naming the place and what to do."""
    try:
        raw = json.loads(read_whole(path, MAX_FILE_BYTES).decode())
        if isinstance(raw, dict) and isinstance(raw.get("format"), int) and raw["format"] > 1:
            raise InputError(f"{path}: format", "was written by a newer Nafas", "update Nafas to read it")
        return LibraryEntry.model_validate(raw)
    except ValidationError as error:
        fault = as_input_error(error)
        raise InputError(f"{path}: {fault.place}", fault.problem, fault.remedy) from None
    except (ValueError, RecursionError):
        raise InputError(str(path), "is no library entry", f"choose a *{SUFFIX} file") from None


def write_entry(entry: LibraryEntry, path: Path, expected: str | None = None) -> None:
    """Write an entry's file whole, to keep or to give away; `expected` as `write_whole`. Raises InputError."""
    # Only what the entry itself lacks is left out: within a session, none (of a bed, say) is something that is said.
    fields = {name: value for name, value in entry.model_dump(mode="json").items() if value is not None}
    text = json.dumps(fields, ensure_ascii=False, indent=1)
    write_whole(path, (text + "\n").encode(), expected)


def keep(entry: LibraryEntry) -> Kept:
    """Put an entry among the producer's own; one of the same name is not touched. Raises InputError."""
    folder = library_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(str(folder), f"cannot be made ({error.strerror})", "allow writing there") from None
    stem = re.sub(r"[^a-z0-9]+", "-", entry.name.casefold()).strip("-")[:50] or "entry"
    path, number = folder / f"{stem}{SUFFIX}", 2
    while path.exists():
        path, number = folder / f"{stem}-{number}{SUFFIX}", number + 1
    write_entry(entry, path, expected="")
    return Kept(entry, path)


def rename(kept: Kept, name: str) -> Kept:
    """Give one of the producer's own another name; its file stays. Raises InputError or ValueError for a bad name."""
    if kept.path is None:
        raise InputError(kept.entry.name, "ships with Nafas", "save a copy under a name of your own")
    entry = kept.entry.replace(name=name.strip())
    write_entry(entry, kept.path)
    return Kept(entry, kept.path)


def remove(kept: Kept) -> None:
    """Take one of the producer's own out. Raises InputError."""
    if kept.path is None:
        raise InputError(kept.entry.name, "ships with Nafas", "it cannot be taken out")
    try:
        with contextlib.suppress(FileNotFoundError):
            kept.path.unlink()
    except OSError as error:
        raise InputError(str(kept.path), f"cannot be removed ({error.strerror})", "check its permissions") from None


__all__ = [
    "PURPOSES",
    "SUFFIX",
    "Kept",
    "LibraryEntry",
    "Purpose",
    "keep",
    "library_folder",
    "own",
    "read_entry",
    "remove",
    "rename",
    "shipped",
    "write_entry",
]
