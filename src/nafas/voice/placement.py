"""A clip in its place on the timeline."""

from dataclasses import dataclass

from nafas.timing.timeline import Moment
from nafas.voice.clip import Clip


@dataclass(frozen=True, eq=False)
class Placement:
    """A clip in its place.

    Attributes:
        moment: what it says, and when.
        clip: at the cast's rate.
        start: sample of the clip's first sample; below 0 its head is lost.
        target: the sample its beat (or, for talk, its start) falls on.
    """

    moment: Moment
    clip: Clip
    start: int
    target: int

    @property
    def end(self) -> int:
        """Sample after its last."""
        return self.start + self.clip.frames

    @property
    def said(self) -> int:
        """Sample at which the word is over; only its quiet tail comes after."""
        return self.start + self.clip.spoken
