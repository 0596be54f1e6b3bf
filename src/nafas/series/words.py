"""The words of a session for a translator, and back: as a table (CSV) or as a message catalogue (PO, by polib)."""

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.files import read_whole
from nafas.plain_text import cell
from nafas.script.model.phase import PhaseKind
from nafas.script.model.session import Session
from nafas.tables import decoded, read_table
from nafas.timing.timeline import Timeline
from nafas.voice.call_sheet import LineKind, call_sheet

GONE = "no longer said"
"""The kind of a line whose words the session does not say any more."""
COLUMNS = ("words", "translation", "kind", "seconds", "where")
_MOST_BYTES = 8_000_000
_MOST_WORDS = 20_000


@dataclass(frozen=True)
class Row:
    """A line for a translator.

    Attributes:
        words: as they stand in the session.
        kind: of line, or "title".
        room: seconds it has; None where nothing presses.
        where: the script address of the place where it has least.
    """

    words: str
    kind: str
    room: float | None = None
    where: str = ""


def rows_of(timeline: Timeline) -> list[Row]:
    """All that a session says by its own script, each line once, and its titles.

    Numbers and the language's usual cues are not in it: they come with the language. Nor is what a block says in a
    language of its own.
    """
    usual = set(_usual(timeline.session))
    rows = {
        line.key: Row(line.text, line.kind.value, line.room, line.where)
        for line in reversed(call_sheet([timeline], narrated=True))
        if line.language == timeline.session.language and line.kind is not LineKind.COUNT and line.text not in usual
    }
    return [*reversed(rows.values()), *(Row(title, "title") for title in _titles(timeline.session))]


def words_table(timeline: Timeline, done: Mapping[str, str] | None = None) -> list[list[str]]:
    """The rows of a session as a table, headings first.

    Args:
        timeline: of the session.
        done: what is translated already.
    """
    table = [list(COLUMNS)]
    for row in rows_of(timeline):
        room = "" if row.room is None else f"{row.room:.2f}"
        table.append([cell(row.words), cell((done or {}).get(row.words, "")), row.kind, room, row.where])
    for words, translation in no_longer_said(timeline, done or {}).items():
        table.append([cell(words), cell(translation), GONE, "", ""])
    return table


def words_catalogue(
    timeline: Timeline, language: str = "", done: Mapping[str, str] | None = None, before: Path | None = None
) -> str:
    """The rows of a session as PO; what kind of line it is and the room it has are said in comments.

    Args:
        timeline: of the session.
        language: a code, of the translation.
        done: what is translated already.
        before: a catalogue of an earlier state, which is brought up to date as gettext's msgmerge does: translations,
            doubtful ones and translators' comments stay; what is no longer said is kept as obsolete.

    Raises:
        InputError: that catalogue cannot be read.
    """
    import polib

    catalogue = polib.POFile(wrapwidth=0)
    catalogue.metadata = {
        "Project-Id-Version": timeline.session.title, "Language": language, "MIME-Version": "1.0",
        "Content-Type": "text/plain; charset=UTF-8", "Content-Transfer-Encoding": "8bit",
    }  # fmt: skip
    seen: set[str] = set()
    for row in rows_of(timeline):
        if row.words not in seen:  # a title may be said, too
            seen.add(row.words)
            room = "" if row.room is None else f", in {row.room:.2f} s"
            message = f"{row.kind}{room}" + (f": {row.where}" if row.where else "")
            catalogue.append(polib.POEntry(msgid=row.words, msgstr=(done or {}).get(row.words, ""), comment=message))
    for words, translation in no_longer_said(timeline, done or {}).items():
        catalogue.append(polib.POEntry(msgid=words, msgstr=translation, obsolete=True))
    if before is None:
        return f"{catalogue}\n"
    merged = _catalogue(before)
    merged.merge(catalogue)
    for entry in merged:
        if not entry.msgstr and not entry.obsolete:
            entry.msgstr = (done or {}).get(entry.msgid, "")
    return f"{merged}\n"


def no_longer_said(timeline: Timeline, done: Mapping[str, str]) -> dict[str, str]:
    """The translations of words that the session does not say any more."""
    said = {row.words for row in rows_of(timeline)}
    return {words: translation for words, translation in done.items() if words not in said}


def _usual(session: Session) -> list[str]:
    """What is said in the language's own words."""
    return [session.lexicon.kind(kind) for kind in PhaseKind]


def _titles(session: Session) -> list[str]:
    return list(dict.fromkeys(text for text in (session.title, *(block.title for block in session.blocks)) if text))


def read_words(path: Path) -> dict[str, str]:
    """Translated words by the words they stand for, from a table (CSV of any kind, XLSX) or PO; what has no
    translation, or a doubtful one in PO, is left out.

    Raises:
        InputError: it cannot be read, or has no columns "words" and "translation".
    """
    if path.suffix.lower() == ".po":
        return _read_catalogue(path)
    table = read_table(path, _MOST_BYTES)
    try:
        rows = table.records("words", "translation") if table.rows else []
    except ValueError as error:
        raise InputError(str(path), f"has no column “{error}”", "keep its first row as it was") from None
    translations: dict[str, str] = {}
    for row in rows[:_MOST_WORDS]:
        words, translation = (_read_cell(row[name]) for name in ("words", "translation"))
        if words and translation:
            translations[words] = translation
    return translations


def _catalogue(path: Path) -> Any:
    import polib

    try:
        text = decoded(read_whole(path, _MOST_BYTES))
        return polib.pofile(f"{text}\n", wrapwidth=0)
    except (OSError, ValueError, IndexError) as error:
        raise InputError(str(path), f"is not a message catalogue ({error})", "save it as PO in UTF-8") from None


def _read_catalogue(path: Path) -> dict[str, str]:
    catalogue = _catalogue(path)
    entries = [entry for entry in catalogue[:_MOST_WORDS] if entry.msgstr and not entry.fuzzy]  # obsolete ones too
    return {_plain(entry.msgid): _plain(entry.msgstr) for entry in entries}


def _plain(text: str) -> str:
    return " ".join(text.split())


def _read_cell(text: str) -> str:
    """What stands in a cell, without the sign by which a spreadsheet took it for text."""
    plain = _plain(text)
    return plain[1:] if plain[:1] == "'" and cell(plain[1:]) == plain else plain
