"""Exact seconds as whole ticks: what every block's body is counted in."""

from collections.abc import Iterable
from fractions import Fraction
from math import lcm


class Ticks:
    """Turns seconds into ticks of the coarsest clock that holds every one of them exactly."""

    def __init__(self, seconds: Iterable[Fraction]) -> None:
        self.per_second = lcm(1, *(each.denominator for each in seconds))

    def __call__(self, seconds: Fraction) -> int:
        """Whole ticks of a time that was among those given, or a sum of them."""
        return seconds.numerator * (self.per_second // seconds.denominator)
