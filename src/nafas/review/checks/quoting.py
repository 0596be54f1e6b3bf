"""Words of a sentence quoted as they are written, and written with another number."""

import re
from collections.abc import Iterator

from nafas.review.checks.finding import Said, Severity, Subject
from nafas.review.checks.promise_patterns import Patterns, patterns
from nafas.review.checks.reading import Sentence, number_like, read
from nafas.script.model.blocks import Rest

_SHORT = 6
"""Words of a sentence that is hardly more than a number and its unit: "Eight rounds, then." (our own)."""
_AROUND = 12
"""Characters around a number by which it is found again in its block."""


def promising(subject: Subject, titles: bool = True, rests: bool = True) -> Iterator[tuple[Said, Sentence, Patterns]]:
    """Every sentence in a language that is read, taken apart; without what is said over rests where not `rests`."""
    for said in (*subject.said, *(subject.titles if titles else ())):
        known = patterns(said.language)
        if known is None:
            continue
        if rests or said.block is None or not isinstance(subject.session.blocks[said.block], Rest):
            yield said, read(said.text, said.language), known


def quoted(sentence: Sentence, match: re.Match[str]) -> str:
    """The words of a match as they are written."""
    begin = sentence.token_at(match.start()).begin
    inside = [token for token, start in zip(sentence.tokens, sentence.starts) if start < match.end()]
    return sentence.text[begin : inside[-1].end]


def rewritten(sentence: Sentence, match: re.Match[str], number: int, language: str) -> tuple[str, str]:
    """A few words around a match's number as they are, and with another number."""
    token = sentence.token_at(match.start("n"))
    written = sentence.text[token.begin : token.end]
    begin = sentence.text.rfind(" ", 0, max(0, token.begin - _AROUND)) + 1
    head, tail = sentence.text[begin : token.begin], sentence.text[token.end : token.end + _AROUND].rsplit(" ", 1)[0]
    return head + written + tail, head + number_like(number, written, language) + tail


def firmly(promise: Patterns, sentence: Sentence, severity: Severity) -> Severity:
    """How much a promise matters: as given where the sentence is short, or speaks of what is done now; worth a look
    where a number only stands in it, or where it speaks of what was."""
    spoken = promise.doing.search(sentence.plain) or len(sentence.plain.split()) <= _SHORT
    return severity if spoken and not promise.past.search(sentence.plain) else Severity.LOOK
