"""Entries of the ledger: written, looked for, compared, and brought out."""

import csv
import io
import json
import sqlite3
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.files import digest_of, file_digest
from nafas.ledger.contour import contours_of, is_same
from nafas.ledger.store import opened
from nafas.plain_text import cell
from nafas.script.differences import differences
from nafas.script.edits.session_edits import rebase_assets
from nafas.script.file import parse_session, session_text
from nafas.script.model.session import Session
from nafas.state.disk_cache import known_digest

_MOST_WORDS = 4000


class Kind(StrEnum):
    """What an entry tells of."""

    RENDER = "render"
    DELIVERY = "delivery"
    REHEARSAL = "rehearsal"
    AUDIT = "audit"
    PUBLICATION = "publication"
    NOTE = "note"
    OTHER = "other"
    """Of a kind that this version does not know; read, and never written."""


@dataclass(frozen=True)
class FileNote:
    """A file as it was made.

    Attributes:
        path: where it was written.
        seconds, loudness, true_peak: of sound; None for others.
        proof: whether its proof holds; None where there was none.
        contour: by which it is known again by its sound (`contour.contour`); None for none.
        digest: SHA-256 of its bytes where it is known already, as its proof knows it; "": it is taken from the file.
    """

    path: Path
    seconds: float | None = None
    loudness: float | None = None
    true_peak: float | None = None
    proof: bool | None = None
    contour: bytes | None = None
    digest: str = ""


@dataclass(frozen=True)
class Entry:
    """An entry as it stands.

    Attributes:
        id, moment, kind, title: its number, when (ISO 8601), what, of which session by its title.
        version: the sum of that session's text; "" for none.
        about: the entry it is about, or None.
        words: of a person.
        data: what else is known.
        files: (path, sum, size, seconds, loudness, true peak, proof) of each.
    """

    id: int
    moment: str
    kind: Kind
    title: str
    version: str
    about: int | None
    words: str
    data: dict[str, Any]
    files: tuple[dict[str, Any], ...] = field(default=())


def version_of(session: Session) -> tuple[str, str]:
    """The sum and the text of a session's version: without its marks, which are about it."""
    text = session_text(session.model_copy(update={"marks": ()}))
    return digest_of(text.encode()), text


def add(
    kind: Kind,
    session: Session | None = None,
    files: Sequence[FileNote] = (),
    words: str = "",
    data: Mapping[str, Any] | None = None,
    about: int | None = None,
    title: str = "",
) -> int:
    """Add an entry; it is on the disk when this returns. Its number is returned.

    Args:
        kind: what it tells of.
        session: the version it is of, whose text is kept.
        files: that were made. Their sums are taken now.
        words: of a person, up to 4,000 letters.
        data: what else is known, for JSON.
        about: the number of an entry that it is about.
        title: where there is no session.

    Raises:
        InputError: a file cannot be read, the ledger cannot be written, or there is no such entry.
    """
    now = datetime.now(UTC).astimezone().isoformat(timespec="seconds")
    rows = []
    for file in files:
        total = (file.digest if file.path.exists() else "") or _sum(file.path)
        known_digest(file.path, total)
        size = file.path.stat().st_size
        proof = None if file.proof is None else int(file.proof)
        rows.append(
            (str(file.path.absolute()), total, size, file.seconds, file.loudness, file.true_peak, proof, file.contour)
        )
    version: str | None = None
    with opened(writing=True) as ledger:
        if about is not None and ledger.execute("SELECT 1 FROM entries WHERE id = ?", (about,)).fetchone() is None:
            raise InputError(f"entry {about}", "is not in the ledger", "see nafas ledger list")
        if session is not None:
            version, text = version_of(session)
            title = title or session.title
            ledger.execute(
                "INSERT INTO versions SELECT ?, ?, ?, ? WHERE NOT EXISTS (SELECT 1 FROM versions WHERE sum = ?)",
                (version, session.title, text, now, version),
            )
        dumps = json.dumps(dict(data or {}), ensure_ascii=False)
        made = ledger.execute(
            "INSERT INTO entries (moment, kind, title, version, about, words, data) VALUES (?, ?, ?, ?, ?, ?, ?)",
            (now, kind.value, title, version, about, words[:_MOST_WORDS], dumps),
        ).lastrowid
        assert made is not None
        ledger.executemany("INSERT INTO files VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", [(made, *row) for row in rows])
    return made


