"""Blocks as text, to copy and paste between sessions; and any other text read as blocks."""

import json
from collections.abc import Sequence
from functools import cache

from pydantic import TypeAdapter, ValidationError

from nafas.errors import InputError
from nafas.script.blocks import Block, BreathSet, Talk
from nafas.script.entry import block_notation, read_block
from nafas.script.session import FORMAT, MAX_BLOCKS, Session
from nafas.script.tokens import NotationError

MIME = "application/x-nafas-blocks+json"
_LONGEST = 2_000_000


@cache
def _adapter() -> TypeAdapter[list[Block]]:
    return TypeAdapter(list[Block])


def blocks_json(session: Session, places: Sequence[int]) -> str:
    """Blocks, whole; a count length that is borrowed from a set left behind comes along as seconds."""
    kept: list[Block] = []
    for place in places:
        block = session.blocks[place]
        if isinstance(block, BreathSet) and block.count_from not in (None, *(b.id for b in kept)):
            block = block.model_copy(update={"count_from": None, "count_length": session.count_length_of(block)})
        kept.append(block)
    return json.dumps({"format": FORMAT, "blocks": _adapter().dump_python(kept, mode="json")}, ensure_ascii=False)


def blocks_text(session: Session, places: Sequence[int]) -> str:
    """The same to read, for other programs: notation, and the words of talk."""
    texts = []
    for place in places:
        block = session.blocks[place]
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
    """Any text as blocks: a line of notation is a block of its own, everything between is talk.

    Raises:
        InputError: the text is empty, or too long to be meant.
    """
    if len(text) > _LONGEST:
        raise InputError("the clipboard", f"holds {len(text)} characters", "paste less at once")
    found: list[Block] = []
    paragraphs: list[str] = []

    def end_talk() -> None:
        if paragraphs:
            found.append(Talk(id="talk-1", paragraphs=tuple(paragraphs)))
            paragraphs.clear()

    for line in text.splitlines():
        words = " ".join(line.split())
        try:
            block = read_block(words)
        except NotationError:
            if words:
                paragraphs.append(words[:4000])
            if len(paragraphs) == 200:
                end_talk()
            continue
        end_talk()
        found.append(block)
    end_talk()
    if not found:
        raise InputError("the clipboard", "holds no text", "copy blocks, notation or words first")
    return found[:MAX_BLOCKS]
