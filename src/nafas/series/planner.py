"""The variants of a series planned: each row as a session of its own, its words, its length, or why it cannot be."""

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.files import digest_of, file_digest, real_path
from nafas.parallel.shares import ignored, in_shares, may_fork
from nafas.script.edits.rewording import reworded
from nafas.script.edits.session_edits import change, change_block, rebase_assets
from nafas.script.faults import first_fault
from nafas.script.file import load_session, session_text
from nafas.script.model.blocks import BreathSet
from nafas.script.model.guidance import FadeStep
from nafas.script.model.session import Session
from nafas.script.notation.block import read_block
from nafas.script.notation.tokens import NotationError
from nafas.series.fields import filled, has_fields
from nafas.series.plan import MOST_ROWS, Planned, Series, Variant
from nafas.series.words import read_words
from nafas.suggest.length_fit import best_fit
from nafas.timing.compile import SessionLengths, SpokenLength, compile_session, paced
from nafas.voice import session_narrator
from nafas.voice.delivery import Delivery, spoken_lines
from nafas.voice.takebook.book import INDEX

_FEW = 40
"""Rows that are not worth a second process."""


class Planner:
    """Plans series, again and again: rows that did not change are not planned again, and what they share is read once.

    Args:
        spoken_length: seconds that words take; None: as the takes and the narrator of each variant say them.
    """

    def __init__(self, spoken_length: SpokenLength | None = None) -> None:
        self._given = spoken_length
        self._known: dict[str, Planned] = {}
        self._measures: dict[tuple[str, ...], SpokenLength] = {}

    def plan(self, series: Series, folder: Path) -> list[Planned]:
        """Every variant of a series whose relative paths begin in `folder`. Raises InputError: its session cannot be
        read."""
        base = real_path(folder / series.session)
        session = rebase_assets(load_session(base), base.parent, folder)
        version = digest_of(f"{session_text(session)}{_book_digest(session, folder)}".encode())
        days = _days(session, series.variants)
        keys = [
            "\0".join((version, day, row.model_dump_json(), _words_digest(row, folder)))
            for day, row in zip(days, series.variants)
        ]
        todo = {key: row for key, row in zip(keys, series.variants) if key not in self._known}
        rows, maker = list(todo.values()), _Maker(session, folder, self._given, self._measures, series.variants)
        made: dict[str, Planned] = {}
        for part in _shared_out(maker, rows):
            made |= {planned.variant.name: planned for planned in part}
        if len(self._known) > 10 * MOST_ROWS:
            self._known.clear()
        new = {key: made[row.name] for key, row in todo.items()}
        planned_ = [self._known.get(key) or new[key] for key in keys]
        self._known |= new
        return planned_


def planned(series: Series, folder: Path, spoken_length: SpokenLength | None = None) -> list[Planned]:
    """Every variant of a series, as `Planner` plans it."""
    return Planner(spoken_length).plan(series, folder)


def _shared_out(maker: "_Maker", rows: Sequence[Variant]) -> list[list[Planned]]:
    if len(rows) <= _FEW or not may_fork():
        return [maker(rows, ignored)]
    maker.read_shared()
    number = 2 * (os.cpu_count() or 1)
    return in_shares(maker, [rows[at::number] for at in range(number)], len(rows), ignored)


class _Maker:
    """Makes the variants of a session.

    Args:
        session: theirs, its paths from the folder.
        folder: of the series.
        spoken_length: as `Planner` is given it.
        measures: the spoken lengths that are known, by language, voice and take book.
        rows: all variants of the series.
    """

    def __init__(
        self,
        session: Session,
        folder: Path,
        spoken_length: SpokenLength | None,
        measures: dict[tuple[str, ...], SpokenLength],
        rows: Sequence[Variant] = (),
    ) -> None:
        self.session, self.folder, self._given, self._measures = session, folder, spoken_length, measures
        self._days = {row.name: number for number, row in enumerate(rows, 1)}
        self._tables: dict[str, Mapping[str, str]] = {}
        self._book = _book_digest(session, folder)

    def filled(self, session: Session, row: Variant) -> Session:
        """With the fields of its words filled. Raises ValueError."""
        if not has_fields(session_text(session)):
            return session
        return filled(session, self._days.get(row.name, 1), max(1, len(self._days)), row.name)

    def words(self, name: str) -> Mapping[str, str]:
        """A table of translated words. Raises InputError."""
        if name not in self._tables:
            self._tables[name] = read_words(self.folder / name)
        return self._tables[name]

    def spoken_length(self, session: Session) -> SpokenLength:
        """Seconds that the words of a variant take. Raises InputError where its takes cannot be read."""
        if self._given is not None:
            return self._given
        key = session.language, session.voice.model_dump_json(), self._book
        if key not in self._measures:
            narrator = session_narrator(session, self.folder, strict=False)
            lines = spoken_lines(compile_session(session, paced(session.voice.pace)))
            narrator.read_all(line for line in lines if line.delivery is Delivery.TALK)
            self._measures[key] = narrator.spoken_length
        return self._measures[key]

    def read_shared(self) -> None:
        """Read what the session says, once, before the rows are shared out. What cannot be read is each row's fault."""
        with suppress(InputError):
            compile_session(self.session, self.spoken_length(self.session))

    def __call__(self, rows: Sequence[Variant], tell: Callable[[int], None]) -> list[Planned]:
        """The variants of some rows; `tell` is called with 1 for each that is done."""
        variants = []
        for row in rows:
            try:
                variants.append(_planned(self, row))
            except (InputError, ValueError) as error:
                message = "; ".join(first_fault(error)) if isinstance(error, ValidationError) else str(error)
                variants.append(Planned(row, None, None, (), message))
            tell(1)
        return variants


