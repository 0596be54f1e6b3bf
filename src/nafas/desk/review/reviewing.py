"""Puts the newest cast session to the checks in the background; what must be listened to only where that is asked."""

from dataclasses import dataclass, replace

from PySide6.QtCore import QObject, Signal

from nafas.desk.work.background import Note
from nafas.desk.work.latest_task import LatestTask
from nafas.review.checks.finding import Measures, Subject
from nafas.review.checks.measures import measure_mix
from nafas.review.checks.register import Review, review
from nafas.sound import Mix
from nafas.timing import SpokenLength


@dataclass(frozen=True)
class Wanted:
    """A mix to be reviewed, what says how long its words take, and whether it is to be listened to."""

    mix: Mix
    spoken_length: SpokenLength
    listen: bool


@dataclass(frozen=True, eq=False)
class Reviewed:
    """What was found, what it was found in, and what says how long its words take."""

    subject: Subject
    review: Review
    spoken_length: SpokenLength


class Reviewing(LatestTask):
    """Signals: found: Reviewed, first without what has to be heard; progress: 0.0 to 1.0 of listening."""

    found = Signal(object)
    progress = Signal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._heard: tuple[Mix, Measures] | None = None

    def review(self, mix: Mix, spoken_length: SpokenLength, listen: bool) -> None:
        """Review this mix, unless that is done already or being done."""
        now = self.wanted
        if isinstance(now, Wanted) and now.mix is mix and now.listen >= listen:
            return
        self.ask(Wanted(mix, spoken_length, listen))

    def again(self) -> None:
        """Review the same mix once more: what is known of a producer's own words has changed."""
        if isinstance(self.wanted, Wanted):
            again, self.wanted = replace(self.wanted), None
            self.ask(again)

    def work(self, what: Wanted, note: Note) -> Reviewed:
        """Look at once, then listen."""
        mix = what.mix
        known = self._heard[1] if self._heard is not None and self._heard[0] is mix else None
        subject = Subject(mix.cast.timeline, mix.cast, mix, known)
        seen = Reviewed(subject, review(subject), what.spoken_length)
        if known is not None or not what.listen or not mix.length:
            return seen
        self.found.emit(seen)

        def tell(done: float) -> None:
            note("listening", done)
            self.progress.emit(done)

        measures = measure_mix(mix, tell)
        self._heard = mix, measures
        subject = Subject(mix.cast.timeline, mix.cast, mix, measures)
        return Reviewed(subject, review(subject), what.spoken_length)

    def take(self, made: Reviewed) -> None:
        self.found.emit(made)
