"""The narrator: gives every line of a session its clips, from the take book or, where it has none, read by an engine.

Also the timing's source of spoken lengths. Clips and lengths are kept, so that an edit costs nothing.
"""

import os
import time
from collections.abc import Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path
from threading import Lock

import numpy as np

from nafas.errors import InputError
from nafas.script.model.session import Session
from nafas.script.model.voice import Speaking, Voice
from nafas.state.permissions import asset_path
from nafas.timing.compile import SpokenLengths
from nafas.voice.clip import Clip
from nafas.voice.delivery import Delivery, SpokenLine
from nafas.voice.engines.choice import Reader, espeak, reader_for
from nafas.voice.engines.engine import Engine
from nafas.voice.engines.readings import read_clips
from nafas.voice.takebook.book import INDEX, Take, TakeBook

_FASTER = tuple(1 + step / 20 for step in range(1, 9))
"""How much quicker a word may be read to fit its place: up to 1.4 times (our own bound)."""
_RATE = 22_050


class Narrator:
    """The voice of one session.

    Args:
        voice: the session's choice.
        language: the session's language.
        folder: where the session's relative paths start.
        engine: reads in the place of the voice the session asks for.
        strict: a broken take, or a voice that is not here, stops the work (a render); otherwise it is noted in
            `problems` and another speaks instead (the window).
        main: the narrator of the session, of which this is one for some of its blocks.

    Raises:
        InputError: strict, and the take book or the voice cannot be had.
    """

    def __init__(
        self,
        voice: Voice,
        language: str,
        folder: Path,
        engine: Engine | None = None,
        strict: bool = True,
        main: "Narrator | None" = None,
    ) -> None:
        self._asked, self.folder = voice, folder
        self.language = language
        self.strict = strict
        self._main = main or self
        self._others: dict[Speaking, Narrator] = {}
        self.problems: dict[str, InputError] = {} if main is None else main.problems
        self._given = engine
        self.reader_changed = False
        """The voice that was asked for is not here, eSpeak reads instead; `problems` say why."""
        self.reader = self._reader(engine)
        self._read: dict[tuple[str, Delivery, float], tuple[Clip, ...]] = {}
        self._takes: dict[Take, Clip | None] = {}
        self._lengths: dict[tuple[str, Delivery], Fraction] = {}
        self._lock = Lock()
        self._waits = False
        self.book: TakeBook | None = None
        if main is not None and voice.take_book == main._asked.take_book:
            self.book, self._takes = main.book, main._takes
        elif voice.take_book is not None:
            try:
                self.book = TakeBook(asset_path(voice.take_book, folder))
                if voice.take_book.sha256 not in (None, self.book.sha256):
                    raise InputError(
                        str(self.book.folder / INDEX),
                        "is not the take book this session was made with",
                        "put that one back, or take its sha256 out of the session file",
                    )
            except InputError as error:
                self._problem(error)

    def _reader(self, engine: Engine | None) -> Reader:
        if engine is not None:
            return Reader(engine, self._asked.engine_voice or self.language, "narrator")
        try:
            return reader_for(self._asked, self.language)
        except InputError as error:
            self._problem(error)
            self.reader_changed = True
            return espeak(self._asked, self.language)

    def of(self, speaking: Speaking | None) -> "Narrator":
        """The narrator of some blocks that have a voice or a language of their own; this one where it is the same."""
        if speaking is None or (speaking.language, speaking.voice) == (self.language, self._asked):
            return self
        with self._lock:
            if speaking not in self._others:
                self._others[speaking] = Narrator(*speaking, self.folder, self._given, self.strict, main=self)
            return self._others[speaking]

    def of_line(self, language: str, book: str = "") -> "Narrator":
        """The narrator of lines of a language that have takes, or should have, in a take book (`Line.book`)."""
        path = book or self._book_path
        every = (self, *self._others.values())
        return next((each for each in every if (each._book_path, each.language) == (path, language)), self)

    @property
    def _book_path(self) -> str:
        return "" if self._asked.take_book is None else self._asked.take_book.path

    def reopened(self) -> "Narrator":
        """A narrator on the take book as it is on disk now; what has been read and has not changed is kept."""
        new = Narrator(self._asked, self.language, self.folder, self._given, self.strict)
        new._read, new._lock = self._read, self._lock  # what is shared has one lock
        new.waits = self.waits
        if new.book and self.book and new.book.index.chain == self.book.index.chain:
            with self._lock:  # a worker may be reading takes just now
                new._takes = {take: clip for take, clip in self._takes.items() if clip is not None}
        return new

    @property
    def waits(self) -> bool:
        """Whether lines that take long to read are left silent until `read_ahead` has read them."""
        return self._main._waits

    @waits.setter
    def waits(self, waits: bool) -> None:
        self._main._waits = waits

    def _problem(self, error: InputError) -> None:
        if self.strict:
            raise error
        self.problems[error.place] = error

    def clips(self, text: str, delivery: Delivery = Delivery.TALK) -> tuple[Clip, ...]:
        """The clips that say a line, at least one: the take book's, else the narrator's."""
        takes = tuple(clip for clip in map(self._read_take, self._takes_of(text)) if clip is not None)
        return takes or self._narrated(text, delivery)

    def _takes_of(self, text: str) -> tuple[Take, ...]:
        """The takes that say a line; one that may be another line is used only where there is no better."""
        takes = self.book.takes(text, self.language) if self.book else ()
        return tuple(take for take in takes if take.sure) or takes

    def example(self, text: str, talk: bool) -> Clip:
        """One clip of a line, to be heard: one that has been read already, where there is one."""
        wanted = (Delivery.TALK,) if talk else (Delivery.WORD, Delivery.CLOSE)
        read = next((delivery for delivery in wanted if (text, delivery, 1.0) in self._read), wanted[0])
        return self.clips(text, read)[0]

    def clips_within(self, text: str, delivery: Delivery, samples: int, rate: int) -> tuple[Clip, ...]:
        """The narrator's clips of a word, read as much quicker as it takes for one to last at most so many samples at a
        rate from its beat on; the quickest where none does, and () where it is a take that is too long.
        """
        if not self._narrated(text, delivery)[0].stand_in:
            return ()
        narrated: tuple[Clip, ...] = ()
        for faster in _FASTER:
            if self.waits and self.reader.slow and (text, delivery, faster) not in self._read:
                break
            narrated = self._narrated(text, delivery, faster)
            if any(clip.at_rate(rate).after_beat <= samples for clip in narrated):
                break
        return narrated

    @property
    def spoken_length(self) -> SpokenLengths:
        """What says how long words take: exact seconds of the clip that will say a line of talk, the first of its
        clips, and of the longest that may open a phase.
        """
        return SpokenLengths(
            lambda text: self._length(text, Delivery.TALK),
            lambda text: self._length(text, Delivery.WORD),
            lambda speaking: self.of(speaking).spoken_length,
        )

    def _length(self, text: str, delivery: Delivery) -> Fraction:
        length = self._lengths.get((text, delivery))
        if length is None:
            clips = self.clips(text, delivery)
            talk = delivery is Delivery.TALK
            length = clips[0].seconds if talk else max(Fraction(clip.spoken, clip.rate) for clip in clips)
            if not clips[0].waiting:
                self._lengths[text, delivery] = length
        return length

    def known_length(self, text: str, delivery: Delivery = Delivery.TALK) -> Fraction | None:
        """Seconds of a line if it has been read already, without reading anything; else None."""
        return self._lengths.get((text, delivery))

    def unread(self, lines: Iterable[SpokenLine]) -> list[SpokenLine]:
        """Of some lines those that the narrators are still to read, each once."""
        return [
            line
            for line in dict.fromkeys(lines)
            if (reader := self.of(line.speaking)).reader.slow and reader._untaken(line)
        ]

    def _untaken(self, line: SpokenLine) -> bool:
        known = (line.text, line.delivery, 1.0) in self._read
        return not known and not (self.book and self.book.takes(line.text, self.language))

    def read_ahead(self, lines: Iterable[SpokenLine], seconds: float) -> None:
        """Read lines in their order for about so many seconds."""
        end = time.monotonic() + seconds
        for text, delivery, speaking in lines:
            self.of(speaking)._narrate(text, delivery)
            if time.monotonic() > end:
                break

    def read_all(self, lines: Iterable[SpokenLine]) -> None:
        """Read what is still to be read, takes and by the narrators, on all cores. Raises InputError."""
        by_voice: dict[Narrator, list[SpokenLine]] = {}
        for line in dict.fromkeys(lines):
            by_voice.setdefault(self.of(line.speaking), []).append(line)
        with ThreadPoolExecutor(max_workers=os.cpu_count() or 1) as pool:
            futures: list[Future[object]] = []
            for narrator, own in by_voice.items():
                takes = dict.fromkeys(take for line in own for take in narrator._takes_of(line.text))
                futures += [pool.submit(narrator._read_take, take) for take in takes if take not in narrator._takes]
                reads = narrator.book is None or narrator._asked.fills
                unread = [line for line in own if reads and narrator._untaken(line)]
                if unread:
                    narrator._narrate(*unread[0][:2])  # the voice is loaded, or found not to be here, once
                futures += [pool.submit(narrator._narrate, *line[:2]) for line in unread[1:]]
            for each in futures:
                each.result()

    def _read_take(self, take: Take) -> Clip | None:
        with self._lock:
            if take in self._takes:
                return self._takes[take]
        assert self.book is not None
        clip = None
        try:
            clip = self.book.clip(take)
        except InputError as error:
            self._problem(error)
        with self._lock:
            return self._takes.setdefault(take, clip)

    def _narrated(self, text: str, delivery: Delivery, faster: float = 1.0) -> tuple[Clip, ...]:
        """A line as the narrator reads it; silent where it is not to, or has not yet."""
        if self.book is not None and not self._asked.fills:
            return (self._silent(text, "no take"),)
        if self.waits and self.reader.slow and (text, delivery, faster) not in self._read:
            return (self._silent(text, "not read yet"),)
        return self._narrate(text, delivery, faster)

    def _narrate(self, text: str, delivery: Delivery, faster: float = 1.0) -> tuple[Clip, ...]:
        key = (text, delivery, faster)
        with self._lock:
            narrated = self._read.get(key)
        if narrated is None:
            narrated = self._fresh(text, delivery, faster)
            with self._lock:
                narrated = self._read.setdefault(key, narrated)
        return narrated

    def _fresh(self, text: str, delivery: Delivery, faster: float) -> tuple[Clip, ...]:
        voice, reader = self._asked, self.reader
        try:
            return read_clips(reader, text, delivery, voice.pace, voice.pronunciation, faster)
        except InputError as error:
            if not reader.slow or (self.strict and voice.model is not None):
                raise
            # The natural voice cannot be had here: eSpeak takes over, and it is said.
            self.problems[error.place] = error
            self.reader_changed = True
            self.reader = espeak(voice, self.language)
            return read_clips(self.reader, text, delivery, voice.pace, voice.pronunciation, faster)

    def _silent(self, text: str, name: str) -> Clip:
        """As long as it would take to say, and silent."""
        seconds = max(0.3, len(text.split()) * 60 / self._asked.pace)
        return Clip(text, name, np.zeros(round(seconds * _RATE), np.float32), _RATE, 0.0, waiting=True)


def session_narrator(session: Session, folder: Path, strict: bool = True) -> Narrator:
    """The narrator a session asks for; `folder` is where its file stands."""
    return Narrator(session.voice, session.language, folder, strict=strict)
