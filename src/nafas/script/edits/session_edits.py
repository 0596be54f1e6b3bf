"""Edits of a session: each takes one and gives a new one, checked as a whole."""

import os
import re
from collections.abc import Collection, Sequence
from pathlib import Path
from typing import Any

from nafas.files import real_path
from nafas.languages import handed
from nafas.script.model.assets import Asset, with_assets
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes, Talk
from nafas.script.model.sentences import MAX_PARAGRAPHS
from nafas.script.model.session import Session, SetAside
from nafas.script.notation.block import block_notation


def change(session: Session, **fields: Any) -> Session:
    """The session with these fields changed. Raises pydantic.ValidationError (a ValueError)."""
    return session.replace(**fields)


def change_block(session: Session, index: int, **fields: Any) -> Session:
    """The session with fields of one block changed. Raises IndexError, or ValueError for a bad value."""
    block = session.blocks[index]
    new = block.replace(**fields)
    return with_blocks(session, [*session.blocks[:index], new, *session.blocks[index + 1 :]])


def write_talk(session: Session, index: int, paragraphs: Sequence[str]) -> Session:
    """The session with other words in a talk block; those that it has no room for are in talk blocks after it.

    Raises:
        ValueError: a paragraph, or the whole, is longer than a session can hold.
    """
    parts = [tuple(paragraphs[at : at + MAX_PARAGRAPHS]) for at in range(0, len(paragraphs), MAX_PARAGRAPHS)] or [()]
    whole = session.blocks[index]
    assert isinstance(whole, Talk)
    blocks = [whole.replace(title=whole.title if part is parts[0] else "", paragraphs=part) for part in parts]
    for block, after in zip(blocks, range(1, len(blocks))):
        blocks[after - 1] = block.replace(pause_after=whole.paragraph_pause)
    session = with_blocks(session, [*session.blocks[:index], blocks[0], *session.blocks[index + 1 :]])
    return insert_blocks(session, index + 1, blocks[1:])


def with_set_aside(session: Session, key: str, reason: str) -> Session:
    """The session with a finding set aside for a reason; "" takes it up again. Raises ValueError for a reason of more
    than a line."""
    kept = [each for each in session.set_aside if each.finding != key]
    if reason.strip():
        kept.append(SetAside(finding=key, reason=" ".join(reason.split())))
    return change(session, set_aside=tuple(kept))


def with_blocks(session: Session, blocks: Sequence[Block]) -> Session:
    """The session with other blocks. A set whose earlier set is gone keeps the count length it had from it."""
    borrowed = {block.id: block.count_from for block in session.blocks if isinstance(block, BreathSet)}
    before: set[str] = set()
    kept = []
    for block in blocks:
        if isinstance(block, BreathSet):
            lender = block.count_from
            if lender is not None and lender not in before and borrowed.get(block.id) == lender:
                own = {"count_from": None, "count_length": session.count_lengths[block.id]}
                block = block.model_copy(update=own)
            before.add(block.id)
        kept.append(block)
    return change(session, blocks=tuple(kept))


def insert_block(session: Session, index: int, block: Block) -> Session:
    """The session with `block` before place `index`, its id made unique."""
    return insert_blocks(session, index, [block])


def insert_blocks(session: Session, index: int, blocks: Sequence[Block]) -> Session:
    """The session with blocks before place `index`, their ids made unique; those that refer to each other still do."""
    taken = {block.id for block in session.blocks}
    names: dict[str, str] = {}
    added: list[Block] = []
    for block in blocks:
        names[block.id] = _free(block.id, taken)
        taken.add(names[block.id])
        changed: dict[str, object] = {"id": names[block.id]}
        if isinstance(block, BreathSet) and block.count_from in names:
            changed["count_from"] = names[block.count_from]
        added.append(block.model_copy(update=changed))
    return with_blocks(session, [*session.blocks[:index], *added, *session.blocks[index:]])


def remove_blocks(session: Session, places: Collection[int]) -> Session:
    """The session without the blocks at these places."""
    return with_blocks(session, [block for position, block in enumerate(session.blocks) if position not in places])


def move_blocks(session: Session, places: Collection[int], before: int) -> Session:
    """The session with some blocks, in their order, standing before the block that is now at `before`."""
    moved = [session.blocks[position] for position in sorted(places)]
    head = [block for position, block in enumerate(session.blocks[:before]) if position not in places]
    tail = [block for position, block in enumerate(session.blocks) if position >= before and position not in places]
    return with_blocks(session, [*head, *moved, *tail])


def find_text(session: Session, text: str) -> list[int]:
    """Places of the blocks in which `text` stands, in titles, words or notation; case is nothing."""
    wanted = text.casefold().strip()
    if not wanted:
        return []
    places = []
    for position, block in enumerate(session.blocks):
        words = [block.title, block_name(block), block_notation(block), *getattr(block, "paragraphs", ())]
        words += [getattr(block, name, "") for name in ("ease_words", "recovery_words")]
        if any(wanted in each.casefold() for each in words):
            places.append(position)
    return places


def _free(wanted: str, taken: Collection[str]) -> str:
    """`wanted`, or with a number after it where that id is taken."""
    if wanted not in taken:
        return wanted
    stem = re.sub(r"-\d+$", "", wanted)[:34]
    number = 2
    while f"{stem}-{number}" in taken:
        number += 1
    return f"{stem}-{number}"


def block_name(block: Block, language: str = "en") -> str:
    """What to call a block in a list: its title, or what it is in the words of a language."""
    if block.title:
        return block.title
    if isinstance(block, BreathSet):
        return str(block.pattern.model_dump())
    if isinstance(block, Rest):
        return handed(language)["natural"]
    if isinstance(block, Strokes):
        return handed(language)[f"{block.form}_set"].format(n=block.strokes)
    assert isinstance(block, Talk)
    first = next((sentence.text for paragraph in block.lines for sentence in paragraph), "")
    return first if len(first) <= 40 else first[:37].rsplit(" ", 1)[0] + "…"


def rebase_assets(session: Session, old: Path, new: Path) -> Session:
    """The session with its relative asset paths written for a session file in another folder."""
    if real_path(old) == real_path(new):
        return session

    def moved(asset: Asset) -> Asset:
        path = os.path.relpath(real_path(old / asset.path), real_path(new))
        return asset.model_copy(update={"path": Path(path).as_posix()})

    return with_assets(session, moved)
