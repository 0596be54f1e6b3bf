"""Patterns of the library that a typed line names: "alternate nostrils, 6 rounds", "ocean breath for 5 min"."""

from collections.abc import Iterable
from difflib import SequenceMatcher
from fractions import Fraction
from functools import cache

from nafas.languages import other_names
from nafas.library.entry import LibraryEntry
from nafas.script.expansion import set_seconds
from nafas.script.model.blocks import BreathSet
from nafas.script.model.pacing import MAX_ROUNDS
from nafas.script.notation.tokens import LONGEST, NotationError
from nafas.script.notation.typed.clauses import Clauses, rounds_for, take_clauses
from nafas.script.notation.typed.lexer import plain, tokens_of
from nafas.script.notation.typed.line import Line
from nafas.script.notation.typed.vocabulary import Kind, Typed

_ALIKE, _LEAST_LETTERS = 0.8, 4
"""Of two words, by difflib's ratio, and letters that a word needs to be misspelt."""


def named(text: str, entries: Iterable[LibraryEntry], count_length: Fraction) -> list[LibraryEntry]:
    """Entries whose name holds every word of the line, small misspellings included, and not twice as many: the nearest
    first.

    Args:
        text: a typed line. Rounds or a length in it are taken over into sets that stay the same from round to round.
        entries: of which those with a block are looked at.
        count_length: seconds a count where the entry says none.
    """
    if len(text) > LONGEST:
        return []
    line = Line(plain(text), tokens_of(plain(text)))
    try:
        clauses = take_clauses(line)
    except NotationError:
        return []
    grown = [token for token in tokens_of(plain(text)) if token.kind is Kind.GROWTH and token not in line.tokens]
    words = _words([*line.tokens, *grown], text)  # "slower and slower" is a name
    if not words or any(word[0].isdigit() for word in words):
        return []
    found = []
    for entry in entries:
        sizes = [len(own) for own in _names(entry.name) if 2 * len(words) >= len(own) and _holds(own, words)]
        if entry.block is not None and sizes:
            found.append((min(sizes), _with(entry, clauses, count_length)))
    return [entry for _, entry in sorted(found, key=lambda pair: pair[0])]


@cache
def _names(name: str) -> list[list[str]]:
    """The words of every name that a pattern has."""
    return [_words(tokens_of(plain(each)), each) for each in (name, *other_names().get(name, ()))]


def _holds(own: list[str], words: list[str]) -> bool:
    """Whether a name holds every word of a line, small misspellings included."""
    return all(any(_alike(word, each) for each in own) for word in words)


def _words(tokens: list[Typed], text: str) -> list[str]:
    """What a name is made of: no articles, no "breath", no marks."""
    said = [token for token in tokens if token.kind not in (Kind.FILLER, Kind.ROUNDS, Kind.FOR, Kind.MARK)]
    return [text[token.begin : token.end].casefold() for token in said]


def _alike(word: str, other: str) -> bool:
    if word == other:
        return True
    return min(len(word), len(other)) >= _LEAST_LETTERS and SequenceMatcher(None, word, other).ratio() >= _ALIKE


def _with(entry: LibraryEntry, clauses: Clauses, count_length: Fraction) -> LibraryEntry:
    block = entry.block
    if not isinstance(block, BreathSet) or block.pacing is not None:
        return entry
    rounds = clauses.rounds
    if rounds is None and clauses.lasts is not None:
        one = set_seconds(block.replace(rounds=1), block.count_length or count_length)
        rounds = rounds_for(clauses.lasts, one)[0]
    if rounds is None or rounds > MAX_ROUNDS:
        return entry
    return entry.model_copy(update={"block": block.replace(rounds=rounds)})
