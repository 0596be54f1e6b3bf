"""What is safe to follow: recovery, strong work, sleep, holds; no promise of a cure and no shaming.

The bounds are those of the usual cautions (common practice, no source); they defer to licensed practice.
"""

import re
from collections.abc import Iterator
from fractions import Fraction
from functools import partial
from itertools import pairwise

from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.review.checks.patterns import names, words
from nafas.script.advice import LANDING, flags
from nafas.script.edits.session_edits import change_block
from nafas.script.model.blocks import BreathSet, Strokes
from nafas.script.model.phase import PhaseKind
from nafas.suggest.finding_remedies import FindingRemedy, tried, with_rest, without_sentence
from nafas.timing.clock import clock

_MOST_STRONG = 120
"""Seconds of strong work without natural breath that beginners are led through at most (common practice, no source)."""
_HOLD_REST = Fraction(15)
"""Seconds of natural breath after a retention, at least (common practice, no source)."""
_STRONG_HOLD, _TAUGHT_HOLD = 20, 90
"""Seconds from which a hold is strong work, and past which it belongs under a teacher's eye (the same)."""
_NO = (
    "not|never|no|nor|cannot|without|rather than|instead of|nicht|nie|niemals|keine?\\w?|ohne|ne|jamais|sans|pas|"
    "nunca|sin|ni|non|mai|senza|не|никогда|без"
)
_DENIED = re.compile(rf"(?:\b(?:{_NO})\b|n[’']t|\bn[’'])[^.;]{{0,24}}$", re.IGNORECASE)
"""What before a claim or an urge turns it round: "does not cure", "never push through"."""
_NOTHING = "nothing|nicht|nichts|keine?\\w?|rien|pas|nada|nulla|ничего"
_DENIED_BEHIND = re.compile(rf"^[^.;,]{{0,24}}\b(?:{_NOTHING})\b", re.IGNORECASE)
"""The same behind it: "heilt nichts"."""


def is_sleep(subject: Subject) -> bool:
    """Whether a session leads to sleep, by its title and its words."""
    texts = ((subject.language, subject.session.title), *((said.language, said.text) for said in subject.said))
    return any(names(language, "listener", "sleep", text) for language, text in texts)


def _held(subject: Subject, index: int, kinds: tuple[PhaseKind, ...] = tuple(PhaseKind)) -> Fraction:
    """Seconds of a block's longest hold as it is breathed: one that is written in seconds, or whose counts come to as
    long as strong work; 0 for none."""
    held = Fraction(0)
    for one in subject.timed(index).rounds:
        for phase in one.phases:
            lasts = phase.length(one.count_length)
            if phase.kind.is_hold and phase.kind in kinds and (phase.seconds is not None or lasts >= _STRONG_HOLD):
                held = max(held, lasts)
    return held


def _natural_after(subject: Subject, number: int) -> Fraction:
    """Seconds from a set to the next one, talk among them: the breath is the listener's own there."""
    later = [each for each in subject.work if each > number]
    return (subject.timed(later[0]).start if later else subject.timeline.length) - subject.timed(number).end


def _recovery(subject: Subject) -> Iterator[Finding]:
    session = subject.session
    for flag in flags(session):
        if flag.about != "landing":
            continue
        name, at = subject.named(flag.block), subject.timed(flag.block).end
        text = f"{name} has {flag.text.split(':')[0]}: breath needs {LANDING} s or more to settle after strokes."
        longer = partial(change_block, session, flag.block, recovery=Fraction(LANDING))
        offers = tried((f"Let it settle for {LANDING} s", longer, 0))
        yield subject.finding("recovery", Severity.MUST, text, "strokes", flag.block, at, remedies=offers)
    for index in subject.work:
        rest = _natural_after(subject, index)
        if not _held(subject, index) or rest >= _HOLD_REST:
            continue
        has = f"{float(rest):g} s of natural breath"
        text = f"After the hold in {subject.named(index)} there are {has}; 15 s or more let it settle."
        added = partial(with_rest, session, index + 1, _HOLD_REST, "Breathe naturally.")
        offers = tried(("Add 15 s of natural breath", added, 1))
        at = subject.timed(index).end
        yield subject.finding("recovery", Severity.SHOULD, text, "hold", index, at, remedies=offers)


