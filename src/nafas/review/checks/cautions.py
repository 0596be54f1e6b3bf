"""Cautions: whether they are there, whole and in time. What is asked for is the usual (common practice, no source)."""

from collections.abc import Iterable, Iterator
from dataclasses import replace
from fractions import Fraction
from functools import partial

from nafas.languages import READ
from nafas.review.checks.finding import Check, Finding, Said, Severity, Subject
from nafas.review.checks.patterns import words
from nafas.script.edits.session_edits import with_set_aside
from nafas.script.model.blocks import Talk
from nafas.script.words.cautions import caution_words, cautions_for
from nafas.state.own_words import is_confirmed
from nafas.suggest.finding_remedies import FindingRemedy, tried, with_cautions
from nafas.timing.clock import clock

_TOPICS = {
    "every": {
        "stop": "to stop and breathe naturally when light-headed or uneasy",
        "force": "never to force it",
        "danger": "not while driving, in or near water, or at machines",
        "medical": "that it does not replace medical care",
        "conditions": "to ask a clinician when pregnant or living with a heart, lung or other condition",
    },
    "rapid": {
        "pregnant": "pregnancy",
        "pressure": "high blood pressure or heart disease",
        "epilepsy": "epilepsy",
        "hernia": "hernia or recent abdominal surgery",
        "stomach": "an empty stomach",
        "alternative": "a calm alternative",
    },
    "holds": {
        "pressure": "high blood pressure, heart or lung disease",
        "pregnant": "pregnancy",
        "release": "that anyone may let go early",
    },
    "steps": {"easier": "to stay with, or go back to, the easier count"},
}
CONFIRMED = "Your own words cover this, as you confirmed."
"""Why a finding is ignored whose words were confirmed, here or in another session."""
_OWN_WORDS = {"every": 2, "rapid": 3, "holds": 2, "steps": 1}
"""Topics that have to be recognised in words of one's own for the others to be in doubt only (our own)."""
_NAMES = {
    "every": "The usual cautions are",
    "rapid": "The cautions for rapid breathing are",
    "holds": "The cautions for holds are",
    "steps": "An easier choice than longer steps is",
}
_LOOKS = {
    "every": "the usual cautions, whole, in the session's language, before the first set",
    "rapid": "the cautions of rapid breathing and its calm alternative, before the first strokes",
    "holds": "the cautions of holds, before the first long hold",
    "steps": "a way back to the easier count, before counts grow",
}


def _named(subject: Subject, topic: str, until: Fraction | None = None) -> Said | None:
    """The first sentence, begun before a time, that names a topic."""
    for said in subject.said:
        pattern = words(said.language, "cautions", topic, stem=True)
        if (until is None or (said.at or 0) < until) and pattern is not None and pattern.search(said.text):
            return said
    return None


def _own_sentences(subject: Subject, index: int, said: Iterable[Said | None]) -> tuple[str, ...]:
    """The sentences of the talk before a block in which a producer's own cautions stand: where some of `said` does, or
    the last talk."""
    start = subject.timed(index).start
    before = [one for one in subject.said if (one.at or 0) < start and one.block is not None]
    talk = [one for one in before if isinstance(subject.session.blocks[one.block or 0], Talk)]
    blocks = {one.block for one in said if one in talk} or {one.block for one in talk[-1:]}
    return tuple(one.text for one in talk if one.block in blocks and not _is_usual(subject, one))


def _is_usual(subject: Subject, said: Said) -> bool:
    """Whether a sentence is one of the usual words, as Nafas prints them."""
    usual = caution_words(tuple(_TOPICS), said.language)
    return any(" ".join(said.text.split()).rstrip(".") in words for words in usual)


def _find(key: str, subject: Subject) -> Iterator[Finding]:
    session = subject.session
    asking = (p for p in subject.work if key == "every" or key in cautions_for(session.blocks[p]))
    index = next(asking, None)
    if index is None or subject.language not in READ:
        return
    start, topics = subject.timed(index).start, _TOPICS[key]
    said = {topic: _named(subject, topic) for topic in topics}
    late = {topic: one for topic, one in said.items() if one is not None and (one.at or 0) >= start}
    missing = [topic for topic, one in said.items() if one is None]
    title = f"Say the usual words before {subject.named(index)}"
    offers = tried((title, partial(with_cautions, session, index, [key]), 1))
    if missing:
        message = "; ".join(topics[topic] for topic in missing)
        text = f"{_NAMES[key]} {'not said' if len(missing) == len(topics) else 'not whole'}: {message}."
        severity = Severity.SHOULD if key == "steps" else Severity.MUST
        if sum(one is not None and not _is_usual(subject, one) for one in said.values()) >= _OWN_WORDS[key]:
            severity = Severity.LOOK  # cautions in words of one's own: what is not known here may be said all the same
            text = f"Not recognised in your own words: {message}. Listen whether it is said."
        finding = subject.finding(f"cautions-{key}", severity, text, "+".join(missing), index, remedies=offers)
        own = _own_sentences(subject, index, said.values())
        if own and len(missing) < len(topics):  # where none is recognised, a click is too little
            confirmed = with_set_aside(session, finding.key, CONFIRMED)
            cover = FindingRemedy("My words cover this", confirmed, confirms=(tuple(missing), own))
            finding = replace(finding, remedies=(*offers, cover))
        sure = own and all(is_confirmed(topic, own) for topic in missing)
        yield replace(finding, reason=CONFIRMED) if sure else finding
    if late:
        first = min(late.values(), key=lambda one: one.at or 0)
        message = "; ".join(topics[topic] for topic in late)
        text = (
            f"Said too late, at {clock(first.at or 0)}, when {subject.named(index)} began at {clock(start)}: {message}."
        )
        yield subject.finding(f"cautions-{key}", Severity.MUST, text, "late", first, remedies=offers)


CHECKS = tuple(Check(f"cautions-{key}", "Cautions", _LOOKS[key], partial(_find, key)) for key in _TOPICS)
