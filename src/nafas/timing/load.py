"""What a set asks of the breath, as far as its script says: breaths a minute, exhale to inhale, and holds.

How much air that moves is not among it. Alveolar ventilation is (tidal volume - dead space) * rate (textbook; from
memory); who breathes slower breathes deeper, by as much as no script says. So a figure of it would be a guess.
"""

from dataclasses import dataclass
from fractions import Fraction

from nafas.script.expansion import Round
from nafas.script.model.blocks import Strokes
from nafas.script.model.phase import PhaseKind
from nafas.timing.arc import breaths_a_minute
from nafas.timing.timeline import TimedBlock, Timeline

Bounds = tuple[Fraction, Fraction]
"""The least and the most of something."""


@dataclass(frozen=True)
class Load:
    """What one set asks, or several together.

    Attributes:
        rate: breaths, or strokes, a minute.
        ratio: of exhale to inhale; None where there is no inhale or no exhale of its own.
        held: seconds of holds in all; `longest` of them.
        unit: what is counted in the rate.
    """

    rate: Bounds
    ratio: Bounds | None
    held: Fraction
    longest: Fraction
    unit: str = "breaths"

    def with_other(self, other: "Load") -> "Load":
        """Of both together."""
        ratios = [ratio for ratio in (self.ratio, other.ratio) if ratio is not None]
        ratio = (min(low for low, _ in ratios), max(high for _, high in ratios)) if ratios else None
        rate = min(self.rate[0], other.rate[0]), max(self.rate[1], other.rate[1])
        return Load(rate, ratio, self.held + other.held, max(self.longest, other.longest))

    @property
    def words(self) -> str:
        """ "6 breaths a minute, exhale 1.5 times the inhale, no holds"."""
        parts = [f"{_range(self.rate, 1)} {self.unit} a minute"]
        if self.ratio is not None:
            same = self.ratio == (Fraction(1), Fraction(1))
            parts.append("exhale as long as the inhale" if same else f"exhale {_range(self.ratio, 2)} times the inhale")
        if self.held:
            parts.append(f"{float(self.held):.3g} s held, at most {float(self.longest):.3g} s at once")
        else:
            parts.append("no holds")
        return ", ".join(parts)


def load_of(block: TimedBlock) -> Load | None:
    """What a block asks; None where the breath is the listener's own."""
    if isinstance(block.block, Strokes):
        return Load((block.block.per_minute, block.block.per_minute), None, Fraction(0), Fraction(0), "strokes")
    total: Load | None = None
    held = Fraction(0)
    seen: set[tuple[int, Fraction]] = set()
    for one in block.rounds:
        own, alike = _of_round(one), (id(one.phases), one.seconds)
        held += own.held
        if alike not in seen:
            seen.add(alike)
            total = own if total is None else total.with_other(own)
    return None if total is None else Load(total.rate, total.ratio, held, total.longest)


def whole_load(timeline: Timeline) -> Load | None:
    """What all breath sets of a session ask together, strokes aside; None where there are none."""
    total: Load | None = None
    for block in timeline.blocks:
        load = None if isinstance(block.block, Strokes) else load_of(block)
        if load is not None:
            total = load if total is None else total.with_other(load)
    return total


def _of_round(one: Round) -> Load:
    """Of one round; alternating sides count together."""
    lasts: dict[PhaseKind, Fraction] = dict.fromkeys(PhaseKind, Fraction(0))
    longest = Fraction(0)
    for phase in one.phases:
        seconds = phase.length(one.count_length)
        lasts[phase.kind] += seconds
        longest = max(longest, seconds) if phase.kind.is_hold else longest
    inhale, exhale = lasts[PhaseKind.INHALE], lasts[PhaseKind.EXHALE]
    ratio = (exhale / inhale, exhale / inhale) if inhale and exhale else None
    rate = breaths_a_minute(one)
    return Load((rate, rate), ratio, lasts[PhaseKind.HOLD_FULL] + lasts[PhaseKind.HOLD_EMPTY], longest)


def _range(bounds: Bounds, places: int) -> str:
    low, high = (f"{float(value):.{places}f}".rstrip("0").rstrip(".") for value in bounds)
    return low if low == high else f"{low} to {high}"
