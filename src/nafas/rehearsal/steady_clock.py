"""The time that sounds now, without the steps in which a sound card tells it."""

from collections import deque

_WINDOW = 0.6
"""Seconds of looks that are taken together."""
_JUMP = 0.08
"""Seconds off at which the sound is elsewhere: a loop, a seek, another device."""


class SteadyClock:
    """Follows a place that is reported in steps: between looks time goes on at the speed of playing."""

    def __init__(self) -> None:
        self._looks: deque[tuple[float, float]] = deque()

    def at(self, now: float, value: float, speed: float = 1.0) -> float:
        """The place at a time.

        Args:
            now: of a clock that never goes back, in seconds.
            value: the place as the card tells it, in seconds.
            speed: seconds of the session in a second.
        """
        offset = value - now * speed
        if self._looks and abs(offset - self._mean) > _JUMP:
            self._looks.clear()
        self._looks.append((now, offset))
        while now - self._looks[0][0] > _WINDOW:
            self._looks.popleft()
        return now * speed + self._mean

    @property
    def _mean(self) -> float:
        return sum(offset for _, offset in self._looks) / len(self._looks)

    def forget(self) -> None:
        """Playing began again."""
        self._looks.clear()