def _sum(path: Path) -> str:
    """The sum of a file that must be there. Raises InputError."""
    digest = file_digest(path)
    if not digest:
        raise InputError(str(path), "is missing", "choose another file")
    return digest


def find(
    words: str = "", kind: Kind | None = None, title: str | None = None, most: int = 500, before: int | None = None
) -> list[Entry]:
    """Entries, the newest first.

    Args:
        words: each must stand in the title, the words, the data or a file's name.
        kind: of that kind only.
        title: of that session only.
        most: how many.
        before: older than that number.
    """
    where, values = ["1"], list[Any]()
    if kind is not None:
        known = [each.value for each in Kind if each is not Kind.OTHER]
        asked = known if kind is Kind.OTHER else [kind.value]
        where.append(f"kind {'NOT ' if kind is Kind.OTHER else ''}IN ({', '.join('?' * len(asked))})")
        values += asked
    if title is not None:
        where.append("title = ?")
        values.append(title)
    if before is not None:
        where.append("id < ?")
        values.append(before)
    for word in words.split():
        like = f"%{word.replace(chr(92), chr(92) * 2).replace('%', chr(92) + '%').replace('_', chr(92) + '_')}%"
        columns = " OR ".join(f"{name} LIKE ? ESCAPE '\\'" for name in ("title", "words", "data", "kind"))
        named = "EXISTS (SELECT 1 FROM files WHERE entry = entries.id AND path LIKE ? ESCAPE '\\')"
        where.append(f"({columns} OR {named})")
        values += [like] * 5
    with opened() as ledger:
        sql = f"SELECT * FROM entries WHERE {' AND '.join(where)} ORDER BY id DESC LIMIT ?"
        return [_entry(ledger, row) for row in ledger.execute(sql, (*values, most)).fetchall()]


def counted() -> dict[Kind, int]:
    """How many entries there are of each kind."""
    with opened() as ledger:
        rows = ledger.execute("SELECT kind, COUNT(*) AS number FROM entries GROUP BY kind").fetchall()
    counts: Counter[Kind] = Counter()
    for row in rows:
        counts[_kind(row["kind"])] += row["number"]
    return dict(counts)


def get(number: int) -> Entry:
    """An entry by its number. Raises InputError where there is none."""
    with opened() as ledger:
        row = ledger.execute("SELECT * FROM entries WHERE id = ?", (number,)).fetchone()
        if row is None:
            raise InputError(f"entry {number}", "is not in the ledger", "see nafas ledger list")
        return _entry(ledger, row)


def _entry(ledger: sqlite3.Connection, row: sqlite3.Row) -> Entry:
    files = ledger.execute(
        "SELECT path, sum, size, seconds, loudness, true_peak, proof FROM files WHERE entry = ?", (row["id"],)
    )
    try:
        data = json.loads(row["data"])
    except (ValueError, TypeError, RecursionError):
        data = {}
    moment, title, version, words = (_text(row[name]) for name in ("moment", "title", "version", "words"))
    about = row["about"] if isinstance(row["about"], int) else None
    return Entry(
        row["id"], moment, _kind(row["kind"]), title, version, about, words,
        data if isinstance(data, dict) else {},
        tuple({**dict(file), "path": _text(file["path"]), "sum": _text(file["sum"])} for file in files),
    )  # fmt: skip


def _kind(value: object) -> Kind:
    """The kind of an entry; of one that a newer Nafas has written it may be unknown."""
    try:
        return Kind(str(value))
    except ValueError:
        return Kind.OTHER


def _text(value: object) -> str:
    """What stands in a field of text, whatever was put there."""
    return "" if value is None else value.decode("utf-8", "replace") if isinstance(value, bytes) else str(value)


def session_of(entry: Entry) -> Session:
    """The session as it was. Raises InputError where the entry is of none."""
    with opened() as ledger:
        row = ledger.execute("SELECT text FROM versions WHERE sum = ?", (entry.version,)).fetchone()
    if row is None:
        raise InputError(f"entry {entry.id}", "is of no session", "choose a render, a delivery or a rehearsal")
    return parse_session(row["text"], f"the version of entry {entry.id}")


def session_in(entry: Entry, folder: Path) -> Session:
    """The session as it was, its relative paths from another folder, where it is known from where they started. Raises
    InputError where the entry is of none."""
    session, before = session_of(entry), entry.data.get("folder")
    return rebase_assets(session, Path(before), folder) if isinstance(before, str) else session


