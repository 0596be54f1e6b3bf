"""Blocks as text, to copy and paste between sessions."""

import json
from collections.abc import Sequence
from functools import cache

from pydantic import TypeAdapter, ValidationError

from nafas.errors import InputError
from nafas.script.model.blocks import Block, BreathSet, Talk
from nafas.script.model.session import FORMAT, Session
from nafas.script.notation.block import block_notation

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
