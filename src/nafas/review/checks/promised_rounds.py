"""Rounds, breaths, strokes and sets that are promised, held against those that are built."""

import re
from collections.abc import Iterator
from functools import partial

from nafas.plain_text import pluralize
from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.review.checks.quoting import firmly, promising, quoted, rewritten
from nafas.script.model.blocks import BreathSet, Strokes
from nafas.script.model.phase import PhaseKind
from nafas.suggest.finding_remedies import tried, with_rounds, with_words

FREQUENCY = re.compile(r"\b(?:day|daily|week|month|often|usually)\b")
"""Words after which a number says how often to practise."""


def total(subject: Subject, index: int) -> int:
    """Rounds of a set; strokes of strokes."""
    block = subject.session.blocks[index]
    return block.strokes if isinstance(block, Strokes) else len(subject.timed(index).rounds)


def total_words(subject: Subject, index: int) -> str:
    """The same with its unit: "8 rounds"."""
    unit = "stroke" if isinstance(subject.session.blocks[index], Strokes) else "round"
    return pluralize(total(subject, index), unit)


def _meant(subject: Subject, index: int) -> set[int]:
    """Numbers that "so many rounds" may mean for a set."""
    block = subject.session.blocks[index]
    if isinstance(block, Strokes):
        return {block.strokes, block.demonstration} - {0}
    rounds = subject.timed(index).rounds
    steps: dict[int, int] = {}
    for one in rounds:
        steps[one.step] = steps.get(one.step, 0) + 1
    quiet = sum(not one.level.speaks for one in rounds)
    inhales = sum(phase.kind is PhaseKind.INHALE for one in rounds for phase in one.phases)
    return ({len(rounds), quiet, len(rounds) - quiet, inhales} | set(steps.values())) - {0}


def _rounds(subject: Subject) -> Iterator[Finding]:
    for said, sentence, promise in promising(subject, rests=False):
        places = subject.work_after(said.block)
        if not places or FREQUENCY.search(sentence.plain):
            continue
        asked = [*promise.rounds.finditer(sentence.plain), *promise.strokes.finditer(sentence.plain)]
        sure = {match.start() for match in asked}
        if "take" not in sentence.plain:
            # "Three deep breaths" is an instruction, "for eight breaths" a promise.
            asked += [m for m in promise.breaths.finditer(sentence.plain) if m["n"] != "1" and not m["mark"]]
            sure |= {match.start() for match in asked}
        named = list(promise.named_rounds)
        if any(isinstance(subject.session.blocks[place], Strokes) for place in places):
            named.append(promise.named_strokes)
        own = (match for pattern in named for match in pattern.finditer(sentence.plain))
        asked += [match for match in own if match.start("n") not in {each.start("n") for each in asked}]
        for match in asked:
            if promise.alone.match(sentence.plain, match.start()) or "." in match["n"]:
                continue
            number = int(match["n"])
            fits = set().union(*(_meant(subject, index) for index in places))
            if number in fits or number == sum(total(subject, index) for index in places):
                continue
            index, built = places[0], total_words(subject, places[0])
            unit = built.split()[1].rstrip("s")
            old, new = rewritten(sentence, match, total(subject, index), said.language)
            where = "the set" if said.title and said.block is not None else subject.named(index)
            text = f"“{quoted(sentence, match)}” is promised; {where} has {built}, so whoever counts along is lost."
            say = partial(with_words, subject.session, said.block, old, new, said.title)
            offers = tried(
                (f"Make it {pluralize(number, unit)}", partial(with_rounds, subject.session, index, number), 0),
                (f"Say {built}", say, int(not said.title)),
            )
            grave = firmly(promise, sentence, Severity.MUST)
            if match.start() not in sure:
                grave, text = Severity.LOOK, f"“{quoted(sentence, match)}” may be a promise; {where} has {built}."
            yield subject.finding("promised-rounds", grave, text, f"{number} {unit}", said, remedies=offers)


def _sets(subject: Subject) -> Iterator[Finding]:
    for said, sentence, promise in promising(subject):
        group = subject.work_after(said.block)
        later = [index for index in subject.work if said.block is None or index >= said.block]
        for match in promise.sets.finditer(sentence.plain):
            if not later or float(match["n"]) in (1, len(later), len(group), len(subject.work)):
                continue
            text = f"“{quoted(sentence, match)}” is promised; {pluralize(len(group), 'set follows', 'sets follow')}."
            yield subject.finding("promised-sets", firmly(promise, sentence, Severity.MUST), text, match["n"], said)


def _alone(subject: Subject) -> Iterator[Finding]:
    for said, sentence, promise in promising(subject, titles=False):
        places = [p for p in subject.work_after(said.block) if isinstance(subject.session.blocks[p], BreathSet)]
        quiet = [sum(not one.level.speaks for one in subject.timed(index).rounds) for index in places]
        for match in promise.alone.finditer(sentence.plain):
            if not places or float(match["n"]) in quiet:
                continue
            built = pluralize(quiet[0], "round") if quiet[0] else "no round"
            name = subject.named(places[0])
            text = f"“{quoted(sentence, match)}” is promised; {name} has {built} without the voice."
            yield subject.finding("promised-alone", Severity.MUST, text, match["n"], said)


CHECKS = (
    Check("promised-rounds", "Promises", "rounds, breaths and strokes named in talk and titles", _rounds),
    Check("promised-sets", "Promises", "how many sets are announced", _sets),
    Check("promised-alone", "Promises", "rounds promised on one's own, against those without the voice", _alone),
)
