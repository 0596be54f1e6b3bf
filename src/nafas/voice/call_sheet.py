"""The call sheet: every distinct line a session needs, so that a producer can record each a few times and be done.

Order is for a reader: numbers first, as one counts; then cues; then calls; then talk, as the session says it.
"""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from pathlib import Path

from nafas.files import real_path
from nafas.plain_text import cell
from nafas.script.model.blocks import Block, BreathSet
from nafas.script.model.session import Session
from nafas.script.words.lexicon import count_word
from nafas.timing.timeline import EventKind, Moment, Timeline
from nafas.voice.takebook.book import TakeBook, line_key

TAKES_WANTED = {"count": 3, "cue": 3, "call": 2, "talk": 1}
"""Takes of each kind of line: what is heard often is rotated (common practice, no source)."""


class LineKind(StrEnum):
    COUNT = "count"
    CUE = "cue"
    CALL = "call"
    TALK = "talk"


@dataclass(frozen=True)
class Line:
    """One line to record.

    Attributes:
        text, language: what is said.
        kind: what it is for.
        uses: how often it is said.
        room: seconds of the shortest place it must fit, from its beat to the next word; None where nothing presses.
        wanted: how many takes.
        where: script address of that shortest place.
        book: path of the take book that its takes belong to, where it is a block's own; "": the session's.
    """

    text: str
    language: str
    kind: LineKind
    uses: int
    room: float | None
    wanted: int
    where: str
    book: str = ""

    @property
    def key(self) -> tuple[str, str]:
        """What takes of it are found by."""
        return line_key(self.text, self.language)


def call_sheet(timelines: Iterable[Timeline], narrated: bool = False) -> list[Line]:
    """The lines of one session, or of a whole series, each once for each take book; those of blocks with a narrator of
    their own and no takes only where `narrated`."""
    lines: dict[tuple[str, tuple[str, str]], Line] = {}
    order: dict[tuple[str, tuple[str, str]], int] = {}
    for timeline in timelines:
        blocks = {block.id: block for block in timeline.session.blocks}
        carried = any(isinstance(b, BreathSet) and b.style.carrier for b in timeline.session.blocks)
        spoken = timeline.spoken
        for moment, after in zip(spoken, [*spoken[1:], None]):
            block = blocks[moment.block]
            if block.narrator is not None and block.take_book is None and not narrated:
                continue
            language = timeline.speaking_at(moment).language
            kind, index = _kind(moment, _numbers(language), carried)
            room = None if after is None or kind is LineKind.TALK else float(after.at - moment.at)
            book, where = own_book(timeline.session, block), timeline.address(moment)
            line = Line(moment.text, language, kind, 1, room, TAKES_WANTED[kind], where, book)
            key = (book, line.key)
            lines[key] = line if key not in lines else _joined(lines[key], line)
            order.setdefault(key, index)
    kinds = list(LineKind)

    def place(key: tuple[str, tuple[str, str]]) -> tuple[object, ...]:
        return key[0], lines[key].language, kinds.index(lines[key].kind), order[key]

    return [lines[key] for key in sorted(lines, key=place)]


def own_book(session: Session, block: Block) -> str:
    """Path of a block's own take book; "" where it speaks with the session's."""
    book, shared = block.take_book, session.voice.take_book
    return "" if book is None or (shared is not None and book.path == shared.path) else book.path


def takes_of(path: Path, session: Session, folder: Path) -> str:
    """Which of a session's take books a folder is, as `Line.book` has it; "" for any that no block calls its own.

    Args:
        path: of the folder.
        session, folder: the session, and where its relative paths start.
    """
    own = {own_book(session, block) for block in session.blocks} - {""}
    return next((book for book in sorted(own) if real_path(folder / book) == real_path(path)), "")


@cache
def _numbers(language: str) -> dict[str, int]:
    return {count_word(n, language): n for n in range(100)}


