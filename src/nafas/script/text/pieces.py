"""What each part of a written text is, before blocks are made of it."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from itertools import takewhile
from typing import Literal

from nafas.languages import other_names, script_words
from nafas.script.model.blocks import BreathSet, Rest, Strokes
from nafas.script.model.sentences import sentences
from nafas.script.notation.typed.interpret import Reading, interpret
from nafas.script.notation.typed.vocabulary import Kind, known_words, number_words
from nafas.script.text.counting import Called, read_counting
from nafas.script.text.directions import Bell, Music, Pause, Repeat, read_direction, read_repeat
from nafas.script.text.lines import Line, is_heading

_NOTE = re.compile(
    r"\[([^\[\]\n]{1,160})\]|\(([^()\n]{1,160})\)|(?<![\w-])[—–]{1,3}\s*(\d[^—–\n]{0,30}?)\s*[—–]{1,3}(?!\w)"
)
_DASHED = re.compile(r"^\s*(?:[-—–~=*.…]{1,3}\s*)(.{1,60}?)(?:\s*[-—–~=*.…]{1,3})\s*$")
_SENTENCES_OF_A_SET = 60
_LONGEST_NOTATION = 160
_ROW = re.compile(r"\d\s*[-–/]\s*\d")
_STEP = re.compile(r"^([^\W\d_]+ \d{1,2})\s*[-–—.:)]+\s+")
_SOON = 6  # parts after the name of a breath in which it is counted
_TITLE = 5  # words of a title before a colon
_MOST_PHASES, _LONGEST_PHASE = 6, 60
_MOST_UNUSED = 2
"""Words around a row of numbers that is a breath all the same: \"Ahora 4-6 x8\"."""
_READ_IN_COUNTING = (
    Kind.PHASE, Kind.REST, Kind.FILLER, Kind.SIDE, Kind.ROUTE, Kind.FULLNESS, Kind.FOR, Kind.COUNTING, Kind.AT,
    Kind.THEN, Kind.TO,
)  # fmt: skip

_LENGTHS = (Kind.NUMBER, Kind.MINUTES, Kind.HOURS)

What = Literal["heading", "rule", "talk", "note", "counted", "set", "phase", "pause", "music", "bell", "repeat"]


@dataclass(frozen=True)
class Part:
    """A part of a text.

    Attributes:
        what: it is; "note": an unknown one in brackets; "phase": one phase of a round that goes on in other lines.
        line: the line it is in.
        text: as written.
        called, reading, direction: what was read, by `what`.
        sure: of a set: the line is nothing but that.
        breathed: it has been said already, and is breathed now.
    """

    what: What
    line: Line
    text: str
    called: tuple[Called, ...] = ()
    reading: Reading | None = None
    direction: Pause | Music | Bell | Repeat | None = None
    sure: bool = True
    breathed: bool = False


def parts_of(lines: Sequence[Line], language: str) -> list[Part]:
    """All parts of a text, in order."""
    parts = [
        replace(part, line=line)
        for line in lines
        for part in _kept_parts(Line(0, 1, line.text, line.level, line.listed), language)
    ]
    return [
        Part("heading", part.line, part.text) if _names_what_follows(part, parts[at + 1 :][:_SOON]) else part
        for at, part in enumerate(parts)
    ]


def _names_what_follows(part: Part, after: Sequence[Part]) -> bool:
    """Whether a line is the name of a breath that is counted, or written with its numbers, soon after it."""
    if not part.line.alone or part.line.listed or part.text != part.line.text or _counts(part.text):
        return False
    words = part.text.lower()
    family = part.what == "set" and any(_is(word, Kind.FAMILY) for word in words.split())
    if not (family or (part.what in ("talk", "set") and words in _names())):
        return False
    ahead = takewhile(lambda each: each.what not in ("heading", "rule"), after)
    first = next((each for each in ahead if each.what in ("counted", "set", "phase")), None)
    return first is not None and (first.what != "set" or _counts(first.text))


def _is(word: str, *kinds: Kind) -> bool:
    known = known_words().get(word)
    return known is not None and known.kind in kinds


@cache
def _names() -> set[str]:
    """Every name of a pattern of the library, in every language."""
    return {name.lower() for own, others in other_names().items() for name in (own, *others)}


@lru_cache(4096)
def _kept_parts(line: Line, language: str) -> tuple[Part, ...]:
    """The parts of a line, kept: while a text is being edited most of its lines stay."""
    return tuple(_line_parts(line, language))


