"""All that belongs to one language, in one TOML file each: name, cues, phrases, typed words, what the review reads.

A language is its file's name, a code that num2words can count in and eSpeak can read. To add one: write its file with
`name`, `letters` and `[cues]`; `[phrases]`, `[typed.*]`, `[script]` and `[checks.*]` may follow, and `like` names
another language for all that a file does not say. `tests/timing/test_words.py` looks at every file.
"""

import tomllib
from collections.abc import Mapping, Sequence
from functools import cache
from importlib import resources
from typing import Any

_FIRST = ("en", "es", "fr", "it", "de", "hi")
"""Languages with words that practitioners use: offered before the others."""
_FILES = resources.files(__name__)
_CODES = sorted(file.name.removesuffix(".toml") for file in _FILES.iterdir() if file.name.endswith(".toml"))
LANGUAGES = (*_FIRST, *(code for code in _CODES if code not in _FIRST))
"""The codes of all languages that a session can be in."""
LIBRARY = ("en", "de", "es", "fr", "it", "pt", "hi")
"""Languages in which the library's sessions can be begun."""
READ = ("en", "de", "fr", "es", "it", "ru", "pt")
"""Languages whose words are read: typed ones by the quick entry, talk by the review."""


@cache
def _data(code: str) -> dict[str, Any]:
    data = tomllib.loads((_FILES / f"{code}.toml").read_text(encoding="utf-8"))
    return {**_data(data["like"]), **data} if "like" in data else data


def language_name(code: str) -> str:
    """The English name of one of `LANGUAGES`."""
    return str(_data(code)["name"])


def three_letters(code: str) -> str:
    """The three letters by which a file names one of `LANGUAGES` (ISO 639-2/T)."""
    return str(_data(code)["letters"])


def cues(code: str) -> tuple[str, ...]:
    """The plain cues of one of `LANGUAGES`: in, hold full, out, hold empty."""
    return tuple(_data(code)["cues"][key] for key in ("inhale", "hold_full", "exhale", "hold_empty"))


def phrases(code: str) -> Mapping[str, str]:
    """What a session says of its own accord in one of `LANGUAGES`; {} where the language has no phrases."""
    found: dict[str, str] = _data(code).get("phrases", {})
    return found


@cache
def handed(code: str) -> Mapping[str, str]:
    """What is written in what is handed over, in one of `LANGUAGES`; in English what the language has no words for."""
    own = _data(code).get("handed", {}) if code in LANGUAGES else {}
    return {key: str(own.get(key, words)) for key, words in _data("en")["handed"].items()}


def printed_cautions(code: str) -> Mapping[str, str]:
    """The usual cautions as they are printed in a language, by their keys in `CAUTIONS`; {} where it has none."""
    found: dict[str, str] = _data(code).get("handed", {}).get("cautions", {}) if code in LANGUAGES else {}
    return found


def library_words(code: str) -> Mapping[str, str]:
    """What the library says and is called in a language, by its English words; {} where it has none."""
    found: dict[str, str] = _data(code).get("library", {}) if code in LANGUAGES else {}
    return found


def number_words(code: str) -> tuple[str, ...]:
    """The words for 0 to 99, of a language that num2words cannot count in; () for any other."""
    return tuple(_data(code).get("numbers", ()))


def ratio_words(code: str) -> Mapping[str, Sequence[str]]:
    """Expressions for "twice as long as" by how many times ("2", "1/2"); {} where a language has none."""
    found: dict[str, list[str]] = _data(code).get("ratios", {})
    return found


def typed_words() -> list[tuple[str, str, str]]:
    """(kind, value, word) of all that producers type, English first; `value` is "" where a kind has but one."""
    return [
        (kind, "" if value == "any" else value, word)
        for code in READ
        for kind, values in _data(code).get("typed", {}).items()
        for value, words in values.items()
        for word in words
    ]


@cache
def other_names() -> Mapping[str, tuple[str, ...]]:
    """What patterns of the library are called elsewhere and in the languages of `READ`, by their own name."""
    found: dict[str, list[str]] = {}
    for code in READ:
        for name, others in _data(code).get("names", {}).items():
            found.setdefault(name, []).extend(others)
    return {name: tuple(others) for name, others in found.items()}


@cache
def script_words(code: str) -> Mapping[str, frozenset[str]]:
    """Words by which a written script is read, by what they say; {} for a language that is not in `READ`."""
    return {key: frozenset(words) for key, words in _data(code).get("script", {}).items()}


@cache
def read_words(code: str) -> dict[str, dict[str, tuple[str, ...]]]:
    """Regular expressions by which the review reads a language, by section and key; {} for one that is not read."""
    sections = _data(code).get("checks", {}) if code in LANGUAGES else {}
    return {section: {key: tuple(words) for key, words in rows.items()} for section, rows in sections.items()}
