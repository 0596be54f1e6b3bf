"""The lines of a written script: headings, what is wrapped brought together, times in the margin, marks of lists."""

import re
from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass, replace
from fractions import Fraction

from nafas.languages import READ, script_words
from nafas.script.notation.typed.vocabulary import Kind, known_words

_CLOCK = r"(?:\d{1,2}:)?\d{1,3}:\d{2}(?:[.,]\d{1,3})?"
_TIMED = re.compile(
    rf"^\s*[\[(]?\s*({_CLOCK})(?:\s*(?:-->|-+>?|–|—|→|to|bis)\s*({_CLOCK}))?\s*[\])]?(?:\s*[-–—:|]\s|\s+|$)"
)
_HEADING = re.compile(r"^\s{0,3}(#{1,6})\s+(.*?)\s*#*\s*$")
_UNDERLINE = re.compile(r"^\s{0,3}(={3,}|-{3,})\s*$")
_RULE = re.compile(r"^\s*(?:[-*_]\s*){3,}$")
_BULLET = re.compile(r"^\s*(?:[-*+•·▪–]|\d{1,2}[.)]|[a-z]\))\s+(?=\S)")
_TABLE_RULE = re.compile(r"^\s*\|?(?:\s*:?-{2,}:?\s*\|)+\s*:?-*:?\s*\|?\s*$")
_BOLD = re.compile(r"^\s*(\*\*|__)(.+?)\1:?\s*$")
_EMPHASIS = re.compile(r"(\*\*|__|(?<![\w*])\*(?=\S)|(?<!\w)_(?=\S))(.+?)\1(?![\w*])")
_LABEL = re.compile(r"^\s*([^\W\d_][\w .'-]{0,24}?)\s*:\s+(?=\S)")
_ENDS = tuple(".!?…:;\"'”’»)]")
LONGEST_TITLE = 120
"""Letters of a title; a longer heading is talk."""
_SURE_WORDS, _SURE_TIMES = 6, 3
"""Common words of a language in a text that is surely in it, and how many times those of any other (our own)."""
_WRAPPED, _SHORT, _SHORT_WORDS = 45, 60, 8


@dataclass(frozen=True)
class Line:
    """A line as it is read: one or several of the text.

    Attributes:
        first, end: lines of the text, from 0; `end` is the one after the last.
        text: without marks of headings, lists and emphasis, without its time and its speaker.
        level: of a heading, 1 to 6; 0 for words; -1 for a rule.
        listed: it is an item of a list, or a row of a table.
        alone: no line stands directly before or after it.
        at, until: seconds, where the margin says when it is said.
        speaker: who is to say it, where the text names somebody.
    """

    first: int
    end: int
    text: str
    level: int = 0
    listed: bool = False
    alone: bool = False
    at: Fraction | None = None
    until: Fraction | None = None
    speaker: str = ""


def lines_of(text: str, said: Collection[str] = ()) -> list[Line]:
    """The lines of a text that hold anything, in order; names before a colon in `said` are no speakers'."""
    raw = text.split("\n")
    timed = _are_timed(raw)
    speakers = _speakers(raw, timed) - set(said)
    lines: list[Line] = []
    for number, words in enumerate(raw):
        before = raw[number - 1] if number else ""
        after = raw[number + 1] if number + 1 < len(raw) else ""
        underline = _UNDERLINE.match(words)
        if underline and lines and lines[-1].end == number and before.strip() and _is_short(lines[-1].text):
            lines[-1] = replace(lines[-1], level=1 if underline[1][0] == "=" else 2, end=number + 1)
        elif words.strip() and not _TABLE_RULE.match(words):
            line = _line(number, words, timed, speakers)
            alone = not before.strip() and not after.strip()
            if lines and _goes_on(lines[-1], line):
                lines[-1] = replace(lines[-1], text=f"{lines[-1].text} {line.text}", end=number + 1)
            else:
                lines.append(replace(line, alone=alone))
    return lines