def _line_parts(line: Line, language: str) -> list[Part]:
    if line.level:
        return [Part("rule" if line.level < 0 else "heading", line, line.text)]
    if not line.text:
        return []
    dashed = _DASHED.match(line.text)
    if dashed is not None and (direction := read_direction(dashed[1])) is not None:
        return [_directed(line, line.text, direction)]
    enclosed = line.text[0] in "[(" and line.text[-1] in "])"
    if enclosed and read_direction(line.text[1:-1]) is None:
        typed = _typed(replace(line, text=line.text[1:-1].strip(), listed=True))
    else:
        typed = [] if enclosed else _numbered(line) or _typed(line)
    if typed:
        return typed
    if is_heading(line) and not enclosed and not read_counting(line.text, language):
        return [Part("heading", line, line.text.rstrip(":").strip())]
    parts: list[Part] = []
    at = 0
    for match in _NOTE.finditer(line.text):
        words = next(group for group in match.groups() if group is not None)
        if read_counting(words, language):
            continue
        direction = read_direction(words)
        alone = match[1] is not None or not (line.text[: match.start()] + line.text[match.end() :]).strip(" .")
        if direction is None and not alone:
            continue
        parts += _sentence_parts(line, line.text[at : match.start()], language)
        note = Part("note", line, match.group())
        parts.append(note if direction is None else _directed(line, match.group(), direction))
        at = match.end()
    return [*parts, *_sentence_parts(line, line.text[at:], language)]


def _directed(line: Line, text: str, direction: Pause | Music | Bell | Repeat) -> Part:
    what: dict[type, What] = {Pause: "pause", Music: "music", Bell: "bell", Repeat: "repeat"}
    return Part(what[type(direction)], line, text, direction=direction)


def _counts(text: str) -> bool:
    """Whether a number or a length is in a text, in digits or in words."""
    words = re.findall(r"[^\W\d_]+", text.lower())
    return any(c.isdigit() for c in text) or any(w in number_words() or _is(w, *_LENGTHS) for w in words)


def _numbered(line: Line) -> list[Part]:
    """`Step 2 - Box: 4-4-4-4, 5 rounds`: what comes after the number as `_typed`, under a title."""
    match = _STEP.match(line.text)
    parts = _typed(replace(line, text=line.text[match.end() :])) if match is not None else []
    if match is None or not parts or parts[-1].what != "set":
        return []
    named = parts[0].what == "heading"
    title = f"{match[1]}: {parts[0].text}" if named else match[1]
    return [Part("heading", line, title), *parts[named:]]


def _typed(line: Line) -> list[Part]:
    """A line that is a breath, strokes or a rest as one types it, with a title before a colon; or one phase of a round,
    in a list; [] for others."""
    text = line.text.rstrip(" .;,")
    kinds = [known.kind for word in re.findall(r"[^\W\d_]+", text.lower()) if (known := known_words().get(word))]
    breathed = {Kind.PHASE, Kind.FAMILY, Kind.STROKES, Kind.REST, Kind.ROUNDS, Kind.TIMES} & set(kinds)
    if len(text) > _LONGEST_NOTATION or (not _counts(text) and Kind.FAMILY not in kinds) or len(sentences(text)) > 1:
        return []
    if not breathed and not _ROW.search(text):
        return []
    readings = interpret(text, whole=True).readings
    spoken = {Kind.FILLER, Kind.FOR} & set(kinds) or not re.search(r"\d", text)
    said = line.text.endswith((".", "!")) and not line.listed and bool(spoken)
    if readings:
        if said:
            return []  # a sentence: it is said as well
        return [Part("set", line, line.text, reading=readings[0])]
    title, colon, tail = text.partition(":")
    fills = (Kind.FILLER, Kind.FOR)
    spoken = any(known.kind in fills for word in tail.lower().split() if (known := known_words().get(word)))
    whole = colon and not (line.text.endswith((".", "!")) and spoken) and len(title.split()) <= _TITLE
    readings = interpret(tail, whole=True).readings if whole else ()
    if readings and title.strip():
        return [Part("heading", line, title.strip()), Part("set", line, tail.strip(), reading=readings[0])]
    if line.listed and kinds.count(Kind.PHASE) == 1 and not interpret(f"{text}, in 1, out 1", whole=True).fault:
        return [Part("phase", line, line.text)]
    repeat = read_repeat(text, bare=True) if line.listed else None
    return [] if repeat is None else [_directed(line, line.text, repeat)]


