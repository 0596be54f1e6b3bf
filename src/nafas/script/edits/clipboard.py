"""Blocks as text, to copy and paste between sessions; and any other text read as blocks."""

import json
from collections.abc import Sequence
from functools import cache

from pydantic import TypeAdapter, ValidationError

from nafas.errors import InputError
from nafas.script.model.blocks import Block, BreathSet, Talk
from nafas.script.model.sentences import MAX_PARAGRAPHS, split_paragraph, whole_letters
from nafas.script.model.session import FORMAT, MAX_BLOCKS, MAX_TEXT, Session
from nafas.script.notation.block import block_notation, read_block
from nafas.script.notation.tokens import NotationError

MIME = "application/x-nafas-blocks+json"


@cache
def _adapter() -> TypeAdapter[list[Block]]:
    return TypeAdapter(list[Block])


def blocks_json(session: Session, places: Sequence[int]) -> str:
    """Blocks, whole; a count length that is borrowed from a set left behind comes along as seconds."""
    kept: list[Block] = []
    for index in places:
        block = session.blocks[index]
        if isinstance(block, BreathSet) and block.count_from not in (None, *(b.id for b in kept)):
            block = block.model_copy(update={"count_from": None, "count_length": session.count_length_of(block)})
        kept.append(block)
    return json.dumps({"format": FORMAT, "blocks": _adapter().dump_python(kept, mode="json")}, ensure_ascii=False)


def blocks_text(session: Session, places: Sequence[int]) -> str:
    """The same to read, for other programs: notation, and the words of talk."""
    texts = []
    for index in places:
        block = session.blocks[index]
        words = "\n".join(getattr(block, "paragraphs", ()))
        texts.append(words if isinstance(block, Talk) else "\n".join(filter(None, [block_notation(block), words])))
    return "\n\n".join(texts)


def read_json(text: str) -> list[Block]:
    """Blocks that were copied. Raises InputError."""
    try:
        raw = json.loads(text)
        if not isinstance(raw, dict) or raw.get("format") != FORMAT:
            raise InputError("the clipboard", "holds blocks of another Nafas", "copy them again")
        return _adapter().validate_python(raw["blocks"])
    except (ValidationError, ValueError, KeyError, RecursionError):
        raise InputError("the clipboard", "holds no blocks that can be read", "copy them again") from None


def read_text(text: str) -> list[Block]:
    """Any text as blocks: a line of notation is a block of its own, everything between is talk. All of it is kept:
    long paragraphs and talk are divided.

    Raises:
        InputError: the text is empty, or more than a session can hold.
    """
    if len(text) > MAX_TEXT:
        raise InputError("the clipboard", f"holds {len(text):,} characters", f"paste at most {MAX_TEXT:,} at once")
    blocks: list[Block] = []
    paragraphs: list[str] = []

    def end_talk() -> None:
        for at in range(0, len(paragraphs), MAX_PARAGRAPHS):
            blocks.append(Talk(id="talk-1", paragraphs=tuple(paragraphs[at : at + MAX_PARAGRAPHS])))
        paragraphs.clear()

    for line in whole_letters(text).splitlines():
        words = " ".join(line.split())
        try:
            block = read_block(words)
        except NotationError:
            paragraphs += split_paragraph(words)
            continue
        end_talk()
        blocks.append(block)
    end_talk()
    if not blocks:
        raise InputError("the clipboard", "holds no text", "copy blocks, notation or words first")
    if len(blocks) > MAX_BLOCKS:
        problem = f"holds {len(blocks):,} blocks; a session has at most {MAX_BLOCKS:,}"
        raise InputError("the clipboard", problem, "paste fewer at once; nothing was pasted")
    return blocks
