"""Fields in the words of a series: "{day}", "{rounds}" and their like, filled for each variant."""

import re
from collections.abc import Mapping
from fractions import Fraction

from nafas.script.edits.rewording import reworded_block
from nafas.script.edits.session_edits import change, with_blocks
from nafas.script.model.blocks import BreathSet
from nafas.script.model.exact import decimal_text
from nafas.script.model.session import Session

FIELDS = {
    "day": "the number of the row, from 1",
    "days": "how many rows there are",
    "name": "the variant's name",
    "rounds": "rounds of the set, or of the next one",
    "count": "seconds a count of that set",
}
"""What stands between braces in talk and titles, and what it becomes."""
_FIELD = re.compile(r"\{([^{}]*)\}")


def has_fields(text: str) -> bool:
    """Whether a text has any of `FIELDS` in it."""
    return any(match[1] in FIELDS for match in _FIELD.finditer(text))


def filled(session: Session, day: int, days: int, name: str) -> Session:
    """The session with every field in its words filled.

    Args:
        session: of the variant, its rounds and counts as they are in it.
        day, days: the number of its row, and of rows.
        name: the variant's.

    Raises:
        ValueError: a field that is not known, or one of a set where no set follows.
    """
    own = {"day": str(day), "days": str(days), "name": name}
    blocks = []
    for place, block in enumerate(session.blocks):
        values = {**own, **_of_set(session, place)}
        blocks.append(reworded_block(block, lambda text, values=values: _put(text, values)))  # type: ignore[misc]
    title = _put(session.title, {**own, **_of_set(session, 0)})
    return change(with_blocks(session, blocks), title=title[:120])


def _of_set(session: Session, place: int) -> dict[str, str]:
    """Rounds and count of the set at a place, or of the next one after it."""
    for block in session.blocks[place:]:
        if isinstance(block, BreathSet):
            length = block.count_length or Fraction(session.count_length)
            return {"rounds": str(block.rounds), "count": decimal_text(length)}
    return {}


def _put(text: str, values: Mapping[str, str]) -> str:
    def value(match: re.Match[str]) -> str:
        field = match[1]
        if field not in FIELDS:
            raise ValueError(f"there is no field {{{field}}}; fields are {', '.join(f'{{{each}}}' for each in FIELDS)}")
        if field not in values:
            raise ValueError(f"no set follows {{{field}}}; put it before the set it speaks of")
        return values[field]

    return _FIELD.sub(value, text)
