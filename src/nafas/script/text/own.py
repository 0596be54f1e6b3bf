"""A text that `written` wrote and people edited, read again.

    # Between two crossings
    nafas script: 1
    language: en

    ## Welcome
    pause after: 3s

    Good evening. [2s] Sit where you are.

    ## The long exhale
    Breath: 4-6 x10 @ 1.2s
    words in the ease: Let it go.

    ---

    A block without a title begins with a rule.

What the text does not say (beds, levels, the voice, marks) is kept where it is read into the session that it was
written from: blocks whose lines stand unchanged are kept as they are.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from typing import Any

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.script.faults import as_input_error
from nafas.script.model.beds import BlockBed
from nafas.script.model.blocks import Block, BreathSet, Spoken, Talk
from nafas.script.model.sentences import MAX_PARAGRAPHS
from nafas.script.model.session import Session
from nafas.script.notation.block import read_block
from nafas.script.notation.tokens import NotationError
from nafas.script.notation.typed.interpret import interpret
from nafas.script.text.keys import (
    BLOCK_KEYS,
    HEADING,
    KEY_LINE,
    KINDS,
    MARK,
    NOTED,
    RULE,
    SESSION_KEYS,
    USUAL,
    VERSION,
    Key,
    bed_text,
    spaced,
)
from nafas.script.text.written import written_text


@dataclass(frozen=True)
class Chunk:
    """The lines of one block, or of the session's head.

    Attributes:
        line: its first, from 1.
        title: of the block.
        kind: "Breath", "Rest", "Strokes", or "" for talk.
        notation: after the kind.
        keys: (line, name, value).
        paragraphs: words, each on a line of its own.
    """

    line: int
    title: str = ""
    kind: str = ""
    notation: str = ""
    keys: list[tuple[int, str, str]] = field(default_factory=list)
    paragraphs: list[str] = field(default_factory=list)

    @property
    def said(self) -> tuple[object, ...]:
        """All of it but where it stands: equal chunks are the same block."""
        keys = tuple((name, value) for _, name, value in self.keys)
        return self.title, self.kind, self.notation, keys, tuple(self.paragraphs)


def is_written(text: str) -> bool:
    """Whether a text is one that `written_text` wrote, by its head."""
    return any((key := KEY_LINE.match(line)) is not None and key[1].lower() == MARK for line in text.split("\n")[:12])


def read_written(text: str, base: Session | None = None, name: str = "the text") -> Session:
    """Read a text that `written_text` wrote and people edited.

    Args:
        text: the whole of it.
        base: the session it was written from; what the text does not change stays as it is there.
        name: how errors call the text.

    Raises:
        InputError: naming the line at fault.
    """
    head, *chunks = _chunks(text, name)
    before = _chunks(written_text(base), name)[1:] if base is not None else []
    old = base.blocks if base is not None else ()
    taken = {block.id for block in old} | {value for chunk in chunks for _, key, value in chunk.keys if key == "id"}
    pairs = _paired(before, chunks)
    blocks: list[Block] = []
    for chunk, at in zip(chunks, pairs):
        if at is not None and before[at].said == chunk.said:
            blocks.append(old[at])
            continue
        block = _block(chunk, old[at] if at is not None else None, name)
        if at is None:
            block = block.model_copy(update={"id": _new_id(block, chunk, taken)})
            taken.add(block.id)
        blocks.append(block)
    try:
        whole = base or Session()
        fields = _values(SESSION_KEYS, head, Session(), name)
        return whole.replace(**fields, title=_kept(head.title, whole.title), blocks=tuple(blocks))
    except ValidationError as error:
        raise as_input_error(error, name) from None


def _chunks(text: str, name: str) -> list[Chunk]:
    """The head and the chunk of every block."""
    lines = text.replace("\r\n", "\n").split("\n")
    chunks = [Chunk(1)]
    in_head = True  # of a chunk: lines `key: value` stand there, until the first empty one
    for number, line in enumerate(lines, 1):
        words, chunk = line.strip(), chunks[-1]
        if not words:
            in_head = in_head and not (chunk.keys or chunk.kind or chunk.title)
            continue
        key = KEY_LINE.match(words)
        kind = key[1].capitalize() if key is not None and key[1].capitalize() in KINDS else ""
        heading = HEADING.match(words)
        if heading is not None and len(heading[1]) == 1 and len(chunks) == 1 and not (chunk.keys or chunk.title):
            chunks[0] = Chunk(number, heading[2] or "")
        elif heading is not None:
            chunks.append(Chunk(number, heading[2] or ""))
            in_head = True
        elif words.strip("-") == "" and len(words) >= len(RULE):
            chunks.append(Chunk(number))
            in_head = True
        elif kind and key is not None:
            fresh = len(chunks) > 1 and not (chunk.kind or chunk.paragraphs)
            new = Chunk(number, chunk.title if fresh else "", kind, key[2], list(chunk.keys) if fresh else [])
            chunks[-1:] = [new] if fresh else [chunk, new]
            in_head = True
        elif in_head and key is not None and (len(chunks) == 1 or _is_key(chunk, key[1])):
            chunk.keys.append((number, key[1].lower(), key[2]))
        elif len(chunks) == 1:
            problem = "is neither a key nor the beginning of a block"
            raise InputError(f"{name}: line {number}", problem, f"begin a block with ## and its title, or with {RULE}")
        elif chunk.kind in ("Breath", "Strokes"):
            chunks.append(Chunk(number, paragraphs=[words]))  # a set has no words: they are talk after it
            in_head = False
        else:
            goes_on = bool(chunk.paragraphs) and bool(lines[number - 2].strip())
            plain = words[1:] if words.startswith("\\") else words
            if goes_on:
                chunk.paragraphs[-1] += f" {plain}"
            else:
                chunk.paragraphs.append(plain)
            in_head = False
    return chunks


def _is_key(chunk: Chunk, name: str) -> bool:
    type_ = KINDS.get(chunk.kind, Talk)
    return name.lower() in ("id", "bed", *(key.name for key in BLOCK_KEYS[type_]))


def _paired(before: Sequence[Chunk], after: Sequence[Chunk]) -> list[int | None]:
    """For every chunk the one it was; None for a new one. What stands unchanged is paired first, then what has the same
    title, then, between two that are paired, what has the same kind."""
    pairs: list[int | None] = [None] * len(after)
    matcher = SequenceMatcher(None, [c.said for c in before], [c.said for c in after], autojunk=False)
    for tag, begin, end, first, last in matcher.get_opcodes():
        if tag == "equal":
            pairs[first:last] = range(begin, end)
            continue
        free = list(range(begin, end))
        for alike in (_same_title, _same_kind):
            for at in range(first, last):
                found = next((n for n in free if pairs[at] is None and alike(before[n], after[at])), None)
                if found is not None:
                    pairs[at] = found
                    free.remove(found)
    left = [n for n in range(len(before)) if n not in pairs]
    for at, chunk in enumerate(after):  # moved blocks
        found = next((n for n in left if pairs[at] is None and before[n].said == chunk.said), None)
        if found is not None:
            pairs[at] = found
            left.remove(found)
    return pairs


def _same_title(one: Chunk, other: Chunk) -> bool:
    return one.kind == other.kind and bool(one.title) and one.title == other.title


def _same_kind(one: Chunk, other: Chunk) -> bool:
    return one.kind == other.kind


def _block(chunk: Chunk, old: Block | None, name: str) -> Block:
    where = f"{name}: line {chunk.line}"
    try:
        notation = f"rest {chunk.notation}" if chunk.kind == "Rest" else chunk.notation
        read = _noted(notation) if chunk.kind else USUAL[Talk]
        type_ = type(read)
        if type_ is not KINDS.get(chunk.kind, Talk):
            raise InputError(where, f"is not {chunk.kind.lower()}", "write it under Breath:, Rest: or Strokes:")
        fields: dict[str, Any] = {key: getattr(read, key) for key in NOTED.get(type_, ())}
        fields |= _values(BLOCK_KEYS[type_], chunk, read, name)
        fields |= {"title": _kept(chunk.title, old.title if old else ""), "bed": _bed(chunk, old, name)}
        if isinstance(read, Spoken):
            fields["paragraphs"] = _paragraphs(chunk.paragraphs, old, where)
        if isinstance(old, BreathSet) and isinstance(read, BreathSet):
            fields["style"] = _style(old, read)
        return (old or read).replace(**fields)
    except NotationError as fault:
        column = len(f"{chunk.kind}: ") + fault.column + 1 - len("rest ") * (chunk.kind == "Rest")
        raise InputError(f"{where}, column {column}", fault.problem, fault.remedy) from None
    except ValidationError as error:
        raise as_input_error(error, where) from None


def _kept(text: str, old: str) -> str:
    """A line of text; the old one where only spaces differ."""
    return old if spaced(old) == spaced(text) else text


def _style(old: BreathSet, read: BreathSet) -> Any:
    """The style that is written; what its notation leaves out is as it was."""
    rooms = {} if read.style.cue == "ahead" else {"cue_room": old.style.cue_room, "first_room": old.style.first_room}
    ahead = {} if read.style.announce_last else {"last_ahead": old.style.last_ahead}
    return read.style.replace(**rooms, **ahead)


def _noted(text: str) -> Block:
    """A block's notation, or its words as one types them."""
    try:
        return read_block(text)
    except NotationError:
        readings = interpret(text, whole=True).readings
        if not readings or len(readings[0].blocks) != 1:
            raise
        return readings[0].blocks[0]


