"""Breathing along: the breather's own timing, by keys, against the guide's.

Nothing here is a score: it measures how far the breath was off the guide, so that the producer can tell a set that
asks too much.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from statistics import median, pstdev

import numpy as np

from nafas.script.model.phase import PhaseKind
from nafas.timing.timeline import EventKind, Timeline

_NEAR = 1.5
"""Seconds off its phase at which a breath may begin and still be of it, if nothing else fits better."""
_FEWEST = 6
"""Breaths from which a drift is reported."""
_NOTHING = Fraction(1, 1_000_000)
_EARLY = 0.25
"""Seconds before its end at which a hold is released early, or a breath is short: less is no more than a reaction."""


@dataclass(frozen=True)
class Press:
    """A key that went down or up: seconds of the session, and whether it means breathing in or out."""

    at: float
    inward: bool
    down: bool


@dataclass(frozen=True)
class Breath:
    """A breath of the breather's own, in seconds of the session."""

    inward: bool
    start: float
    end: float


@dataclass(frozen=True)
class PhaseTiming:
    """A phase of the guide and what was breathed for it, in seconds of the session.

    Attributes:
        kind, block, round, phase: of the guide.
        due, until: from when to when the guide has it.
        start, end: from when to when it was breathed, or for a hold was held; None where it was not, or is not known.
    """

    kind: PhaseKind
    block: str
    round: int
    phase: int
    due: float
    until: float
    start: float | None
    end: float | None

    @property
    def lag(self) -> float | None:
        """Seconds after the guide at which it was begun."""
        return None if self.start is None else self.start - self.due

    @property
    def early(self) -> float:
        """Seconds before the guide at which it was ended; 0 where it was not."""
        return 0.0 if self.end is None else max(0.0, self.until - self.end)


def breaths_of(presses: Sequence[Press], until: float) -> list[Breath]:
    """The breaths that keys say, in order of time.

    Held with one key (inward only), one breathes out from its release to its next press.

    Args:
        presses: in order of time.
        until: when listening ended: a key still down was down until then.
    """
    down: dict[bool, float] = {}
    breaths: list[Breath] = []
    for press in presses:
        if press.down:
            down.setdefault(press.inward, press.at)
        elif press.inward in down:
            breaths.append(Breath(press.inward, down.pop(press.inward), press.at))
    breaths += [Breath(inward, at, until) for inward, at in down.items() if until > at]
    breaths.sort(key=lambda breath: breath.start)
    if breaths and all(breath.inward for breath in breaths):
        ends = [*(after.start for after in breaths[1:]), until]
        breaths += [Breath(False, breath.end, end) for breath, end in zip(breaths, ends) if end > breath.end]
        breaths.sort(key=lambda breath: breath.start)
    return breaths


def against_guide(timeline: Timeline, presses: Sequence[Press], begin: float, end: float) -> list[PhaseTiming]:
    """Each phase that the guide had between two times, with what was breathed for it.

    Args:
        timeline: of the session.
        presses: in order of time.
        begin, end: what was rehearsed, in seconds.
    """
    moments = [
        m
        for m in timeline.moments
        if m.kind is EventKind.PHASE and begin - 1e-6 <= m.at and m.at + m.length <= end + 1e-6
    ]
    breaths = breaths_of(presses, end)
    one_key = not any(not press.inward for press in presses)
    free = list(breaths)
    timings: list[PhaseTiming] = []
    for moment in moments:
        kind = moment.phase_kind
        assert kind is not None
        due, until = float(moment.at), float(moment.at + moment.length)
        if kind.is_hold:
            start, stop = _held(breaths, due, until, kind, one_key)
        else:
            breath = _nearest(free, kind is PhaseKind.INHALE, due, until)
            if breath is not None:
                free.remove(breath)
            start, stop = (breath.start, breath.end) if breath is not None else (None, None)
        timings.append(PhaseTiming(kind, moment.block, moment.round, moment.phase, due, until, start, stop))
    return timings


def _nearest(free: Sequence[Breath], inward: bool, due: float, until: float) -> Breath | None:
    """The breath of a phase: the one that begins nearest to it, of those that begin about there."""
    near = max(_NEAR, (until - due) / 2)
    fits = [breath for breath in free if breath.inward is inward and abs(breath.start - due) <= near]
    return min(fits, key=lambda breath: abs(breath.start - due), default=None)


def _held(
    breaths: Sequence[Breath], due: float, until: float, kind: PhaseKind, one_key: bool
) -> tuple[float | None, float | None]:
    """From when to when a hold was held. With one key a hold full cannot be known from breathing out."""
    if one_key and kind is PhaseKind.HOLD_FULL:
        return None, None
    before = [
        breath for breath in breaths if breath.start < due + _EARLY and breath.inward is (kind is PhaseKind.HOLD_FULL)
    ]
    if not before:
        return None, None
    start = due if one_key else before[-1].end
    resumed = [breath.start for breath in breaths if breath.start > max(due, before[-1].start) + 1e-9]
    resumed = [at for at in resumed if not one_key or any(b.start == at and b.inward for b in breaths)]
    return start, min(resumed, default=until)


@dataclass(frozen=True)
class BreathingSummary:
    """How it went.

    Attributes:
        phases: that the guide had, and of them those that were breathed.
        lag, spread: of the beginnings of breaths: the middle, and the standard deviation; seconds. None for no breath.
        drift: seconds by which the lag grows in a minute; 0 where there are too few.
        given_up: (block, round) in which nothing was breathed.
        released: holds ended early: (block, round, seconds).
        short: breaths ended early: (block, round, seconds).
    """

    phases: int
    breathed: int
    lag: float | None
    spread: float | None
    drift: float
    given_up: tuple[tuple[str, int], ...]
    released: tuple[tuple[str, int, float], ...]
    short: tuple[tuple[str, int, float], ...]


def summary_of(timings: Sequence[PhaseTiming]) -> BreathingSummary:
    """What is to be said of a rehearsal that was breathed along."""
    breaths = [each for each in timings if not each.kind.is_hold]
    lags = [(each.due, each.lag) for each in breaths if each.lag is not None]
    values = [lag for _, lag in lags]
    drift = float(np.polyfit([at for at, _ in lags], values, 1)[0]) * 60 if len(lags) >= _FEWEST else 0.0
    rounds: dict[tuple[str, int], bool] = {}
    for each in breaths:
        index = (each.block, each.round)
        rounds[index] = rounds.get(index, False) or each.start is not None
    early = [each for each in timings if each.early > _EARLY]
    return BreathingSummary(
        phases=len(timings),
        breathed=len(values),
        lag=median(values) if values else None,
        spread=pstdev(values) if values else None,
        drift=drift,
        given_up=tuple(index for index, any_breath in rounds.items() if not any_breath),
        released=tuple((each.block, each.round, each.early) for each in early if each.kind.is_hold),
        short=tuple((each.block, each.round, each.early) for each in early if not each.kind.is_hold),
    )
