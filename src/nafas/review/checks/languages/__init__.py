"""Words by language that the checks read by: regular expressions in one TOML file a language, for speakers to fix.

English is whole; the others reach as far as their tables go.
"""

import re
import tomllib
from functools import cache
from importlib import resources

READ = ("en", "de", "fr", "es", "it", "ru")
"""Languages whose words are read."""


@cache
def table(language: str) -> dict[str, dict[str, tuple[str, ...]]]:
    """The alternatives of a language by section and key; {} for one that is not read."""
    if language not in READ:
        return {}
    file = resources.files(__name__) / f"{language}.toml"
    data = tomllib.loads(file.read_text(encoding="utf-8"))
    return {section: {key: tuple(words) for key, words in rows.items()} for section, rows in data.items()}


@cache
def words(language: str, section: str, key: str, stem: bool = False) -> re.Pattern[str] | None:
    """One pattern of all alternatives, whole words unless `stem`; None where the language has none."""
    value = table(language).get(section, {}).get(key)
    if not value:
        return None
    alternatives = "|".join(value)
    return re.compile(alternatives if stem else rf"\b(?:{alternatives})\b", re.IGNORECASE)


def names(language: str, section: str, key: str, text: str, stem: bool = False) -> bool:
    """Whether a text holds any of the alternatives."""
    value = words(language, section, key, stem)
    return value is not None and value.search(text) is not None