def _line(number: int, words: str, timed: bool, speakers: set[str]) -> Line:
    if _RULE.match(words):
        return Line(number, number + 1, "", -1)
    at = until = None
    match = _TIMED.match(words) if timed else None
    if match is not None:
        at, until = _seconds(match[1]), None if match[2] is None else _seconds(match[2])
        words = words[match.end() :]
    heading = _HEADING.match(words)
    if heading is not None and len(heading[2]) <= LONGEST_TITLE:
        return Line(number, number + 1, _plain(heading[2]), len(heading[1]), at=at, until=until)
    bold = _BOLD.match(words)
    if bold is not None and _is_short(bold[2]):
        return Line(number, number + 1, _plain(bold[2]), 3, at=at, until=until)
    listed = words.lstrip().startswith("|")
    if listed:
        words = " ".join(cell for cell in map(str.strip, words.strip().strip("|").split("|")) if cell)
    bullet = _BULLET.match(words)
    if bullet is not None:
        words, listed = words[bullet.end() :], True
    words = words.strip().removeprefix("> ")
    label = _LABEL.match(words)
    speaker = label[1] if label is not None and label[1] in speakers else ""
    words = words[label.end() :] if label is not None and speaker else words
    return Line(number, number + 1, _plain(words), 0, listed, False, at, until, speaker)


def _plain(words: str) -> str:
    return " ".join(_EMPHASIS.sub(r"\2", words).split())


def _is_short(words: str) -> bool:
    return len(words) <= _SHORT and len(words.split()) <= _SHORT_WORDS and not words.rstrip().endswith((".", ",", ";"))


def _goes_on(before: Line, line: Line) -> bool:
    """Whether a line is the rest of the one before, which was wrapped."""
    adjoins = before.end == line.first and not (before.level or line.level or line.listed or line.speaker)
    wrapped = len(before.text) >= _WRAPPED and not before.text.endswith(_ENDS)
    return adjoins and line.at is None and wrapped and line.text[:1].islower()


def _are_timed(raw: list[str]) -> bool:
    """Whether times stand in the margin: two lines or more begin with one, and they never go back."""
    times = [_seconds(match[1]) for words in raw if (match := _TIMED.match(words)) is not None]
    return len(times) > 1 and times == sorted(times) and times[-1] > times[0]


def _seconds(clock: str) -> Fraction:
    seconds = Fraction(0)
    for part in clock.replace(",", ".").split(":"):
        seconds = 60 * seconds + Fraction(part)
    return seconds


def _speakers(raw: list[str], timed: bool) -> set[str]:
    """Names that stand before a colon on two lines or more, and are no phase, no key and no other word that is read."""
    labels = Counter(
        match[1] for words in raw if (match := _LABEL.match(_TIMED.sub("", words) if timed else words)) is not None
    )
    return {label for label, count in labels.items() if count > 1 and not any(map(_is_read, label.lower().split()))}


def _is_read(word: str) -> bool:
    known = known_words().get(word)
    return known is not None and known.kind is not Kind.FILLER


def is_heading(line: Line) -> bool:
    """Whether a line without a mark is a heading: short, in capitals or with a colon at its end."""
    words = line.text
    if not _is_short(words) or line.listed or not any(letter.isalpha() for letter in words):
        return False
    return (words.isupper() and len(words) > 3) or (words.endswith(":") and len(words.split()) <= _SHORT_WORDS - 2)


def guess_language(text: str) -> str:
    """The language of `READ` that most of a text's words belong to; English where none do."""
    shares = _shares(text)
    return max(READ, key=lambda code: shares[code])


def sure_language(text: str) -> str | None:
    """The language of `READ` that a text is surely in; None where there are few words, or another comes near."""
    shares = _shares(text)
    first, second = sorted(READ, key=lambda code: -shares[code])[:2]
    return first if shares[first] >= _SURE_WORDS and shares[first] >= _SURE_TIMES * shares[second] else None


def _shares(text: str) -> dict[str, int]:
    """How many words of a text are common ones of each language."""
    words = Counter(re.findall(r"[^\W\d_]+", text[:200_000].lower()))
    return {code: sum(words[w] for w in script_words(code).get("common", ())) for code in READ}
