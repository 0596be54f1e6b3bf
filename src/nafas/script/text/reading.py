"""A written script read as a session: what every line of it became, what is not sure, and how else it could be."""

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.languages import READ, script_words
from nafas.script.faults import as_input_error
from nafas.script.model.blocks import Rest
from nafas.script.model.exact import decimal_text
from nafas.script.model.phase import PhaseKind
from nafas.script.model.sentences import whole_letters
from nafas.script.model.session import MAX_TEXT, Session
from nafas.script.notation.typed.interpret import Reading, interpret
from nafas.script.text.building import Builder, Piece
from nafas.script.text.directions import A_REST, Bell, Music, Pause, Repeat, length_in
from nafas.script.text.lines import Line, guess_language, is_heading, lines_of
from nafas.script.text.pieces import Part, parts_of
from nafas.script.words.lexicon import CUE_KEYS, lexicon_of
from nafas.script.words.wording import Wording

_SPEAKER = "speaker: "
_CONTROLS = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u2028\u2029]")
_ENDING = (".", "!", "?", "…", ",", ";", ":")


@dataclass(frozen=True)
class Script:
    """A session made of a written text.

    Attributes:
        session: what it became.
        pieces: every part of the text in order, and what it became; none of the text is in no piece.
    """

    session: Session
    pieces: tuple[Piece, ...]

    @property
    def unsure(self) -> tuple[Piece, ...]:
        """What is to be looked at."""
        return tuple(piece for piece in self.pieces if piece.unsure)


def read_script(
    text: str,
    language: str = "",
    choices: Mapping[str, str] = {},
    name: str = "the text",
    titled: bool = True,
) -> Script:
    """Read a text in words of any of seven languages: paragraphs as talk, counting that is spelled out as breath sets.

    Args:
        text: the whole of it.
        language: the code of the session's language; "" looks for the likeliest.
        choices: by the key of a piece, which of its ways to take; for the others the first.
        name: how errors call the text.
        titled: its first line may be the session's title.

    Raises:
        InputError: it is empty, or makes no session, or one that is out of bounds.
    """
    if len(text) > MAX_TEXT:
        raise InputError(name, f"holds {len(text):,} letters", f"keep a script within {MAX_TEXT:,}")
    try:
        return _read(text, language, choices, name, titled)
    except ValidationError as error:
        raise as_input_error(error, name) from None


def _read(text: str, language: str, choices: Mapping[str, str], name: str, titled: bool) -> Script:
    said = [key.removeprefix(_SPEAKER) for key, way in choices.items() if key.startswith(_SPEAKER) and way == "talk"]
    lines = lines_of(_CONTROLS.sub(" ", whole_letters(text)), said)
    if not lines:
        raise InputError(name, "holds no text", "write or copy some words first")
    language = language or guess_language(text)
    builder = Builder(choices)
    title, lines = _titled(lines) if titled else (None, lines)
    length, lines = _timed(lines, builder) if titled else (None, lines)
    if title is not None:
        builder.pieces.append(Piece("title", title.first, title.end, title.text, None, "the title"))
    parts = parts_of(lines, language if language in READ else "en")
    named: set[str] = set()
    line = None
    for part, after in zip(parts, [*parts[1:], None]):
        if part.line is not line and part.line.speaker:
            _take_speaker(builder, part, part.line.speaker not in named)
            named.add(part.line.speaker)
        line = part.line
        _take(builder, part, after)
    builder.finish()
    cues = Counter[tuple[PhaseKind, str]]()
    for each in builder.cues:
        cues.update(each)
    wording = _wording(cues, language)
    session = Session(
        title=title.text if title is not None else "Untitled session",
        language=language,
        wording=wording,
        target_length=length,
        blocks=tuple(builder.blocks),
    )
    return Script(session, tuple(_settled(_said_otherwise(builder.pieces, wording, language), choices)))


def _titled(lines: list[Line]) -> tuple[Line | None, list[Line]]:
    """The line that is the title: `Title: …`, the only heading of the first level, or a short first line by itself."""
    for line in lines[:6]:
        if (words := _value(line, "title")) is not None:
            return replace(line, text=words), [each for each in lines if each is not line]
    first = lines[0] if lines else None
    if first is None or len(lines) == 1:
        return None, lines
    if is_heading(first) and not first.level and not interpret(first.text, whole=True).readings:
        return first, lines[1:]
    only = first.level == 1 and not any(line.level == 1 for line in lines[1:])
    short = first.alone and not first.level and not first.listed and len(first.text) <= 60
    if only or (short and not first.text.endswith(_ENDING) and not any(c.isdigit() for c in first.text)):
        return first, lines[1:]
    return None, lines