def _kind(moment: Moment, numbers: dict[str, int], carried: bool) -> tuple[LineKind, int]:
    """What a spoken moment is, and its place among its kind; `carried` where the session has carried counts."""
    index = 1000 + moment.tick
    if moment.kind is EventKind.TALK:
        return LineKind.TALK, index
    last_word = moment.text.split()[-1] if moment.text.split() else ""
    number = numbers.get(moment.text, numbers.get(last_word))
    if moment.kind is EventKind.COUNT and number is not None and (moment.text in numbers or carried):
        return LineKind.COUNT, number
    return (LineKind.CALL, index) if moment.kind is EventKind.CALL else (LineKind.CUE, index)


def _joined(one: Line, other: Line) -> Line:
    rooms = [line.room for line in (one, other) if line.room is not None]
    tight = other if other.room is not None and (one.room is None or other.room < one.room) else one
    kind = min(one.kind, other.kind, key=list(LineKind).index)
    return Line(
        one.text, one.language, kind, one.uses + other.uses, min(rooms, default=None), TAKES_WANTED[kind], tight.where,
        one.book,
    )  # fmt: skip


class LineState(StrEnum):
    """Where a line stands."""

    MISSING = "missing"
    GONE = "file gone"
    FEW = "few takes"
    RECORDED = "recorded"
    TOO_LONG = "too long"
    UNSURE = "unsure"


def line_state(line: Line, book: TakeBook | None) -> LineState:
    """Where a line stands in a take book: the worst first."""
    takes = book.takes(line.text, line.language) if book is not None else ()
    if not takes or book is None:
        return LineState.MISSING
    takes = tuple(take for take in takes if take.file not in book.absent)
    if not takes:
        return LineState.GONE
    if not any(take.sure for take in takes):
        return LineState.UNSURE
    if line.room is not None and all(take.after_beat > line.room for take in takes):
        return LineState.TOO_LONG
    return LineState.RECORDED if len(takes) >= line.wanted else LineState.FEW


def doubtful(line: Line, book: TakeBook | None) -> bool:
    """Whether a take that may be cast may be another line: it is to be listened to, whatever else there is."""
    return book is not None and any(not take.sure for take in book.takes(line.text, line.language))


def sheet_lines(lines: Sequence[Line], books: Mapping[str, TakeBook | None] = {}) -> list[dict[str, object]]:
    """The call sheet as rows of plain values, for tables; `books` are the take books by `Line.book`."""
    several = any(line.book for line in lines)
    return [
        ({"book": line.book} if several else {}) | {
            "line": line.text, "language": line.language, "kind": line.kind.value, "uses": line.uses,
            "longest_seconds": None if line.room is None else round(line.room, 2), "takes_wanted": line.wanted,
            "state": line_state(line, books.get(line.book)).value, "where": line.where,
        }
        for line in lines
    ]  # fmt: skip


def as_csv(lines: Sequence[Line], books: Mapping[str, TakeBook | None] = {}) -> str:
    """The call sheet as CSV, one line a row, with a heading; `books` are the take books by `Line.book`."""
    rows = sheet_lines(lines, books)
    out = io.StringIO()
    heads = ["line", "language", "kind", "uses", "longest_seconds", "takes_wanted", "state", "where"]
    writer = csv.DictWriter(out, ["book", *heads] if any(line.book for line in lines) else heads, lineterminator="\n")
    writer.writeheader()
    writer.writerows({name: cell(v) if isinstance(v, str) else v for name, v in row.items()} for row in rows)
    return out.getvalue()


def as_text(lines: Iterable[Line]) -> str:
    """The call sheet to read from: grouped, with how often and how short."""
    out: list[str] = []
    kind: LineKind | None = None
    book = ""
    for line in lines:
        if line.book != book:
            book, kind = line.book, None
            out += ["", f"Takes in {book}"]
        if line.kind is not kind:
            kind = line.kind
            times = f"{line.wanted} times each" if line.wanted > 1 else "once each"
            out += ["", f"{HEADS[kind]} ({times})"]
        longest = "" if line.room is None else f"   within {line.room:.2f} s"
        out.append(f"  {line.text}{longest}")
    return "\n".join(out).lstrip("\n") + "\n"


HEADS = {LineKind.COUNT: "Numbers", LineKind.CUE: "Cues", LineKind.CALL: "Calls", LineKind.TALK: "Talk"}
