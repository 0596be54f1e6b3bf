"""Minutes and seconds that are promised, held against how long things last."""

import re
from collections.abc import Iterator
from fractions import Fraction
from functools import partial

from nafas.plain_text import pluralize
from nafas.review.checks.finding import Check, Finding, Said, Severity, Subject
from nafas.review.checks.promised_rounds import FREQUENCY
from nafas.review.checks.quoting import firmly, promising, quoted, rewritten
from nafas.script.edits.session_edits import change_block
from nafas.script.model.blocks import BreathSet, Rest, Strokes
from nafas.suggest.finding_remedies import FindingRemedy, tried, with_words
from nafas.timing.clock import clock

_TOLERANCE, _LEAST_TOLERANCE = Fraction(5, 100), Fraction(2)
"""How far a length may be from what is promised: a share of it, and seconds (common practice, no source)."""
_LOOSE = Fraction(20, 100)
"""The same where the words say "about"."""
_OF_SESSION = Fraction(12, 100)
"""And for a whole session, whose minutes are named and not counted along."""
_COUNTS_GIVE = Fraction(15, 100)
"""By how much counts may change to keep a promise of time."""
_NOT_SO_LONG = re.compile(
    r"(?:after|before|every|ago|hours?|later|or|to|bis|oder|ou|o|или|each|pro|per|within|first|next|last)$"
    r"|(?<!\S)(?:in|dans|fra|через|dentro de)$"  # "in two minutes the kettle boils" is a time from now
)
_NOT_A_LENGTH = {"more", "a", "apart", "ago", "later", "before"}


def _lengths_of(subject: Subject, said: Said) -> Iterator[tuple[Fraction, str]]:
    """Every length that words at a place may speak of, the likeliest first, and what it is."""
    session, timeline = subject.session, subject.timeline
    blocks = session.blocks
    if said.block is not None:
        block, timed = blocks[said.block], subject.timed(said.block)
        if isinstance(block, Rest):
            yield timed.length, "this rest"
            if said.at is not None:
                yield timed.end - said.at, "what is left of this rest"
        elif said.title or isinstance(block, BreathSet | Strokes):
            yield timed.length, "this block"
        elif said.block + 1 < len(blocks) and isinstance(blocks[said.block + 1], Rest):
            yield subject.timed(said.block + 1).length, "the rest that follows"
    group = subject.work_after(said.block)
    for index in group:
        yield from _of_work(subject, index)
    if len(group) > 1:
        yield sum((subject.timed(index).length for index in group), Fraction(0)), "these sets together"
        yield subject.timed(group[-1]).end - subject.timed(group[0]).start, "these sets with their rests"
    later = range((said.block or 0) + 1, len(blocks))
    yield from ((subject.timed(n).length, subject.named(n)) for n in later if isinstance(blocks[n], Rest))
    yield timeline.length, "the session"
    if said.at is not None:
        yield timeline.length - said.at, "what is left of the session"


def _of_work(subject: Subject, index: int) -> Iterator[tuple[Fraction, str]]:
    name, timed, block = subject.named(index), subject.timed(index), subject.session.blocks[index]
    yield timed.length, name
    if timed.rounds:
        yield sum((one.seconds for one in timed.rounds), Fraction(0)), f"the rounds of {name}"
        quiet = sum((one.seconds for one in timed.rounds if not one.level.speaks), Fraction(0))
        if quiet:
            yield quiet, f"the practice alone in {name}"
        first = timed.rounds[0]
        for phase in first.phases:
            held = phase.counts * first.count_length if phase.seconds is None else phase.seconds
            yield held, f"a phase of {name}"
        yield first.seconds, f"a round of {name}"
    if isinstance(block, Strokes):
        yield block.stroke_seconds, f"the strokes of {name}"
        yield block.recovery, f"the recovery of {name}"


def _lengths(subject: Subject) -> Iterator[Finding]:
    for said, sentence, promise in promising(subject):
        for match in promise.lengths.finditer(sentence.plain):
            before = sentence.plain[: match.start()].rstrip()
            after = sentence.plain[match.end() :].split()[:1]
            if (
                (_NOT_SO_LONG.search(before) and not promise.part.search(sentence.plain))
                or _NOT_A_LENGTH & set(after)
                or FREQUENCY.search(sentence.plain)
            ):
                continue
            halves = bool(match["half"]) + bool(match["half_behind"])
            number = Fraction(match["n"]) + Fraction(halves, 2)
            seconds = number * (1 if promise.seconds.fullmatch(match["unit"]) else 60)
            about = promise.about.search(before) is not None
            bounds = bool(promise.least.search(before)), bool(promise.most.search(before)), about
            whole = said.block is None or promise.whole.search(sentence.plain)
            lengths = list(_lengths_of(subject, said))
            group = [] if said.block is None else subject.work_after(said.block)
            if group and promise.part.search(sentence.plain):
                lengths = [each for index in group for each in _of_work(subject, index)]
            elif whole:
                lengths = [(subject.timeline.length, "the session"), *lengths]
            if any(_holds(seconds, real, what, *bounds) for real, what in lengths):
                continue
            firm = whole or said.title or len(lengths) < 4
            real, what = lengths[0] if firm else min(lengths, key=lambda each: abs(each[0] - seconds))
            text = f"“{quoted(sentence, match)}” is promised; {what} lasts {clock(real)}."
            offers: tuple[FindingRemedy, ...] = ()
            minutes = round(real / 60)
            if number.denominator == 1 and number != minutes and abs(minutes * 60 - real) <= _OF_SESSION * real:
                old, new = rewritten(sentence, match, minutes, said.language)
                say = partial(with_words, subject.session, said.block, old, new, said.title)
                offers = tried((f"Say {pluralize(minutes, 'minute')}", say, int(not said.title)))
            if len(group) == 1 and what in (subject.named(group[0]), f"the rounds of {subject.named(group[0])}"):
                offers += _by_counts(subject, group[0], seconds)
            severity = firmly(promise, sentence, Severity.SHOULD if about else Severity.MUST)
            yield subject.finding("promised-length", severity, text, match.group().strip(), said, remedies=offers)


def _by_counts(subject: Subject, index: int, seconds: Fraction) -> tuple[FindingRemedy, ...]:
    """Other counts, with which the rounds of a set last so long exactly."""
    timed = subject.timed(index)
    now = sum((one.seconds for one in timed.rounds), Fraction(0))
    if timed.count_length is None or not now or abs(seconds / now - 1) > _COUNTS_GIVE:
        return ()
    length = timed.count_length * seconds / now
    title = f"Counts of {float(length):.3f} s"
    return tried((title, partial(change_block, subject.session, index, count_length=length, count_from=None), 0))


def _holds(promised: Fraction, real: Fraction, what: str, least: bool, most: bool, about: bool) -> bool:
    share = _LOOSE if about else _OF_SESSION if "the session" in what else _TOLERANCE
    if least:
        return real >= promised - _LEAST_TOLERANCE
    if most:
        return real <= promised + _LEAST_TOLERANCE
    return abs(real - promised) <= max(_LEAST_TOLERANCE, promised * share)


CHECKS = (Check("promised-length", "Promises", "minutes and seconds named, against how long things last", _lengths),)
