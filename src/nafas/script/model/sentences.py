"""Text as it is read aloud: sentences one at a time, and the pauses written between them.

A pause of its own is written in the text where it is made, `Close your eyes. [4s] And rest.`, so it stays with its
sentence however the text around it changes.
"""

import re
from collections.abc import Iterable
from fractions import Fraction
from typing import NamedTuple

from nafas.script.model.exact import decimal_text, parse_seconds

MAX_PARAGRAPH, MAX_PARAGRAPHS = 20_000, 2_000
"""Characters of a paragraph, and paragraphs of a block: some two hours of talk without a break, and a day of it."""
LONGEST_PAUSE = Fraction(600)
"""Seconds."""

_PAUSE = re.compile(r"\[\s*(?:pause\s+)?(\d{1,4}(?:[.,]\d{1,6})?)\s*(?:s|sec|secs|seconds?)\s*\]", re.IGNORECASE)
_SENTENCE = re.compile(r"(?<=[.!?…।])[\"'”’)]*\s+")
_LONGEST_SENTENCE = 1_000


class Sentence(NamedTuple):
    """A line a voice reads in one go, and the seconds of the pause written after it; None where none is."""

    text: str
    pause: Fraction | None = None

    def __str__(self) -> str:
        return self.text if self.pause is None else f"{self.text} {pause_text(self.pause)}".lstrip()


def pause_text(seconds: Fraction) -> str:
    """A pause as it is written in a text: `[4s]`."""
    return f"[{decimal_text(seconds)}s]"


def with_pauses(paragraph: str) -> tuple[Sentence, ...]:
    """A paragraph's sentences with the pauses written after them. A pause written twice is both together; one at the
    very beginning stands with empty text.

    Raises:
        ValueError: a pause is longer than ten minutes.
    """
    result: list[Sentence] = []
    # text, seconds, text, seconds, ..., text
    for index, piece in enumerate(_PAUSE.split(paragraph)):
        if index % 2 == 0:
            result += [Sentence(text) for text in _read_in_one_go(piece)]
            continue
        seconds = parse_seconds(piece.replace(",", "."))
        if not result:
            result.append(Sentence(""))
        whole = (result[-1].pause or 0) + seconds
        if whole > LONGEST_PAUSE:
            raise ValueError(f"a pause of {decimal_text(whole)} s is too long; write at most {LONGEST_PAUSE} s")
        result[-1] = Sentence(result[-1].text, whole)
    return tuple(result)


def sentences(paragraph: str) -> tuple[str, ...]:
    """A paragraph's sentences: the lines a voice reads one at a time, without their pauses. Empty text gives none."""
    return tuple(each.text for each in with_pauses(paragraph) if each.text)


def written(spoken: Iterable[Sentence]) -> str:
    """Sentences as one paragraph."""
    return " ".join(str(each) for each in spoken if each.text or each.pause is not None)


def _read_in_one_go(text: str) -> tuple[str, ...]:
    """One of over a thousand characters (text without full stops) is read in pieces, broken where it pauses."""
    result = (" ".join(part.split()) for part in _SENTENCE.split(text))
    return tuple(piece for sentence in result if sentence for piece in _in_pieces(sentence, _LONGEST_SENTENCE))


def whole_letters(text: str) -> str:
    """Text without halves of letters (lone surrogates, as some programs copy them): no file could hold them."""
    return text if text.isascii() else text.encode("utf-16", "surrogatepass").decode("utf-16", "replace")


def split_paragraph(text: str) -> tuple[str, ...]:
    """A text as paragraphs of at most `MAX_PARAGRAPH` characters, broken at ends of sentences; all of it is kept."""
    return tuple(_in_pieces(text, MAX_PARAGRAPH))


def _in_pieces(text: str, most: int) -> list[str]:
    pieces = []
    while len(text) > most:
        at = _last_break(text, most)
        pieces.append(text[:at].rstrip())
        text = text[at:].lstrip()
    return [*pieces, text] if text else pieces


def _last_break(text: str, most: int) -> int:
    """Where to break: behind the last sentence, else clause, else word that ends in the later half; else anywhere."""
    for ends in (".!?…।", ",;:–—", " "):
        at = max(text.rfind(end, most // 2, most) for end in ends)
        if at >= 0:
            return at + 1
    return most
