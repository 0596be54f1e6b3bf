"""A session as a text that people like to read and edit (`own` reads it again)."""

from collections.abc import Sequence
from typing import Any

from nafas.script.model.blocks import Block, BreathSet, Spoken, Strokes
from nafas.script.model.session import Session
from nafas.script.notation.block import block_notation, read_block
from nafas.script.text.keys import (
    BLOCK_KEYS,
    ESCAPED,
    KINDS,
    MARK,
    RULE,
    SESSION_KEYS,
    USUAL,
    VERSION,
    Key,
    bed_text,
    spaced,
)


def written_text(session: Session) -> str:
    """The script of a session as text: title, language, lengths, and every block with all its words.

    Beds, the voice and the other settings are not in it.
    """
    usual = Session()
    lines = [f"# {spaced(session.title)}", f"{MARK}: {VERSION}", f"language: {session.language}"]
    lines += _key_lines(SESSION_KEYS[1:], session, usual)
    lenders = {block.count_from for block in session.blocks if isinstance(block, BreathSet)}
    for block in session.blocks:
        lines += ["", f"## {title}" if (title := spaced(block.title)) else RULE]
        kind = next((name for name, type_ in KINDS.items() if isinstance(block, type_)), "")
        if kind:
            lines.append(f"{kind}: {block_notation(block).removeprefix('rest ')}")
        if block.id in lenders:
            lines.append(f"id: {block.id}")
        lines += _key_lines(BLOCK_KEYS[type(block)], block, _usual(block))
        lines += [f"bed: {text}"] if (text := bed_text(block.bed)) else []
        for paragraph in block.paragraphs if isinstance(block, Spoken) else ():
            words = spaced(paragraph)
            lines += ["", f"\\{words}" if ESCAPED.match(words) or not words else words]
    return "\n".join(lines) + "\n"


def _usual(block: Block) -> Block:
    """A block of the same kind with nothing but what its notation says."""
    return USUAL.get(type(block)) or read_block("rapid 1" if isinstance(block, Strokes) else "4-4")


def _key_lines(keys: Sequence[Key], model: Any, usual: Any) -> list[str]:
    return [
        f"{key.name}: {spaced(key.write(value))}"
        for key in keys
        if (value := getattr(model, key.field)) != getattr(usual, key.field)
    ]