def _paragraphs(words: Sequence[str], old: Block | None, where: str) -> tuple[str, ...]:
    """The paragraphs; those that stand unchanged as they were, with their own spaces."""
    if len(words) > MAX_PARAGRAPHS:
        raise InputError(where, f"has {len(words):,} paragraphs", f"keep a block within {MAX_PARAGRAPHS:,}")
    kept = {spaced(each): each for each in (old.paragraphs if isinstance(old, Spoken) else ())}
    return tuple(kept.get(each, each) for each in words)


def _values(keys: Sequence[Key], chunk: Chunk, usual: Any, name: str) -> dict[str, Any]:
    """The value of every key: as it is written, or the usual one."""
    known = {key.name: key for key in keys}
    values = {key.field: getattr(usual, key.field) for key in keys}
    for line, key, text in chunk.keys:
        if key in (MARK, "id", "bed"):
            if key == MARK and text != VERSION:
                raise InputError(f"{name}: line {line}", f"form {text!r} is not known here", "update Nafas to read it")
            continue
        if key not in known:
            raise InputError(f"{name}: line {line}", f"{key!r} is no key here", f"write one of {', '.join(known)}")
        try:
            values[known[key].field] = known[key].read(text)
        except ValueError as fault:
            problem, _, remedy = str(fault).partition("; ")
            raise InputError(f"{name}: line {line}", problem, remedy or "fix it") from None
    return values


def _bed(chunk: Chunk, old: Block | None, name: str) -> BlockBed | None:
    """What the block does with the bed; what the text says in the same words is kept, and another bed from there on."""
    was = old.bed if old is not None else None
    text = next((value for _, key, value in chunk.keys if key == "bed"), "")
    if text == bed_text(was):
        return was
    level = re.fullmatch(r"([-+\N{MINUS SIGN}]?\d+(?:[.,]\d+)?)\s*dB", text, re.IGNORECASE)
    if level is None and text.lower() not in ("", "off"):
        raise InputError(f"{name}: line {chunk.line}", f"the bed is {text!r}", "write off, or a level such as -3 dB")
    change = was.change if was is not None else None
    number = level[1].replace("\N{MINUS SIGN}", "-").replace(",", ".") if level is not None else 0
    return BlockBed(on=text.lower() != "off", level=float(number), change=change)


def _new_id(block: Block, chunk: Chunk, taken: set[str]) -> str:
    said = next((value for _, key, value in chunk.keys if key == "id"), "")
    if said:
        return said
    stem = {"breath": "set"}.get(block.kind, block.kind)
    number = 1
    while f"{stem}-{number}" in taken:
        number += 1
    return f"{stem}-{number}"
