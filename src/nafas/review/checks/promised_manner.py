"""Sides, techniques and "the last one" that are promised, held against what is built; and what is not read at all."""

import re
from collections.abc import Iterator
from functools import partial

from nafas.languages import READ
from nafas.plain_text import pluralize
from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.review.checks.promised_rounds import total, total_words
from nafas.review.checks.quoting import firmly, promising, quoted
from nafas.review.checks.techniques import TECHNIQUES
from nafas.script.model.blocks import BreathSet
from nafas.script.model.phase import Side
from nafas.suggest.finding_remedies import tried, with_sides_swapped, with_words

_LEFT_OUT = re.compile(r"\b(?:leave out|instead|unlike|not|no|without)\b")


def _sides(subject: Subject) -> Iterator[Finding]:
    for said, sentence, promise in promising(subject, titles=False):
        for match in (m for pattern in (promise.starts, *promise.firsts) for m in pattern.finditer(sentence.plain)):
            side = Side.LEFT if promise.left.fullmatch(match["side"]) else Side.RIGHT
            sided = {index: first for index in subject.work_after(said.block) if (first := _first_side(subject, index))}
            if not sided or side in sided.values():
                continue
            index = next(iter(sided))
            now = "right" if side is Side.LEFT else "left"
            words = quoted(sentence, match)
            text = f"“{words}” is said; {subject.named(index)} begins on the {now}."
            offers = tried(("Swap the sides of the set", partial(with_sides_swapped, subject.session, index), 0))
            if said.language == "en" and match.re is promise.starts:
                other = words[: len(words) - len(match["side"])] + now
                offers += tried((f"Say {now}", partial(with_words, subject.session, said.block, words, other), 1))
            grave = Severity.MUST if match.re is promise.starts else firmly(promise, sentence, Severity.MUST)
            yield subject.finding("promised-side", grave, text, side.value, said, remedies=offers)


def _first_side(subject: Subject, number: int) -> Side | None:
    rounds = subject.timed(number).rounds
    return next((phase.side for one in rounds for phase in one.phases if phase.side in (Side.LEFT, Side.RIGHT)), None)


def _techniques(subject: Subject) -> Iterator[Finding]:
    for said, sentence, _ in promising(subject):
        if said.language != "en":
            continue
        for technique in TECHNIQUES:
            match = technique.named.search(sentence.plain)
            if match is None or _LEFT_OUT.search(sentence.plain):
                continue
            if not any(technique.built(subject.session.blocks[index]) for index in subject.work):
                text = f"“{quoted(sentence, match)}” is named; no set of this session is that."
                yield subject.finding("named-technique", Severity.SHOULD, text, technique.name, said)


def _last(subject: Subject) -> Iterator[Finding]:
    blocks = subject.session.blocks
    for said, sentence, promise in promising(subject, titles=False):
        if said.block is None:
            continue
        later = [index for index in subject.work if index > said.block]
        match = promise.last_set.search(sentence.plain)
        if match and len(later) > 1:
            text = f"“{quoted(sentence, match)}” is said; {pluralize(len(later), 'set follows', 'sets follow')}."
            yield subject.finding("said-last", Severity.SHOULD, text, "set", said)
        match = promise.last_round.search(sentence.plain)
        follows = said.block + 1
        if match and follows < len(blocks) and isinstance(blocks[follows], BreathSet) and total(subject, follows) > 1:
            text = f"“{quoted(sentence, match)}” is said; {subject.named(follows)} has {total_words(subject, follows)}."
            yield subject.finding("said-last", Severity.SHOULD, text, "round", said)


def _unread(subject: Subject) -> Iterator[Finding]:
    """A language whose words are not read: the person must look, and is told so."""
    if any(said.language not in READ for said in subject.said):
        text = f"Promises and cautions are not read in this language, only in {', '.join(READ)}: read them yourself."
        yield subject.finding("words-read", Severity.LOOK, text, "")


CHECKS = (
    Check("words-read", "Promises", "whether the session's language is read: English whole, others in part", _unread),
    Check("promised-side", "Promises", "the side that is said to begin, against the one that does", _sides),
    Check("named-technique", "Promises", "techniques named in talk and titles (English)", _techniques),
    Check("said-last", "Promises", "“the last one” and “the last set”, against what follows", _last),
)