def _sentence_parts(line: Line, text: str, language: str) -> list[Part]:
    said = sentences(text)
    parts: list[Part] = []
    at = 0
    while at < len(said):
        number, called = _counted_from(said, at, language) if _begins(said[at]) else (0, ())
        phases, reading = (0, None) if called else _phases_from(said, at)
        if called:
            parts.append(Part("counted", line, " ".join(said[at : at + number]), called))
        elif reading is not None:
            parts.append(Part("set", line, " ".join(said[at : at + phases]), reading=reading, sure=False))
        else:
            parts += _sentence(line, said[at])
        at += number or phases or 1
    return parts


def _phases_from(said: Sequence[str], at: int) -> tuple[int, Reading | None]:
    """How many sentences from here on are one phase of a round each, and the round: "Inhale for 4. Exhale for 6."."""
    last = at
    while last < min(len(said), at + _MOST_PHASES) and _counts(said[last]) and len(said[last]) < _LONGEST_PHASE:
        last += 1
    for end in range(last, at + 1, -1):
        readings = interpret(", ".join(each.rstrip(" .!;,") for each in said[at:end]), whole=True).readings
        if readings and isinstance(readings[0].blocks[0], BreathSet) and len(readings[0].blocks) == 1:
            return end - at, readings[0]
    return 0, None


def _counted_from(said: Sequence[str], at: int, language: str) -> tuple[int, tuple[Called, ...]]:
    """How many sentences from here on are counting, and what they call."""
    last = at + 1
    while last < len(said) and last - at < _SENTENCES_OF_A_SET and _may_count(said[last]):
        last += 1
    while last > at:
        called = read_counting(" ".join(said[at:last]), language) if _counts(" ".join(said[at:last])) else ()
        if called:
            return last - at, called
        last -= 1
    return 0, ()


def _begins(sentence: str) -> bool:
    """Whether counting may begin with a sentence: it has a number, or a word of a phase."""
    return _counts(sentence) or any(_is_breath(word) for word in re.findall(r"[^\W\d_]+", sentence.lower()))


def _may_count(sentence: str) -> bool:
    """Whether a sentence holds nothing but numbers and words of a breath, or counts by itself."""
    words = re.findall(r"[^\W\d_]+|\d+", sentence.lower())
    known = (word.isdecimal() or word in number_words() or _is_breath(word) for word in words)
    return len(words) < 40 and sum(not each for each in known) <= 1


def _is_breath(word: str) -> bool:
    ones = any(word in script_words(code).get("ones", ()) for code in ("ru", "fr", "es", "it", "de"))
    return ones or _is(word, *_READ_IN_COUNTING)


def _sentence(line: Line, sentence: str) -> list[Part]:
    """One sentence that counts nothing: a repeat, a breath in words, natural breath, or talk. A breath with its rounds
    or its length, or after a colon, is said and then breathed."""
    text = sentence.rstrip(" .!;,")
    repeat = read_repeat(sentence, bare=len(text.split()) < 3)
    if repeat is not None:
        return [Part("repeat", line, sentence, direction=repeat)]
    if len(text) > _LONGEST_NOTATION or not _counts(text):
        return [Part("talk", line, sentence)]
    said, colon, tail = text.rpartition(":")
    row = bool(_ROW.search(text))
    some = interpret(text, whole=not row)
    for readings, of, unused in (
        (some.readings, text, 0),
        (some.partial if row else (), text, _MOST_UNUSED),
        (interpret(tail, whole=True).readings if colon and said.strip() else (), tail.strip(), 0),
    ):
        block = readings[0].blocks[0] if readings else None
        if isinstance(block, Rest) and of is text:
            return [Part("set", line, sentence, reading=readings[0])]
        if not isinstance(block, BreathSet | Strokes) or len(readings[0].unused.split()) > unused:
            continue
        if row and of is text:  # numbers that nobody says
            return [Part("set", line, sentence, reading=readings[0], sure=False, breathed=True)]
        if isinstance(block, Strokes) or block.rounds > 1 or of is not text:
            breath = Part("set", line, of, reading=readings[0], sure=False, breathed=True)
            return [Part("talk", line, sentence), breath]
        return [Part("set", line, sentence, reading=readings[0], sure=False)]
    return [Part("talk", line, sentence)]
