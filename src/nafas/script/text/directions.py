"""Notes to whoever makes the recording: `[pause 5]`, `(music fades out)`, `— 10 s —`, "Repeat eight times"."""

import re
from dataclasses import dataclass
from fractions import Fraction

from nafas.languages import READ, read_words, script_words
from nafas.script.notation.tokens import NotationError
from nafas.script.notation.typed.clauses import take_clauses
from nafas.script.notation.typed.lexer import plain, tokens_of
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.vocabulary import Kind, known_words

USUAL_PAUSE, LONG_PAUSE = Fraction(3), Fraction(8)
"""Seconds of a pause whose length is not written (our own)."""
A_REST = Fraction(15)
"""Seconds from which a silence is natural breath by itself rather than a pause in talk (our own)."""
_MOST_WORDS, _MOST_UNKNOWN = 16, 2
_REPEATS = ("rep", "rép", "rip", "wieder", "повт")
_UNITS = {Kind.SECONDS: 1, Kind.MINUTES: 60, Kind.HOURS: 3600}


@dataclass(frozen=True)
class Pause:
    """Seconds of silence; `assumed` where their number is not written."""

    seconds: Fraction
    assumed: bool = False


@dataclass(frozen=True)
class Music:
    """The bed comes, or goes, from here on."""

    on: bool


@dataclass(frozen=True)
class Bell:
    """A bell is struck."""


@dataclass(frozen=True)
class Repeat:
    """What was breathed goes on.

    Attributes:
        rounds: so many; or
        seconds: for so long.
        more: they come on top of those that are written; None where that is not said.
        alone: without the voice.
        sure: hardly any word of the sentence means something else.
        begins_again: it says "repeat", and not "continue".
    """

    rounds: int | None
    seconds: Fraction | None
    more: bool | None
    alone: bool
    sure: bool
    begins_again: bool = False


def _said(word: str, what: str) -> bool:
    return any(word in script_words(code).get(what, ()) for code in READ)


def _words(text: str) -> list[str]:
    return re.findall(r"[^\W\d_]+(?:['’][^\W\d_]+)?", text.lower())


def read_direction(text: str) -> Pause | Music | Bell | Repeat | None:
    """A note in brackets, or between dashes, by its words in any of the languages that are read; None for others."""
    words = _words(text)
    if len(words) > _MOST_WORDS:
        return None
    if any(_said(word, "music") for word in words):
        return Music(not any(_said(word, "ends") for word in words))
    seconds = length_in(text)
    kinds = {known.kind for word in words if (known := known_words().get(word)) is not None}
    if re.search(r"[x×]\s*\d|\d\s*[x×]", text.lower()) and not kinds & set(_UNITS):
        return read_repeat(text, bare=True)
    breathed = kinds & {Kind.PHASE, Kind.ROUNDS, Kind.TIMES, Kind.STROKES, Kind.FAMILY}
    silent = Kind.REST in kinds or any(_said(word, "pause") for word in words)
    if not breathed and (silent or (seconds is not None and len(words) <= 2)) and not _mostly_talk(words):
        long = any(_said(word, "long") for word in words)
        return Pause(seconds or (LONG_PAUSE if long else USUAL_PAUSE), seconds is None)
    if any(re.search(rf"\b{bell}\b", text, re.IGNORECASE) for code in READ for bell in _bells(code)):
        return Bell() if len(words) <= 3 else None
    return read_repeat(text, bare=True)


def _bells(code: str) -> tuple[str, ...]:
    return read_words(code).get("listener", {}).get("bell", ())


def _mostly_talk(words: list[str]) -> bool:
    """Whether a note is a sentence: more than two of its words are no words of a note."""
    keys = ("pause", "long", "alike", "alone")
    return sum(w not in known_words() and not any(_said(w, key) for key in keys) for w in words) > _MOST_UNKNOWN


def length_in(text: str) -> Fraction | None:
    """The length that is written in a note; a bare number is seconds."""
    tokens = tokens_of(plain(text))
    found: Fraction | None = None
    for token, after in zip(tokens, [*tokens[1:], None]):
        if token.kind is Kind.TIME:
            found = (found or 0) + token.number
        elif token.kind is Kind.NUMBER:
            found = (found or 0) + token.number * _UNITS.get(after.kind if after else Kind.SECONDS, 1)
    return found if found is None or 0 < found <= 3600 else None


def read_repeat(sentence: str, bare: bool = False) -> Repeat | None:
    """A sentence by which what was breathed goes on: "Repeat eight times", "two more minutes"; None for others.

    Args:
        sentence: of any of the languages that are read.
        bare: `x6` or "six times" alone are enough.
    """
    words = _words(sentence)
    if len(words) > _MOST_WORDS:
        return None
    goes_on = [w for w in words if _said(w, "repeat")]
    more = any(_said(word, "more") for word in words)
    if not (goes_on or more or bare):
        return None
    text = plain(sentence)
    kept = [t for t in tokens_of(text) if not _said(text[t.begin : t.end].lower(), "more")]
    kept = [t for t in kept if not t.is_mark(".", "!", ",", "…", ":")]
    line = Line(text, [t for t in kept if not (t.value == "repeat" and t.kind is Kind.FILLER)])
    try:
        clauses = take_clauses(line)
    except NotationError:
        return None
    if clauses.rounds is None and clauses.lasts is None and len(words) <= 3:
        left = [w for w in words if not (_said(w, "again") or _said(w, "alike") or _fills(w) or _is_times(w))]
        return Repeat(1, None, True, False, True) if any(_said(w, "again") for w in words) and not left else None
    numbers = [token for token in line.tokens if token.kind is Kind.NUMBER and token.number.denominator == 1]
    if more and len(numbers) == 1 and clauses.rounds is None and clauses.lasts is None:  # "five more like that"
        line.tokens.remove(numbers[0])
        clauses.rounds = int(numbers[0].number)
    if (clauses.rounds is None) == (clauses.lasts is None):
        return None
    rest = [text[t.begin : t.end].lower() for t in line.tokens if t.kind is not Kind.MARK]
    alone = any(_said(word, "alone") for word in words)
    known = ("repeat", "alone", "alike", "more")
    odd = [w for w in rest if not any(_said(w, key) for key in known) and not _fills(w)]
    if len(odd) > _MOST_UNKNOWN or any(token.kind is Kind.NUMBER for token in line.tokens):
        return None
    on_top = True if more else None
    begins_again = any(word.startswith(_REPEATS) for word in goes_on)
    return Repeat(clauses.rounds, clauses.lasts, on_top, alone, not odd, begins_again)


def _is_times(word: str) -> bool:
    known = known_words().get(word)
    return known is not None and known.kind is Kind.TIMES


def _fills(word: str) -> bool:
    known = known_words().get(word)
    return known is not None and known.kind in (Kind.FILLER, Kind.FOR, Kind.PER, Kind.ROUNDS, Kind.COUNTING, Kind.REST)
