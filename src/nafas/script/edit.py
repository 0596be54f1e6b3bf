"""Edits of a session: each takes one and gives a new one, checked as a whole."""

import os
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from nafas.script.blocks import Block, BreathSet, Rest, Strokes, Talk
from nafas.script.session import Session


def change(session: Session, **fields: Any) -> Session:
    """The session with these fields changed. Raises pydantic.ValidationError (a ValueError)."""
    return Session.model_validate(_fields(session) | fields)


def change_block(session: Session, index: int, **fields: Any) -> Session:
    """The session with fields of one block changed. Raises IndexError, or ValueError for a bad value."""
    block = session.blocks[index]
    new = type(block).model_validate(_fields(block) | fields)
    return with_blocks(session, [*session.blocks[:index], new, *session.blocks[index + 1 :]])


def with_blocks(session: Session, blocks: Sequence[Block]) -> Session:
    """The session with other blocks. A set whose earlier set is gone keeps the count length it had from it."""
    before: set[str] = set()
    kept = []
    for block in blocks:
        if isinstance(block, BreathSet):
            if block.count_from is not None and block.count_from not in before and block.id in session.count_lengths:
                own = {"count_from": None, "count_length": session.count_lengths[block.id]}
                block = block.model_copy(update=own)
            before.add(block.id)
        kept.append(block)
    return change(session, blocks=tuple(kept))


def insert_block(session: Session, index: int, block: Block) -> Session:
    """The session with `block` before place `index`, its id made unique."""
    block = block.model_copy(update={"id": free_id(session, block.id)})
    return with_blocks(session, [*session.blocks[:index], block, *session.blocks[index:]])


def remove_block(session: Session, index: int) -> Session:
    """The session without block `index`."""
    return with_blocks(session, [*session.blocks[:index], *session.blocks[index + 1 :]])


def move_block(session: Session, index: int, to: int) -> Session:
    """The session with block `index` standing at place `to`."""
    blocks = list(session.blocks)
    blocks.insert(to, blocks.pop(index))
    return with_blocks(session, blocks)


def free_id(session: Session, wanted: str) -> str:
    """`wanted`, or with a number after it where that id is taken."""
    taken = {block.id for block in session.blocks}
    if wanted not in taken:
        return wanted
    stem = re.sub(r"-\d+$", "", wanted)[:34]
    number = 2
    while f"{stem}-{number}" in taken:
        number += 1
    return f"{stem}-{number}"


def block_name(block: Block) -> str:
    """What to call a block in a list: its title, or what it is."""
    if block.title:
        return block.title
    if isinstance(block, BreathSet):
        return str(block.pattern.model_dump())
    if isinstance(block, Rest):
        return "Natural breath"
    if isinstance(block, Strokes):
        return f"{'Rapid exhale' if block.form == 'rapid' else 'Bellows'}, {block.strokes} strokes"
    assert isinstance(block, Talk)
    first = next((sentence for paragraph in block.lines for sentence in paragraph), "")
    return first if len(first) <= 40 else first[:37].rsplit(" ", 1)[0] + "…"


def _fields(model: Session | Block) -> dict[str, Any]:
    # Values as they are, not dumped: unchanged parts are reused, so an edit stays cheap.
    return {name: getattr(model, name) for name in type(model).model_fields}


def rebase_assets(session: Session, old: Path, new: Path) -> Session:
    """The session with its relative asset paths written for a session file in another folder."""
    book = session.voice.take_book
    if book is None or old.resolve() == new.resolve():
        return session
    path = os.path.relpath((old / book.path).resolve(), new.resolve())
    asset = book.model_copy(update={"path": Path(path).as_posix()})
    return change(session, voice=session.voice.model_copy(update={"take_book": asset}))