def _timed(lines: list[Line], builder: Builder) -> tuple[Fraction | None, list[Line]]:
    """The length that a line near the beginning asks for: `Length: eight minutes`."""
    for line in lines[:6]:
        words = _value(line, "length")
        seconds = length_in(words) if words is not None else None
        if seconds is not None:
            builder.pieces.append(Piece("length", line.first, line.end, line.text, None, "the length asked for"))
            return seconds, [each for each in lines if each is not line]
    return None, lines


def _value(line: Line, what: str) -> str | None:
    """What stands after `title:` or `length:`, in any of the languages that are read."""
    key, _, words = line.text.partition(":")
    known = any(key.strip().lower() in script_words(code).get(what, ()) for code in READ)
    return words.strip() if known and words.strip() else None


def _take(builder: Builder, part: Part, after: Part | None) -> None:
    """Give a part to the builder as what it is, or as what was chosen for it."""
    line, what = part.line, part.what
    key = builder.key(part.text)
    if line.at is not None:
        builder.timed(part)
    if what in ("heading", "rule"):
        builder.heading(part, key)
    elif what == "counted":
        builder.counted(part, key)
    elif what == "phase":
        builder.phase(part, key)
    elif what == "set":
        _take_set(builder, part, key, after)
    elif isinstance(part.direction, Repeat):
        builder.repeat(part, key, part.direction)
    elif isinstance(part.direction, Pause):
        _take_pause(builder, part, key, part.direction)
    elif isinstance(part.direction, Music):
        builder.music(part, key, part.direction.on)
    elif isinstance(part.direction, Bell) and after is None:
        builder.note(part, key, "the end bell")
    else:
        reason = {"note": "a note that is not understood", "bell": "a bell within the session is not made"}
        builder.talk(part, key, reason.get(what, ""))


def _take_speaker(builder: Builder, part: Part, first: bool) -> None:
    """The name of who speaks; it is asked about once."""
    name = part.line.speaker
    unsure = "taken for the name of who speaks" if first else ""
    ways = (("leave", "not read"), ("talk", "say it"))
    builder.note(replace(part, text=name), f"{_SPEAKER}{name}", "a name, not read", unsure, ways if first else ())


def _take_set(builder: Builder, part: Part, key: str, after: Part | None) -> None:
    reading = part.reading
    assert reading is not None
    sentence = part.text.rstrip().endswith((".", "!"))
    if all(isinstance(block, Rest) for block in reading.blocks):
        builder.rests(part, key, reading, said=sentence)
        return
    follows = after is not None and isinstance(after.direction, Repeat)
    reads = "reads as a breath"
    as_set = ("set", f"a breath set: {reading.notation.splitlines()[0][:60]}")
    as_talk = ("leave", "no set: it is only said") if part.breathed else ("talk", "talk")
    if part.sure:
        builder.read_set(part, key, reading)
        return
    first = builder.choices.get(key, "set" if follows or part.breathed else "talk")
    ways = (as_set, as_talk) if first == "set" else (as_talk, as_set)
    if first == "set":
        builder.read_set(part, key, reading, "" if key in builder.choices else reads, ways)
    else:
        builder.talk(part, key, "" if key in builder.choices else reads, ways)


def _take_pause(builder: Builder, part: Part, key: str, pause: Pause) -> None:
    if pause.seconds >= A_REST:
        reading = Reading(interpret(f"rest {decimal_text(pause.seconds)}s").readings[0].blocks)
        builder.rests(part, key, reading, said=False)
    else:
        builder.pause(part, key, pause)


def _wording(cues: Counter[tuple[PhaseKind, str]], language: str) -> Wording:
    """The cue words that are used most, where the language's own are others."""
    usual, own = lexicon_of(language, Wording()), {}
    for kind in PhaseKind:
        most = max(((count, text) for (of, text), count in cues.items() if of is kind), default=None)
        if most is not None and most[1].casefold() != usual.kind(kind).casefold() and len(most[1]) <= 80:
            own[CUE_KEYS[kind]] = most[1]
    return Wording(**own)


def _said_otherwise(pieces: list[Piece], wording: Wording, language: str) -> list[Piece]:
    """The pieces; those of counting whose cue words are not the session's say so."""
    lexicon = lexicon_of(language, wording)
    result = []
    for piece in pieces:
        other = [text for kind, text in piece.cues if text.casefold() != lexicon.kind(kind).casefold()]
        if other and not piece.unsure:
            words = ", ".join(f"“{each}”" for each in dict.fromkeys(other))
            piece = replace(piece, unsure=f"said with the session's cue words instead of {words}")
        result.append(piece)
    return result


def _settled(pieces: list[Piece], choices: Mapping[str, str]) -> list[Piece]:
    """The pieces; one for which a way was chosen, or which was looked at, is sure."""
    return [replace(piece, unsure="") if piece.key in choices else piece for piece in pieces]
