"""What a listener with closed eyes would stumble on in the words: silence, pace, the end."""

import re
from collections.abc import Iterator
from fractions import Fraction
from functools import partial

from nafas.languages import language_name, library_words
from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.review.checks.patterns import names
from nafas.review.checks.safety import is_sleep
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.blocks import Talk
from nafas.script.text.lines import sure_language
from nafas.suggest.finding_remedies import FindingRemedy, tried, without_sentence
from nafas.timing.arc import arc_of
from nafas.timing.clock import clock
from nafas.timing.timeline import EventKind

_SILENCE = 45
"""Seconds without a word after which a listener who was not told of it opens the eyes (common practice, no source)."""
_SHORT_SILENCE = 100
"""Seconds up to which "breathe as you like" is telling enough (common practice, no source)."""
_LONG_SILENCE = 180
"""Seconds after which they do even when told (common practice, no source)."""
FASTEST, _WANTED, _LEAST_WORDS = 140, 115, 12
"""Words a minute of guided talk at most and as wanted, pauses and all (90 to 120 is usual; common practice, no source),
in talk of so many words at least."""
_LONGEST_SENTENCE = 30
"""Words of a sentence that is still taken in at one hearing (common practice, no source)."""
_SHORTEST_VOICE = 1.0
_TAIL = 120
_RINGS = re.compile(r"\b(?:when|until|sounds?|rings?|end)\b", re.IGNORECASE)
_ANNOUNCE = "When the bell sounds, open your eyes."


def _silence(subject: Subject) -> Iterator[Finding]:
    if subject.cast is not None:
        first, last = subject.cast.longest_silence
        begin, end = Fraction(first, subject.cast.rate), Fraction(last, subject.cast.rate)
    else:
        begin, end = arc_of(subject.timeline).silence
    length = end - begin
    if length < _SILENCE or begin >= subject.timeline.length - subject.session.closing - 1:
        return
    before = [said for said in subject.said if said.at is not None and said.at <= begin + 1]
    message = [said for said in before if said.block == before[-1].block or (said.at or 0) >= begin - 60]
    keys = ("away", "own_breath") if length < _SHORT_SILENCE else ("away",)
    announced = any(names(said.language, "listener", key, said.text) for key in keys for said in message)
    inside = (timed.index for timed in subject.timeline.blocks if timed.start <= begin + Fraction(1, 2) < timed.end)
    index, where = next(inside, None), f"{clock(begin)} to {clock(end)}"
    if length >= _LONG_SILENCE:
        text = (
            f"Nobody speaks for {clock(length)} ({where}): even listeners who expect it look up. Say a word on the way."
        )
        yield subject.finding("silence", Severity.SHOULD, text, "long", index, begin, where)
    elif not announced:
        text = f"The voice is away for {clock(length)} ({where}), and nothing announces it: say so before."
        yield subject.finding("silence", Severity.SHOULD, text, "untold", index, begin, where)


def _pace(subject: Subject) -> Iterator[Finding]:
    cast = subject.cast
    assert cast is not None
    for timed in subject.timeline.blocks:
        block = timed.block
        if not isinstance(block, Talk):
            continue
        placed = [p for p in cast.of_block(block.id) if p.moment.kind is EventKind.TALK and not p.clip.waiting]
        number = sum(len(p.moment.text.split()) for p in placed)
        if number < _LEAST_WORDS or len(placed) < 2:
            continue
        seconds = (max(p.said for p in placed) - min(p.start for p in placed)) / cast.rate
        if 60 * number <= FASTEST * max(seconds, _SHORTEST_VOICE):
            continue
        pace = 60 * number / max(seconds, _SHORTEST_VOICE)
        missing = (number * 60 / _WANTED - seconds) / (len(placed) - 1)
        wider = block.sentence_pause + Fraction(round(missing * 10), 10)
        offers = tried(
            (
                f"Pauses of {float(wider):g} s between sentences",
                partial(change_block, subject.session, timed.index, sentence_pause=wider),
                0,
            )
        )
        name = subject.named(timed.index)
        text = f"{name} goes at {pace:.0f} words a minute; guided practice is spoken at 90 to 120, with its pauses."
        yield subject.finding("pace", Severity.SHOULD, text, "", timed.index, remedies=offers)