def before_it(entry: Entry) -> Entry | None:
    """The entry before of a session of the same title in another version; None for the first."""
    with opened() as ledger:
        row = ledger.execute(
            "SELECT * FROM entries WHERE id < ? AND title = ? AND version IS NOT NULL AND version <> ? "
            "ORDER BY id DESC LIMIT 1",
            (entry.id, entry.title, entry.version),
        ).fetchone()
        return None if row is None else _entry(ledger, row)


def changed_since(older: Entry, newer: Entry) -> list[str]:
    """What changed from one version to another, in words; [] for the same. Raises InputError where one has none."""
    return differences(session_of(older), session_of(newer)) if older.version != newer.version else []


def which(path: Path) -> list[tuple[Entry, str]]:
    """The entries in which a file was made, the newest first, each with how it is known: "sum", or "sound" where it is
    the same recording in other bytes. Raises InputError where it cannot be read."""
    total = _sum(path)
    with opened() as ledger:
        rows = ledger.execute("SELECT DISTINCT entry FROM files WHERE sum = ? ORDER BY entry DESC", (total,)).fetchall()
        if rows:
            return [(get(row["entry"]), "sum") for row in rows]
        known = ledger.execute(
            "SELECT entry, contour FROM files WHERE contour IS NOT NULL ORDER BY entry DESC"
        ).fetchall()
    try:
        heard = contours_of(path)
    except InputError:
        return []
    alike = dict.fromkeys(row["entry"] for row in known if is_same(heard, row["contour"]))
    return [(get(number), "sound") for number in alike]


def files_made_of(total: str, kind: Kind, asked: str = "") -> dict[str, str]:
    """The sums of the files that were made of something, by their absolute paths; of each path the newest.

    Args:
        total: what of, by `exchange.made_of`.
        kind: of the entries.
        asked: what of a delivery was asked for, as its entry has it.
    """
    with opened() as ledger:
        rows = ledger.execute(
            "SELECT files.path, files.sum FROM files JOIN entries ON entries.id = files.entry "
            "WHERE entries.kind = ? AND json_valid(entries.data) AND json_extract(entries.data, '$.made_of') = ? "
            "AND coalesce(json_extract(entries.data, '$.asked'), '') = ? ORDER BY entries.id",
            (kind.value, total, asked),
        ).fetchall()
    return {row["path"]: row["sum"] for row in rows}


def newest_at(path: Path) -> dict[str, Any] | None:
    """What was made last in a place: "made_of", "moment" and the file's fields as in `Entry`; None for nothing."""
    with opened() as ledger:
        row = ledger.execute(
            "SELECT entries.* FROM files JOIN entries ON entries.id = files.entry WHERE files.path = ? "
            "ORDER BY entries.id DESC LIMIT 1",
            (str(path.absolute()),),
        ).fetchone()
        if row is None:
            return None
        entry = _entry(ledger, row)
    file = next(file for file in entry.files if file["path"] == str(path.absolute()))
    return {**file, "moment": entry.moment, "made_of": entry.data.get("made_of")}


def made_here(path: Path) -> bool:
    """Whether a file is as Nafas made it in that place."""
    with opened() as ledger:
        rows = ledger.execute("SELECT sum FROM files WHERE path = ?", (str(path.absolute()),)).fetchall()
    return bool(rows) and known_digest(path) in {row["sum"] for row in rows}


def exported(kind: str) -> str:
    """The whole ledger as "json" or "csv", oldest first; the texts of versions are in the JSON."""
    entries = find(most=1_000_000)[::-1]
    rows: list[dict[str, Any]] = [
        {
            "id": each.id,
            "when": each.moment,
            "kind": each.kind.value,
            "title": each.title,
            "version": each.version,
            "about": each.about,
            "words": each.words,
            "data": each.data,
            "files": list(each.files),
        }
        for each in entries
    ]
    if kind == "json":
        with opened() as ledger:
            texts = {row["sum"]: row["text"] for row in ledger.execute("SELECT sum, text FROM versions")}
        return json.dumps({"entries": rows, "versions": texts}, indent=1, ensure_ascii=False) + "\n"
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["id", "when", "kind", "title", "version", "about", "words", "data", "files"])
    for row in rows:
        files = "; ".join(str(file["path"]) for file in row["files"])
        cells = [row["id"], row["when"], row["kind"], row["title"], row["version"], row["about"] or "", row["words"]]
        table.writerow(
            [
                *(cell(each) if isinstance(each, str) else each for each in cells),
                json.dumps(row["data"], ensure_ascii=False),
                files,
            ]
        )
    return out.getvalue()
