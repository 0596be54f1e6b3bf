"""What went wrong in a performance: counts, cues and rounds against their fellows."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from nafas.plain_text import pluralize
from nafas.review.checks.finding import Severity
from nafas.script.performed import PerformedPhase, PerformedSet
from nafas.timing.clock import clock

_DRIFT = 0.04
"""Of a count by which a set's last rounds may differ from its first."""
_WANDER = 0.06
"""Standard deviation of a round's count, of the count, past which it is heard."""
_UNEVEN = 0.15
"""Of a count that one may be longer or shorter before it is reported (our own)."""
_LONGER = 0.12
"""Of a phase's usual length that one round's may differ."""


@dataclass(frozen=True)
class AuditFinding:
    """Something that went wrong: what kind, how much it matters, where it is heard, and what it is."""

    check: str
    severity: Severity
    at: float
    text: str


def judge_sets(sets: Sequence[PerformedSet]) -> list[AuditFinding]:
    """Everything that is wrong in the sets of a performance, in order of time."""
    findings: list[AuditFinding] = []
    for number, one in enumerate(sets, 1):
        findings += [*_numbers(one), *_order(one, number), *_drift(one, number), *_lengths(one)]
    return sorted(findings, key=lambda each: each.at)


def broken(findings: Sequence[AuditFinding]) -> int:
    """How many findings say that a word, a phase or a round is another than it should be."""
    return sum(finding.severity is Severity.MUST for finding in findings)


def drift_findings(sets: Sequence[PerformedSet]) -> list[AuditFinding]:
    """What can be said of the pace of sets whose words were not heard one by one."""
    return [finding for number, one in enumerate(sets, 1) for finding in _drift(one, number)]


def _name(phase: PerformedPhase) -> str:
    return phase.kind.plain


def _numbers(one: PerformedSet) -> Iterator[AuditFinding]:
    """Numbers missing, doubled, out of their order, or others than they should be."""
    for index, phases in enumerate(one.rounds, 1):
        for phase in phases:
            yield from _of_phase(phase, f"{_name(phase)} of round {index}")


def _of_phase(phase: PerformedPhase, where: str) -> Iterator[AuditFinding]:
    words = [word for word in phase.words if word.number]
    way = -1 if phase.falls else 1
    wanted = 2 if phase.words[0].kind is not None and not phase.falls else words[0].number if words else 0
    if words and wanted == 2 and words[0].number == 1:
        wanted = 1  # the cue went ahead
    for at, word in enumerate(words):
        after = words[at + 1].number if at + 1 < len(words) else None
        before = words[at - 1] if at else None
        message = f"“{before.text}, {word.text}”" if before is not None else f"“{word.text}” first"
        if word.number == wanted:
            pass
        elif before is not None and word.number == before.number:
            yield AuditFinding("doubled", Severity.MUST, word.beat, f"{message} in the {where}: it is said twice.")
        elif after == wanted + way:
            text = f"{message} in the {where}, where the number was {wanted}."
            yield AuditFinding("mislabelled", Severity.MUST, word.beat, text)
            wanted += way
            continue
        elif (word.number - wanted) * way > 0:
            text = f"{message} in the {where}: a number is missing or not heard."
            yield AuditFinding("missing", Severity.MUST, word.beat, text)
        else:
            yield AuditFinding("swapped", Severity.MUST, word.beat, f"{message} in the {where}: the order is broken.")
        wanted = word.number + way


def _order(one: PerformedSet, number: int) -> Iterator[AuditFinding]:
    """Cues in another order than in most rounds; a set that stops mid-breath; rounds with other counts."""
    pattern = one.pattern
    kinds = [kind for kind, _ in pattern]
    last = len(one.rounds)
    for index, phases in enumerate(one.rounds, 1):
        here = [phase.kind for phase in phases]
        at = phases[0].start
        if here != kinds:
            if index == last and len(here) < len(kinds) and here == kinds[: len(here)]:
                if not kinds[len(here)].is_hold:
                    said = kinds[len(here)].plain
                    text = f"Set {number} stops mid-breath: its last round has no {said}."
                    yield AuditFinding("mid-breath", Severity.MUST, at, text)
                continue
            heard, wanted = (", ".join(kind.plain for kind in row) for row in (here, kinds))
            text = f"Round {index} of set {number} is called {heard}; the others {wanted}."
            yield AuditFinding("cue-order", Severity.MUST, at, text)
            continue
        for phase, (_, counts) in zip(phases, pattern):
            if phase.counts != counts:
                text = (
                    f"The {_name(phase)} of round {index} has {pluralize(phase.counts, 'count')}, the others {counts}."
                )
                yield AuditFinding("counts-differ", Severity.MUST, phase.start, text)


def _drift(one: PerformedSet, number: int) -> Iterator[AuditFinding]:
    lengths = one.count_lengths
    if len(lengths) < 3:
        return
    times, counts = np.array(lengths).T
    usual = float(np.median(counts))
    slope, first = np.polyfit(times, counts, 1)
    begin, end = (float(first + slope * at) for at in (times[0], times[-1]))
    around = counts - (first + slope * times)
    if abs(end - begin) > _DRIFT * usual:
        where = f"between {clock(times[0])} and {clock(times[-1])}"
        text = f"The count of set {number} goes from {begin:.2f} to {end:.2f} s {where}."
        yield AuditFinding("drift", Severity.SHOULD, float(times[0]), text)
    if float(np.std(around)) > _WANDER * usual:
        text = f"The count of set {number} wanders: {counts.min():.2f} to {counts.max():.2f} s, mostly {usual:.2f} s."
        yield AuditFinding("wander", Severity.SHOULD, float(times[0]), text)


def _lengths(one: PerformedSet) -> Iterator[AuditFinding]:
    """Words off their count, and phases longer or shorter than their fellows."""
    pattern = one.pattern
    usual: dict[int, float] = {}
    alike = [phases for phases in one.rounds if tuple((p.kind, p.counts) for p in phases) == pattern]
    for index in range(len(pattern)):
        lengths = [phases[index].length for phases in alike if phases[index].length is not None]
        if len(lengths) >= 3:
            usual[index] = float(np.median(np.array(lengths, float)))
    for number, phases in enumerate(one.rounds, 1):
        if tuple((p.kind, p.counts) for p in phases) != pattern:
            continue
        for index, phase in enumerate(phases):
            length = phase.length
            if length is not None and index in usual and abs(length / usual[index] - 1) > _LONGER:
                text = (
                    f"The {_name(phase)} of round {number} lasts {length:.1f} s, the others about {usual[index]:.1f} s."
                )
                yield AuditFinding("phase-length", Severity.SHOULD, phase.start, text)
        steps = [(at, length) for phase in phases for at, length in phase.steps]
        if len(steps) >= 3:
            count = float(np.median([length for _, length in steps]))
            late = [(at, length) for at, length in steps if abs(length / count - 1) > _UNEVEN]
            if late:
                at, length = max(late, key=lambda step: abs(step[1] - count))
                text = f"A count of {length:.2f} s in round {number}, where a count is {count:.2f} s."
                yield AuditFinding("uneven", Severity.LOOK, at, text)