def _sentences(subject: Subject) -> Iterator[Finding]:
    for said in subject.said:
        number = len(said.text.split())
        if number > _LONGEST_SENTENCE:
            text = f"A sentence of {number} words is longer than a breath: make two of it. “{said.text[:50]}…”"
            yield subject.finding("long-sentence", Severity.LOOK, text, str(said.sentence), said)


def _bell(subject: Subject) -> Iterator[Finding]:
    session, language = subject.session, subject.language
    naming = [said for said in subject.said if names(said.language, "listener", "bell", said.text)]
    last = [said for said in naming if (said.at or 0) > subject.timeline.length - _TAIL and _RINGS.search(said.text)]
    offers: tuple[FindingRemedy, ...] = ()
    if last and not session.end_bell:
        text = f"“{last[0].text[:60]}”: a bell is announced, and none is set to sound."
        ring = partial(change, session, end_bell=True)
        offers = tried(("Let the end bell sound", ring, 0))
        yield subject.finding("end-bell", Severity.MUST, text, "none", last[0], remedies=offers)
    elif session.end_bell and subject.said and not naming and not is_sleep(subject):
        text = "The end bell is not announced: a listener does not know that it means the end."
        talks = [(index, block) for index, block in enumerate(session.blocks) if isinstance(block, Talk)]
        words = _ANNOUNCE if language == "en" else library_words(language).get(_ANNOUNCE)
        if talks and words:
            index, talk = talks[-1]
            said = partial(change_block, session, index, paragraphs=(*talk.paragraphs, words))
            offers = tried((f"Say “{words}” at the end", said, 1))
        at = subject.timeline.bell_at
        yield subject.finding("end-bell", Severity.LOOK, text, "untold", None, at, "the end bell", offers)


def _eyes(subject: Subject) -> Iterator[Finding]:
    if not is_sleep(subject):
        return
    session = subject.session
    for said in subject.said:
        if said.block is not None and names(said.language, "listener", "open_eyes", said.text):
            leave = partial(without_sentence, session, said.block, said.text)
            offers = tried(("Leave the sentence out", leave, 0))
            text = f"“{said.text[:50]}” in a session that leads to sleep: it wakes those who have gone."
            yield subject.finding("open-eyes", Severity.MUST, text, "said", said, remedies=offers)
    if session.end_bell:
        text = "The end bell rings in a session that leads to sleep: it wakes those who have gone."
        offers = tried(("Leave the end bell out", partial(change, session, end_bell=False), 0))
        at = subject.timeline.bell_at
        yield subject.finding("open-eyes", Severity.SHOULD, text, "bell", None, at, "the end bell", offers)


def _target(subject: Subject) -> Iterator[Finding]:
    target = subject.session.target_length
    if target is not None and abs(over := subject.timeline.length - target) >= 1:
        way = "over" if over > 0 else "under"
        lasts = clock(subject.timeline.length)
        text = f"The session lasts {lasts}, {clock(abs(over))} {way} its target of {clock(target)}."
        yield subject.finding("target", Severity.LOOK, text, "", where="the whole session")


def _language(subject: Subject) -> Iterator[Finding]:
    session = subject.session
    talk = " ".join(said.text for said in subject.said if said.language == subject.language)
    spoken = sure_language(talk)
    if spoken is None or spoken == subject.language:
        return
    name, counted = language_name(spoken), language_name(session.language)
    text = f"The talk is in {name} and the session in {counted}: counts, cues and the narrator are {counted}."
    offers = tried((f"Make the session {name}", partial(change, session, language=spoken), 0))
    yield subject.finding("language", Severity.SHOULD, text, "", where="the whole session", remedies=offers)


CHECKS = (
    Check("silence", "Listener", "the longest time without a voice, and whether it was announced", _silence),
    Check("pace", "Listener", "words a minute of talk", _pace, needs="cast"),
    Check("long-sentence", "Listener", "sentences longer than a breath", _sentences),
    Check("end-bell", "Listener", "the end bell, and whether it is announced", _bell),
    Check("open-eyes", "Listener", "“open your eyes” and bells in a session that leads to sleep", _eyes),
    Check("language", "Listener", "the language of the talk, against the session's", _language),
    Check("target", "Listener", "the length against its target", _target),
)