def _book_digest(session: Session, folder: Path) -> str:
    """Of the indexes of a session's take books, by which all of them is known; "" where there is none that can be
    read."""
    with suppress(InputError):
        return "".join(file_digest(folder / book.path / INDEX) for book in session.take_books)
    return ""


def _words_digest(variant: Variant, folder: Path) -> str:
    """Of a variant's table of words; "" where there is none that can be read."""
    with suppress(InputError):
        return "" if variant.words is None else file_digest(folder / variant.words)
    return ""


def _planned(maker: _Maker, row: Variant) -> Planned:
    session = maker.session
    notes: list[str] = []
    fields: dict[str, Any] = {"marks": ()}
    if row.title is not None:
        fields["title"] = row.title
    if row.count_length is not None:
        fields["count_length"] = row.count_length
    if row.language is not None:
        fields["language"] = row.language
    if row.narrator is not None:
        fields["voice"] = session.voice.model_copy(update={"narrator": row.narrator})
    if row.loudness is not None:
        fields["master"] = session.master.model_copy(update={"loudness": row.loudness})
    if row.words is not None:
        session, missing = reworded(session, maker.words(row.words))
        notes += [f"not translated: {text[:50]}" for text in missing[:5]]
        if len(missing) > 5:
            notes.append(f"and {len(missing) - 5} more are not translated")
    elif row.language is not None and row.language != session.language:
        notes.append("its talk is in the session's own language: give it a table of words")
    session = change(session, **fields)
    known = {block.id for block in session.blocks if isinstance(block, BreathSet)}
    for name in (*row.rounds, *row.patterns):
        if name not in known:
            raise ValueError(f"there is no set {name!r}; sets are {', '.join(sorted(known)) or 'none'}")
    for index, block in enumerate(session.blocks):
        if isinstance(block, BreathSet):
            more: dict[str, Any] = {}
            if block.id in row.patterns:
                more |= _of_notation(row.patterns[block.id], block)
            if block.id in row.rounds:
                more["rounds"] = row.rounds[block.id]
            if row.guidance is not None:
                more["fade"] = (FadeStep(level=row.guidance),)
            if more:
                session = change_block(session, index, **more)
        if row.bed is not None:
            level = (block.bed.level if block.bed is not None else 0.0) + row.bed
            own = {**(block.bed.model_dump() if block.bed is not None else {}), "level": level}
            session = change_block(session, index, bed=own)
    session = maker.filled(session, row)
    length: Fraction | None = None
    measure = maker.spoken_length(session)
    if row.length is not None:
        fixed = change(_locked(session, (*row.rounds, *row.patterns)), target_length=row.length)
        ways = best_fit(fixed, measure, row.length, keep_counts=row.count_length is not None)
        best = ways.options[0] if ways.options and not ways.reached else None
        changed = best.session if best is not None else fixed
        session = _unlocked_as(changed, session)
        length = best.length if best is not None else None
        if best is not None and not best.exact:
            notes.append(f"it ends {float(best.off):+.1f} s off its length")
        elif best is None and not ways.reached:
            notes.append(ways.summary)
    return Planned(row, session, length or SessionLengths(measure)(session), tuple(notes), "")


def _days(session: Session, rows: Sequence[Variant]) -> list[str]:
    """What the fields of the words make of a row's place; "" for all where no words can have fields."""
    fields = has_fields(session_text(session)) or any(row.words or has_fields(row.title or "") for row in rows)
    return [f"{number} of {len(rows)}" if fields else "" for number in range(1, len(rows) + 1)]


def _of_notation(text: str, block: BreathSet) -> dict[str, Any]:
    """The fields of a set that a cell says: its pattern, and its way up or rounds where it says them. Raises
    ValueError."""
    said = read_set(text, block)
    fields: dict[str, Any] = {"pattern": said.pattern}
    if said.pacing is not None:
        fields["pacing"] = said.pacing
    return {**fields, "rounds": said.rounds}


def read_set(text: str, block: BreathSet) -> BreathSet:
    """A cell of a set's pattern: notation of a set, whose rounds are the block's where it says none. Raises
    ValueError."""
    try:
        said = read_block(text)
    except NotationError:
        said = read_block(f"{text} x{block.rounds}")
    if not isinstance(said, BreathSet):
        raise ValueError(f"{text!r} is no breath set; write for example 4-2-8")
    return said if " x" in f" {text}" else said.replace(rounds=block.rounds)


def _locked(session: Session, names: Iterable[str]) -> Session:
    """With the sets locked whose rounds the row says: fitting leaves them as they are."""
    chosen = set(names)
    if not chosen:
        return session
    blocks = (block.model_copy(update={"locked": True}) if block.id in chosen else block for block in session.blocks)
    return change(session, blocks=tuple(blocks))


def _unlocked_as(session: Session, before: Session) -> Session:
    """With the locks of another session of the same blocks."""
    locks = {block.id: block.locked for block in before.blocks}
    if all(block.locked == locks.get(block.id, block.locked) for block in session.blocks):
        return session
    blocks = (block.model_copy(update={"locked": locks.get(block.id, block.locked)}) for block in session.blocks)
    return change(session, blocks=tuple(blocks))
