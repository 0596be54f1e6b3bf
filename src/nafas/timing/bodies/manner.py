"""How a set is led: all that its rounds have in common."""

from typing import NamedTuple

from nafas.script.model.blocks import CountStyle
from nafas.script.words.lexicon import Lexicon


class Manner(NamedTuple):
    """A set's style, whether it has chimes, whether it is only thought of, and its words."""

    style: CountStyle
    chimes: bool
    mind: bool
    lexicon: Lexicon
