"""Patterns that the checks read by, made of the words of a language (`languages/*.toml`).

English is complete; the others reach as far as their tables go.
"""

import re
from functools import cache

from nafas.languages import read_words

_LETTER = r"[\w\u0900-\u0dff]"
"""Part of a word; Indian vowel signs are none to the regular expressions' own idea of it."""


@cache
def words(language: str, section: str, key: str, stem: bool = False) -> re.Pattern[str] | None:
    """One pattern of all alternatives, whole words unless `stem`; None where the language has none."""
    value = read_words(language).get(section, {}).get(key)
    if not value:
        return None
    alternatives = "|".join(value)
    return re.compile(alternatives if stem else rf"(?<!{_LETTER})(?:{alternatives})(?!{_LETTER})", re.IGNORECASE)


def names(language: str, section: str, key: str, text: str, stem: bool = False) -> bool:
    """Whether a text holds any of the alternatives."""
    pattern = words(language, section, key, stem)
    return pattern is not None and pattern.search(text) is not None