def _strong(subject: Subject) -> Iterator[Finding]:
    """Strokes and long holds one after another with no natural breath between."""
    run, begun = Fraction(0), -1
    for index in subject.work:
        block, timed = subject.session.blocks[index], subject.timed(index)
        if not isinstance(block, Strokes) and _held(subject, index) < _STRONG_HOLD:
            run = Fraction(0)
            continue
        begun = index if run == 0 else begun
        if isinstance(block, Strokes):
            run += block.stroke_seconds + block.demonstration_seconds
        elif isinstance(block, BreathSet) and block.ease >= _HOLD_REST:
            run += max((one.seconds for one in timed.rounds), default=Fraction(0))
        else:
            run += timed.length
        if run > _MOST_STRONG:
            name = subject.named(index)
            so_far = f"{clock(run)} of strong work without natural breath, up to {name}"
            text = f"{so_far}: beginners need a break after every minute or two."
            yield subject.finding("strong-stretch", Severity.SHOULD, text, "", begun)
            run = Fraction(0)
        recovery = block.recovery if isinstance(block, Strokes) else Fraction(0)
        if recovery + _natural_after(subject, index) >= _HOLD_REST:
            run = Fraction(0)


def _vigorous_asleep(subject: Subject) -> Iterator[Finding]:
    if not is_sleep(subject):
        return
    for index in subject.work:
        if isinstance(subject.session.blocks[index], Strokes):
            text = f"{subject.named(index)} is vigorous, and the session leads to sleep: it wakes people up."
            yield subject.finding("sleep-work", Severity.MUST, text, "", index)


def _empty_after_strokes(subject: Subject) -> Iterator[Finding]:
    blocks = subject.session.blocks
    for index, (block, after) in enumerate(pairwise(blocks)):
        if not isinstance(block, Strokes) or not isinstance(after, BreathSet):
            continue
        if _held(subject, index + 1, (PhaseKind.HOLD_EMPTY,)):
            text = (
                f"{subject.named(index + 1)} holds the breath out straight after {subject.named(index)}: that is for "
                "practised people; say so, or hold with some breath in."
            )
            yield subject.finding("empty-after-strokes", Severity.SHOULD, text, "", index + 1)


def _long_hold(subject: Subject) -> Iterator[Finding]:
    for index in subject.work:
        held = _held(subject, index)
        if held > _TAUGHT_HOLD:
            name = subject.named(index)
            text = f"{name} holds for {clock(held)}: that is learnt with a licensed teacher; say so, or shorten it."
            yield subject.finding("long-hold", Severity.SHOULD, text, "", index)


def _worded(key: str, why: str, subject: Subject) -> Iterator[Finding]:
    for said in (*subject.said, *subject.titles):
        pattern = words(said.language, "claims", key)
        for match in pattern.finditer(said.text) if pattern is not None else ():
            before, behind = said.text[: match.start()], said.text[match.end() :]
            if _DENIED.search(before) or (key == "cure" and _DENIED_BEHIND.search(behind)):
                continue
            offers: tuple[FindingRemedy, ...] = ()
            if said.sentence and said.block is not None:
                leave = partial(without_sentence, subject.session, said.block, said.text)
                offers = tried(("Leave the sentence out", leave, 0))
            text = f"“{match.group()}”: {why}"
            yield subject.finding(key, Severity.MUST, text, match.group().lower(), said, remedies=offers)


def _illness(subject: Subject) -> Iterator[Finding]:
    """Sentences that name an illness or a medicine and are no caution; a person sees whether they promise something."""
    for said in (*subject.said, *subject.titles):
        named, care = words(said.language, "claims", "illness"), words(said.language, "claims", "care")
        match = named.search(said.text) if named is not None else None
        if match is None or (care is not None and care.search(said.text)) or _DENIED.search(said.text[: match.start()]):
            continue
        text = (
            f"“{said.text[:80]}” speaks of “{match.group()}”: promise nothing there, and leave advice to a clinician."
        )
        yield subject.finding("illness-named", Severity.LOOK, text, match.group().lower(), said)


_CURE = "nobody may promise that; say what the listener may notice instead."
_SHAMING = "anyone may let go early, and nothing should shame it."
CHECKS = (
    Check("recovery", "Cautions", "natural breath after strokes and long holds", _recovery),
    Check("strong-stretch", "Cautions", "the longest strong work without natural breath", _strong),
    Check("sleep-work", "Cautions", "vigorous work in a session that leads to sleep", _vigorous_asleep),
    Check("empty-after-strokes", "Cautions", "holds with empty lungs straight after strokes", _empty_after_strokes),
    Check("long-hold", "Cautions", "holds that are learnt with a licensed teacher", _long_hold),
    Check("cure", "Cautions", "promises of a cure, and claims that are not so", partial(_worded, "cure", _CURE)),
    Check("illness-named", "Cautions", "sentences that name an illness or a medicine and are no caution", _illness),
    Check("shaming", "Cautions", "words that shame an early release", partial(_worded, "shaming", _SHAMING)),
)
