"""The words of a session as a table for a translator, and back: CSV with a column for each."""

import csv
import io
from collections.abc import Callable, Mapping
from pathlib import Path

from nafas.errors import InputError
from nafas.files import read_whole
from nafas.plain_text import cell
from nafas.script.edits.session_edits import change, fields_of, with_blocks
from nafas.script.model.blocks import BreathSet, Spoken
from nafas.script.model.phase import Phase, PhaseKind
from nafas.script.model.sentences import Sentence, written
from nafas.script.model.session import Session
from nafas.timing.timeline import Timeline
from nafas.voice.call_sheet import LineKind, call_sheet

COLUMNS = ("words", "translation", "kind", "seconds", "where")
_MOST_BYTES = 8_000_000
_MOST_WORDS = 20_000


def words_table(timeline: Timeline, done: Mapping[str, str] | None = None) -> str:
    """All that a session says by its own script, for a translator: each line once, with the room it has.

    Numbers and the language's usual cues are not in it: they come with the language.

    Args:
        timeline: of the session.
        done: what is translated already.
    """
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(COLUMNS)
    usual = set(_usual(timeline.session))
    for line in call_sheet([timeline]):
        if line.kind is LineKind.COUNT or line.text in usual:
            continue
        room = "" if line.room is None else f"{line.room:.2f}"
        table.writerow([cell(line.text), cell((done or {}).get(line.text, "")), line.kind.value, room, line.where])
    for title in _titles(timeline.session):
        table.writerow([cell(title), cell((done or {}).get(title, "")), "title", "", ""])
    return out.getvalue()


def _usual(session: Session) -> list[str]:
    """What is said in the language's own words."""
    return [session.lexicon.kind(kind) for kind in PhaseKind]


def _titles(session: Session) -> list[str]:
    return list(dict.fromkeys(text for text in (session.title, *(block.title for block in session.blocks)) if text))


def read_words(path: Path) -> dict[str, str]:
    """Translated words by the words they stand for; rows without a translation are left out.

    Raises:
        InputError: it cannot be read, or has no columns "words" and "translation".
    """
    try:
        text = read_whole(path, _MOST_BYTES).decode("utf-8-sig")
        rows = list(csv.DictReader(io.StringIO(text)))
    except (UnicodeDecodeError, csv.Error) as error:
        raise InputError(str(path), f"is no table of words ({error})", "save it as CSV in UTF-8") from None
    if rows and not {"words", "translation"} <= set(rows[0]):
        raise InputError(str(path), "has no columns “words” and “translation”", "keep its first row as it was")
    found: dict[str, str] = {}
    for row in rows[:_MOST_WORDS]:
        words, translation = (_read_cell(row[name] or "") for name in ("words", "translation"))
        if words and translation:
            found[words] = translation
    return found


def _read_cell(text: str) -> str:
    """What stands in a cell, without the sign by which a spreadsheet took it for text."""
    plain = " ".join(text.split())
    return plain[1:] if plain[:1] == "'" and cell(plain[1:]) == plain else plain


def reworded(session: Session, words: Mapping[str, str]) -> tuple[Session, list[str]]:
    """The session in other words, and those of its words that have no translation.

    Raises:
        ValueError: a translation is longer than a session allows.
    """
    missing: list[str] = []

    def put(text: str) -> str:
        if text and text not in words and text not in missing:
            missing.append(text)
        return words.get(text, text)

    blocks = []
    for block in session.blocks:
        fields: dict[str, object] = {}
        if block.title:
            fields["title"] = put(block.title)[:120]
        if isinstance(block, Spoken):
            paragraphs = []
            for paragraph in block.lines:
                said = [Sentence(put(sentence.text), sentence.pause) for sentence in paragraph]
                paragraphs.append(written(said))
            if block.lead and paragraphs:
                paragraphs[0] = f"{Sentence('', block.lead)} {paragraphs[0]}".strip()
            fields["paragraphs"] = tuple(paragraphs)
        if isinstance(block, BreathSet):
            phases = tuple(_reworded(phase, put) for phase in block.pattern.phases)
            if phases != block.pattern.phases:
                fields["pattern"] = block.pattern.model_copy(update={"phases": phases})
        blocks.append(type(block).model_validate({**fields_of(block), **fields}))
    return change(with_blocks(session, blocks), title=put(session.title)[:120]), missing


def _reworded(phase: Phase, put: Callable[[str], str]) -> Phase:
    own = {"cue": phase.cue, "long_cue": phase.long_cue}
    return phase.model_copy(update={name: put(text) for name, text in own.items() if text is not None})
