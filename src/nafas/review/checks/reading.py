"""Sentences read for numbers: words and digits alike, in the languages whose words are known here."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

from nafas.languages import read_words
from nafas.script.words.lexicon import count_word

_TOKEN = re.compile(r"\d+(?:[.,]\d+)?|[^\W\d_]+|[^\w\s]")
_INSIDE = "-’'‐"
"""Marks that join two words: "twenty-five", "five-minute"."""
_HIGHEST = 100
_LONGEST = 5
"""Words that a number below a hundred may have."""
_MORE = {
    # Forms that num2words does not give: genders, cases and short forms, from memory.
    "de": {"ein": 1, "eine": 1, "einen": 1, "einer": 1, "zwo": 2},
    "fr": {"une": 1},
    "es": {"un": 1, "una": 1},
    "it": {"un": 1, "una": 1},
    "pt": {"uma": 1, "duas": 2},
    "ru": {"одна": 1, "одну": 1, "две": 2, "двух": 2, "трех": 3, "трёх": 3, "четырех": 4, "четырёх": 4, "пяти": 5,
           "шести": 6, "семи": 7, "восьми": 8, "девяти": 9, "десяти": 10},
    "en": {"twice": 2, "thrice": 3},
}  # fmt: skip


_UNCOUNTED = frozenset(
    "paar bisschen wenig drittel drittels viertel par poco poquito tercio tercios cuarto cuartos peu peine tiers quart "
    "quarts po paio terzo terzi quarto quarti pouco bocado terço terços quartos couple third thirds quarter quarters "
    "пара пару трети четверти".split()
)
"""Words before which a number counts nothing: "ein paar", "un poco", "due terzi"."""


_ARTICLES = frozenset("ein eine einen einer un une una um uma".split())


@dataclass(frozen=True)
class Token:
    """A word, a number or a mark: `text` lower-case (a number in digits), and from where to where it stands."""

    text: str
    begin: int
    end: int
    number: float | None = None


@dataclass(frozen=True)
class Sentence:
    """A sentence taken apart. `plain` is its tokens with a space between; `spans` says where each stands in it."""

    text: str
    tokens: tuple[Token, ...]
    plain: str
    starts: tuple[int, ...]

    def token_at(self, index: int) -> Token:
        """The token that begins at a place of `plain`."""
        return self.tokens[self.starts.index(index)]


@cache
def _numbers(language: str) -> dict[tuple[str, ...], int]:
    words: dict[tuple[str, ...], int] = {}
    for number in range(_HIGHEST + 1):
        split = tuple(token.lower() for token in re.findall(r"[^\W\d_]+", count_word(number, language)))
        words.setdefault(split, number)
        words.setdefault(tuple(word for word in split if word not in ("and", "und", "et", "y", "e")), number)
    for form, number in _MORE.get(language, {}).items():
        words[form,] = number
    words.pop((), None)
    return words


@cache
def _units(language: str) -> re.Pattern[str]:
    rows = read_words(language).get("promises", {})
    keys = (
        "rounds",
        "times",
        "breaths",
        "strokes",
        "sets",
        "minutes",
        "seconds",
        "plain_breaths",
        "round_like",
        "tail",
    )
    return re.compile("|".join(word for key in keys for word in rows.get(key, ())) or "(?!)", re.IGNORECASE)


def _is_article(after: Sequence[tuple[str, int, int]], language: str) -> bool:
    """Whether "ein", "un" or the like before a word is no number: a unit of breathing or a number makes it one."""
    word = after[0][0] if after else ""
    return word[:1].isalpha() and not _units(language).fullmatch(word) and (word,) not in _numbers(language)


def _joins(text: str, at: int) -> bool:
    """Whether a mark stands inside a word."""
    return text[at] in _INSIDE and text[at - 1 : at].isalpha() and text[at + 1 : at + 2].isalpha()


@cache
def read(text: str, language: str) -> Sentence:
    """A sentence with its numbers read. `language`: a code whose words num2words knows."""
    raw = [(m.group().lower(), m.start(), m.end()) for m in _TOKEN.finditer(text) if not _joins(text, m.start())]
    numbers = _numbers(language)
    tokens: list[Token] = []
    at = 0
    while at < len(raw):
        word, begin, end = raw[at]
        if word[0].isdigit():
            tokens.append(Token(word.replace(",", "."), begin, end, float(word.replace(",", "."))))
            at += 1
            continue
        for count in range(min(_LONGEST, len(raw) - at), 0, -1):
            value = numbers.get(tuple(part[0] for part in raw[at : at + count]))
            if count == 1 and word in _ARTICLES and _is_article(raw[at + 1 : at + 2], language):
                continue
            if value is not None and not {part[0] for part in raw[at + count : at + count + 1]} & _UNCOUNTED:
                tokens.append(Token(str(value), begin, raw[at + count - 1][2], float(value)))
                at += count
                break
        else:
            tokens.append(Token(word, begin, end))
            at += 1
    starts, plain = [], ""
    for token in tokens:
        starts.append(len(plain))
        plain += token.text + " "
    return Sentence(text, tuple(tokens), plain, tuple(starts))


def number_like(value: int, sample: str, language: str) -> str:
    """A number written as another is: in digits, or in words, with its capital."""
    if sample[:1].isdigit():
        return str(value)
    word = count_word(value, language)
    return word.capitalize() if sample[:1].isupper() else word
