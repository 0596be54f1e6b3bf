"""The ledger's file: SQLite in the data folder, write-ahead, changed by whole transactions, its layout by number.

Entries and versions are only ever added: the database itself refuses to change or remove one.
"""

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from nafas.errors import InputError
from nafas.files import part_path, reason, writable

NAME = "ledger.sqlite3"
_WAIT = 15.0
"""Seconds to wait for another program that is writing."""
_MIGRATIONS = (
    """
    CREATE TABLE versions (
        sum TEXT PRIMARY KEY, title TEXT NOT NULL, text TEXT NOT NULL, first TEXT NOT NULL
    ) WITHOUT ROWID;
    CREATE TABLE entries (
        id INTEGER PRIMARY KEY, moment TEXT NOT NULL, kind TEXT NOT NULL, title TEXT NOT NULL,
        version TEXT REFERENCES versions (sum), about INTEGER REFERENCES entries (id), words TEXT NOT NULL DEFAULT '',
        data TEXT NOT NULL DEFAULT '{}'
    );
    CREATE TABLE files (
        entry INTEGER NOT NULL REFERENCES entries (id), path TEXT NOT NULL, sum TEXT NOT NULL, size INTEGER NOT NULL,
        seconds REAL, loudness REAL, true_peak REAL, proof INTEGER, contour BLOB
    );
    CREATE INDEX entries_by_version ON entries (version);
    CREATE INDEX files_by_sum ON files (sum);
    CREATE INDEX files_by_entry ON files (entry);
    """
    + "".join(
        f"CREATE TRIGGER {table}_no_{act.lower()} BEFORE {act} ON {table} "
        "BEGIN SELECT RAISE(ABORT, 'nothing in the ledger changes'); END;"
        for table in ("versions", "entries", "files")
        for act in ("UPDATE", "DELETE")
    ),
    """
    CREATE INDEX entries_by_made_of ON entries (json_extract(data, '$.made_of')) WHERE json_valid(data);
    CREATE INDEX files_by_path ON files (path);
    """,
    # INSERT OR REPLACE removes a row without asking the triggers of removal.
    "".join(
        f"CREATE TRIGGER {table}_once BEFORE INSERT ON {table} "
        f"WHEN EXISTS (SELECT 1 FROM {table} WHERE {key} = NEW.{key}) "
        "BEGIN SELECT RAISE(ABORT, 'nothing in the ledger changes'); END;"
        for table, key in (("versions", "sum"), ("entries", "id"), ("files", "rowid"))
    )
    + """
    CREATE TRIGGER entries_kinds BEFORE INSERT ON entries WHEN typeof(NEW.kind) <> 'text' OR NEW.kind NOT IN
        ('render', 'delivery', 'rehearsal', 'audit', 'publication', 'note')
    BEGIN SELECT RAISE(ABORT, 'the ledger has no such kind of entry'); END;
    """,
)


def record_folder() -> Path:
    """Where records are kept: `NAFAS_RECORDS`, or the platform's place for data."""
    chosen = os.environ.get("NAFAS_RECORDS")
    if chosen:
        return Path(chosen)
    import platformdirs

    return platformdirs.user_data_path("nafas")


def ledger_path() -> Path:
    """The ledger's file."""
    return record_folder() / NAME


@contextmanager
def opened(writing: bool = False) -> Iterator[sqlite3.Connection]:
    """The ledger, made or brought to the newest layout where that is needed. What is written inside is written whole
    when it ends, or not at all.

    Raises:
        InputError: it cannot be read or written, or is of a newer Nafas.
    """
    path = ledger_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with closing(sqlite3.connect(path, timeout=_WAIT, isolation_level=None)) as ledger:
            ledger.row_factory = sqlite3.Row
            ledger.text_factory = _readable
            ledger.execute("PRAGMA journal_mode = WAL")
            ledger.execute("PRAGMA synchronous = FULL")
            ledger.execute("PRAGMA foreign_keys = ON")
            _migrate(ledger, path)
            if not writing:
                yield ledger
                return
            ledger.execute("BEGIN IMMEDIATE")
            try:
                yield ledger
            except BaseException:
                ledger.execute("ROLLBACK")
                raise
            ledger.execute("COMMIT")
    except (sqlite3.Error, UnicodeError, OverflowError) as error:  # a damaged one names its tables in odd bytes
        raise InputError(str(path), f"cannot be used ({error})", "free some space, or put its backup there") from None
    except OSError as error:
        raise InputError(str(path), f"cannot be used ({reason(error)})", "allow writing there") from None


def _readable(text: bytes) -> str:
    return text.decode("utf-8", "replace")


def _migrate(ledger: sqlite3.Connection, path: Path) -> None:
    """Bring it to the newest layout, one number after another, each whole."""
    while True:
        number = int(ledger.execute("PRAGMA user_version").fetchone()[0])
        if number > len(_MIGRATIONS):
            raise InputError(str(path), "is of a newer Nafas", "use that one, or another NAFAS_RECORDS")
        if number == len(_MIGRATIONS):
            return
        ledger.execute("BEGIN IMMEDIATE")
        try:
            if int(ledger.execute("PRAGMA user_version").fetchone()[0]) == number:  # nobody else was quicker
                for statement in _statements(_MIGRATIONS[number]):
                    ledger.execute(statement)
                ledger.execute(f"PRAGMA user_version = {number + 1}")
        except BaseException:
            ledger.execute("ROLLBACK")
            raise
        ledger.execute("COMMIT")


def _statements(script: str) -> Iterator[str]:
    """The statements of a script; those of a trigger stay together."""
    statement = ""
    for piece in script.split(";"):
        statement += piece + ";"
        if sqlite3.complete_statement(statement):
            if statement.strip(" ;\n"):
                yield statement
            statement = ""


def back_up(path: Path) -> None:
    """Write a copy of the whole ledger, which is itself one, whole or not at all. Raises InputError."""
    target = writable(path)
    part = part_path(target)
    with opened() as ledger:
        try:
            with closing(sqlite3.connect(part)) as copy:
                ledger.backup(copy)
            part.replace(target)
        except (sqlite3.Error, OSError) as error:
            raise InputError(str(path), f"cannot be written ({error})", "free some space") from None
        finally:
            part.unlink(missing_ok=True)
