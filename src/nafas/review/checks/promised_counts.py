"""Counts that are promised for a breath in, a hold or a breath out, held against the patterns."""

import re
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import partial

from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.review.checks.quoting import firmly, promising, quoted, rewritten
from nafas.script.model.blocks import BreathSet
from nafas.script.model.phase import PhaseKind
from nafas.script.notation.typed.vocabulary import known_words
from nafas.suggest.finding_remedies import FindingRemedy, tried, with_counts, with_words

_KINDS = {
    "in": (PhaseKind.INHALE,),
    "out": (PhaseKind.EXHALE,),
    "full": (PhaseKind.HOLD_FULL, PhaseKind.HOLD_EMPTY),
    "empty": (PhaseKind.HOLD_EMPTY,),
}
_WORDS = {"in": "breathes in", "out": "breathes out", "full": "holds", "empty": "rests empty"}
_PREPOSITIONS = ("in", "out", "ein", "aus")
_NEAR = Fraction(1, 4)
"""Seconds by which a hold named in seconds may be longer or shorter."""


def _counts_of(subject: Subject, index: int, kinds: tuple[PhaseKind, ...]) -> set[Fraction]:
    lengths: set[Fraction] = set()
    for one in subject.timed(index).rounds:
        for phase in one.phases:
            if phase.kind in kinds:
                lengths |= {Fraction(phase.counts)} | {Fraction(part.counts) for part in phase.parts}
                lengths |= {phase.seconds} if phase.seconds is not None else set()
    return lengths - {Fraction(0)}


def _seconds_of(subject: Subject, index: int, kinds: tuple[PhaseKind, ...]) -> set[Fraction]:
    return {
        phase.counts * one.count_length if phase.seconds is None else phase.seconds
        for one in subject.timed(index).rounds
        for phase in one.phases
        if phase.kind in kinds
    }


def _counts(subject: Subject) -> Iterator[Finding]:
    for said, sentence, promise in promising(subject, rests=False):
        places = [p for p in subject.work_after(said.block) if isinstance(subject.session.blocks[p], BreathSet)]
        if not places:
            continue
        taken: set[int] = set()
        for direction, pattern, before, sure in (
            *((direction, pattern, False, True) for direction, pattern in promise.counts),
            *((direction, pattern, True, True) for direction, pattern in promise.counts_before),
            *((direction, pattern, True, False) for direction, pattern in promise.pictured),
        ):
            for match in pattern.finditer(sentence.plain):
                # "A longer one out" names no count.
                if match.start("n") in taken or "." in match["n"] or (before and match["n"] == "1"):
                    continue
                taken.add(match.start("n"))
                if not before and _counts_other_things(sentence.plain, match):
                    continue
                number, timed = int(match["n"]), not before and match["unit"] is not None
                asked: Callable[..., set[Fraction]] = _seconds_of if timed else _counts_of
                real = set().union(*(asked(subject, index, _KINDS[direction]) for index in places))
                if any(abs(each - number) <= (_NEAR if timed else 0) for each in real):
                    continue
                name = subject.named(places[0])
                counts = " or ".join(f"{float(each):g}" for each in sorted(real)[:4])
                built = f"{_WORDS[direction]} for {counts}" if real else f"never {_WORDS[direction]}"
                offers: tuple[FindingRemedy, ...] = ()
                if len(real) == 1 and (only := next(iter(real))).denominator == 1:
                    old, new = rewritten(sentence, match, int(only), said.language)
                    say = partial(with_words, subject.session, said.block, old, new, said.title)
                    offers = tried((f"Say {int(only)}", say, int(not said.title)))
                whole = partial(with_counts, subject.session, places[0], _KINDS[direction], number)
                if not timed and len(places) == 1:
                    offers += tried((f"Make it {number} counts", whole, 0))
                text = f"“{quoted(sentence, match)}” is promised; {name} {built}."
                detail = f"{direction} {number}"
                grave = firmly(promise, sentence, Severity.MUST)
                if not sure:
                    grave, text = Severity.LOOK, f"“{quoted(sentence, match)}” may be a promise; {name} {built}."
                yield subject.finding("promised-counts", grave, text, detail, said, remedies=offers)


def _counts_other_things(plain: str, match: re.Match[str]) -> bool:
    """Whether a bare "in" or "out" is a preposition: "in ten days", "out of ten sailors"."""
    after = re.match(r"\s*([^\W\d_]+)", plain[match.end() :])
    bare = plain[match.start() : match.end()].split()[0] in _PREPOSITIONS
    return bare and match["unit"] is None and after is not None and after[1] not in known_words()


CHECKS = (Check("promised-counts", "Promises", "counts named for in, out and holds, against the patterns", _counts),)
