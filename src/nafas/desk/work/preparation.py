"""Prepare a session for eye and ear: times at once, then voice and sound in the background.

On every edit the timeline is compiled straight away, with the lengths of lines already read and a paced guess for
others. A worker thread then reads what is missing, casts and lays out the mix; the newest edit wins. A voice that takes
its time reads in the order of time, a second's worth at a go: what it has read can be heard while it reads on.
"""

from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING
from typing import cast as as_type

from PySide6.QtCore import QObject, QTimer, Signal

from nafas.desk.work.background import Background, Note, Outcome
from nafas.errors import InputError
from nafas.plain_text import pluralize
from nafas.script import Session
from nafas.script.model.voice import Voice
from nafas.script.notation.typed.vocabulary import number_words
from nafas.suggest.length_fit import LengthFit, brought_to, fit
from nafas.timing import SpokenLength, SpokenLengths, Timeline, compile_session, paced
from nafas.voice import Cast, Narrator, cast_timeline
from nafas.voice.delivery import Delivery, spoken_lines
from nafas.voice.engines.voice_files import default_voice

if TYPE_CHECKING:
    from nafas.sound import Mix

RATE = 48_000
READ_SECONDS, FEW = 1.0, 2
"""For which a slow voice reads before what it has read is cast, longer each time; so many lines are read at once."""
PAUSE_MS, LONGEST_PAUSE_MS = 100, 400
"""Without an edit, after which the voice is read and cast; and at most, while one follows the other."""


Prepared = tuple[Session, Narrator, Cast, "Mix", int]
"""A session as it was cast, with its narrator, its mix, and how many lines are still to be read."""


class Preparation(QObject):
    """Turns sessions into timelines, casts and mixes.

    Signals:
        timed: a new timeline; exact unless some talk is not read yet.
        ready: cast and mix of the newest session are there too.
        failed: a message for people.
    """

    timed = Signal()
    ready = Signal()
    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.timeline: Timeline | None = None
        self.cast: Cast | None = None
        self.mix: Mix | None = None
        self.narrator: Narrator | None = None
        self._voice_key: tuple[Voice, str, Path, object] | None = None
        self._wanted: tuple[Session, Narrator] | None = None
        self._begun = self._closing = False
        self._passes = 0
        self.unread = 0
        """Lines the narrator is still to read; until then they are silent and last about as long."""
        self._background = Background("prepare", self)
        self._background.ended.connect(self._take)
        # The page is shown first: both need Python, and further letters of a word are soon there too.
        self._pause = QTimer(self, singleShot=True, interval=PAUSE_MS)
        self._longest = QTimer(self, singleShot=True, interval=LONGEST_PAUSE_MS)
        self._pause.timeout.connect(self._work)
        self._longest.timeout.connect(self._work)

    def begin(self) -> None:
        """Let the work start: after the first paint, since what it imports takes a second of both cores' time."""
        self._begun = True
        self._work()

    def prepare(self, session: Session, folder: Path) -> None:
        """Take up a new session. `timed` is emitted before this returns."""
        key = (session.voice, session.language, folder, default_voice(session.language))  # a voice may have been added
        if key != self._voice_key or self.narrator is None:
            self.narrator = Narrator(session.voice, session.language, folder, strict=False)
            self._voice_key = key
        narrator = self.narrator
        try:
            self.timeline = compile_session(session, self.spoken_length(session))
        except InputError as error:
            self.failed.emit(str(error))
            return
        self.timed.emit()
        self._wanted = (session, narrator)
        self._background.cancel()  # what is being prepared is old
        self._pause.start()
        if not self._longest.isActive():
            self._longest.start()

    def reread_voice(self, session: Session) -> None:
        """The take book has changed: cast the session again. What of it is unchanged is not read again."""
        if self.narrator is not None:
            self.narrator = self.narrator.reopened()
        if self.timeline is not None and self._voice_key is not None:
            self.prepare(session, self._voice_key[2])

    @property
    def fresh(self) -> bool:
        """Whether the cast is that of the newest edit."""
        return self.cast is not None and self.timeline is self.cast.timeline

    def spoken_length(self, session: Session) -> SpokenLength:
        """What says how long words take: lines already read, and a guess by pace for others."""
        return _known_lengths(self.narrator, session.voice.pace)

    def fit(self, target: Fraction | None) -> LengthFit | None:
        """The ways of the newest session to a length; None without one."""
        if self.timeline is None or target is None or not self.timeline.blocks:
            return None
        return fit(self.timeline.session, self.spoken_length(self.timeline.session), target)

    def fitted(self, session: Session, length: Fraction | None) -> tuple[Session, str]:
        """A session brought to a length by what is known of its words, and what was done to it."""
        return brought_to(session, self.spoken_length(session), length)

    def close(self) -> None:
        """Stop the work."""
        self._closing = True
        self._background.stop(5)

    @property
    def problems(self) -> list[str]:
        """Takes and voices that could not be used; the narrator, or eSpeak, speaks for them."""
        return [str(error) for error in self.narrator.problems.values()] if self.narrator else []

    @property
    def notes(self) -> list[str]:
        """What is to be reported of the newest cast and mix: what cannot be used or does not fit, or that all does."""
        cast, mix = self.cast, self.mix
        if cast is None or mix is None:
            return []
        notes = []
        if self.problems:
            notes.append(f"This cannot be used, the narrator reads instead: {self.problems[0]}")
        if self.unread:
            return [*notes, f"The narrator is reading: {pluralize(self.unread, 'line')} to go"]
        notes += mix.troubles
        if cast.misfits:
            message = f"{len(cast.misfits)} lines do not fit. The first:" if len(cast.misfits) > 1 else "Does not fit:"
            notes.append(f"{message} {cast.misfits[0]}")
        if cast.shortened:
            notes.append(f"{pluralize(len(cast.shortened), 'word is', 'words are')} shortened to fit")
        if cast.stand_ins and not notes:
            notes.append(f"{pluralize(cast.stand_ins, 'line is', 'lines are')} read by the narrator")
        if cast.waiting_lines:
            message = pluralize(len(cast.waiting_lines), "line has no take and stays", "lines have no take and stay")
            notes.append(f"{message} unsaid")
        if cast.placements and not notes:
            notes.append("Every line fits its slot")
        return notes

    def _work(self) -> None:
        """Take up what is wanted, unless something is being prepared: then it is taken up afterwards."""
        if self._wanted is None or self._closing or not self._begun or self._background.running:
            return
        self._pause.stop()
        self._longest.stop()
        wanted, self._wanted = self._wanted, None
        passes = self._passes
        self._background.run(lambda note: _prepared(*wanted, passes, note))

    def _take(self, outcome: Outcome) -> None:
        if self._closing:
            return
        if outcome.error is not None:
            self.failed.emit(outcome.words)
        elif not outcome.cancelled:
            session, narrator, cast, mix, unread = as_type("Prepared", outcome.made)
            # Where a newer edit, of the session or the take book, is on its way, this is not heard.
            if narrator is self.narrator and (self.timeline is None or session is self.timeline.session):
                self.timeline, self.cast, self.mix = cast.timeline, cast, mix
                self.unread = unread
                self._passes = self._passes + 1 if unread else 0
                if unread and self._wanted is None:
                    self._wanted = (session, narrator)  # read on
                self.ready.emit()
        if not self._pause.isActive():
            self._work()


def _known_lengths(narrator: Narrator | None, pace: int) -> SpokenLengths:
    guess = paced(pace)

    def length(text: str, delivery: Delivery) -> Fraction:
        return (narrator.known_length(text, delivery) if narrator else None) or guess(text)

    return SpokenLengths(
        lambda text: length(text, Delivery.TALK),
        lambda text: length(text, Delivery.WORD),
        lambda speaking: _known_lengths(narrator and narrator.of(speaking), speaking.voice.pace),
    )


def _prepared(session: Session, narrator: Narrator, passes: int, note: Note) -> Prepared:
    from nafas.sound import build_mix  # late: the first paint need not wait for it

    narrator.waits = True
    timeline = compile_session(session, narrator.spoken_length)
    unread = narrator.unread(spoken_lines(timeline))
    # Of a session that is to be read from nothing, what sounds without the voice is there at once.
    if unread and (passes or len(unread) <= FEW):
        narrator.read_ahead(unread, READ_SECONDS * max(1, passes))
        timeline = compile_session(session, narrator.spoken_length)
        unread = narrator.unread(spoken_lines(timeline))
    narrator.waits = bool(unread)
    note("reading", 0.5)
    cast = cast_timeline(timeline, narrator, RATE)
    note("casting", 0.8)
    mix = build_mix(cast, narrator.folder, strict=False)
    number_words()  # takes a tenth of a second once: not at the first letter that is typed
    return session, narrator, cast, mix, len(unread)
