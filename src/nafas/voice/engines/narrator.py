"""The narrator: gives every line of a session its clips, from the take book or, where it has none, the stand-in.

Also the timing's source of spoken lengths. Clips and lengths are kept, so that an edit costs nothing.
"""

from fractions import Fraction
from pathlib import Path
from threading import Lock

import numpy as np

from nafas.errors import InputError
from nafas.script.model.session import Session, Voice
from nafas.state.permissions import asset_path
from nafas.voice.beat.felt_beat import felt_beat
from nafas.voice.clip import Clip, tapered
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.engine import Engine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.level import speech_bounds, speech_gain, tame_peaks
from nafas.voice.takebook.book import INDEX, Take, TakeBook


class Narrator:
    """The voice of one session.

    Args:
        voice: the session's choice.
        language: the session's language.
        folder: where the session's relative paths start.
        engine: the stand-in; eSpeak NG through the disk cache when None.
        strict: a broken take stops the work (a render); otherwise it is noted in `problems` and the
            stand-in speaks instead (the window).

    Raises:
        InputError: strict, and the take book cannot be opened.
    """

    def __init__(
        self, voice: Voice, language: str, folder: Path, engine: Engine | None = None, strict: bool = True
    ) -> None:
        self._asked, self.folder = voice, folder
        self.language = language
        self.strict = strict
        self.problems: dict[str, InputError] = {}
        self._engine = engine or CachedEngine(Espeak())
        self._voice = voice.engine_voice or language
        self._pace = voice.pace
        self._stand_ins: dict[str, Clip] = {}
        self._takes: dict[Take, Clip | None] = {}
        self._lengths: dict[str, Fraction] = {}
        self._lock = Lock()
        self.book: TakeBook | None = None
        if voice.take_book is not None:
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

    def reopened(self) -> "Narrator":
        """A narrator on the take book as it is on disk now; what has been read and has not changed is kept."""
        new = Narrator(self._asked, self.language, self.folder, self._engine, self.strict)
        new._stand_ins, new._lock = self._stand_ins, self._lock  # what is shared has one lock
        if new.book and self.book and new.book.index.chain == self.book.index.chain:
            with self._lock:  # a worker may be reading takes just now
                new._takes = {take: clip for take, clip in self._takes.items() if clip is not None}
        return new

    def _problem(self, error: InputError) -> None:
        if self.strict:
            raise error
        self.problems[error.place] = error

    def clips(self, text: str) -> tuple[Clip, ...]:
        """The clips that say a line, at least one: the take book's, else the stand-in's."""
        takes = self.book.takes(text, self.language) if self.book else ()
        # A take that may be another line is used only where there is no better.
        takes = tuple(take for take in takes if take.sure) or takes
        found = tuple(clip for clip in map(self._read_take, takes) if clip is not None)
        return found or (self._stand_in(text),)

    def spoken_length(self, text: str) -> Fraction:
        """Exact seconds of the clip that will say a line of talk: the first of its clips."""
        length = self._lengths.get(text)
        if length is None:
            length = self._lengths[text] = self.clips(text)[0].seconds
        return length

    def known_length(self, text: str) -> Fraction | None:
        """Seconds of a line if it has been read already, without reading anything; else None."""
        return self._lengths.get(text)

    def _read_take(self, take: Take) -> Clip | None:
        with self._lock:
            if take not in self._takes:
                assert self.book is not None
                clip = None
                try:
                    clip = self.book.clip(take)
                except InputError as error:
                    self._problem(error)
                self._takes[take] = clip
            return self._takes[take]

    def _stand_in(self, text: str) -> Clip:
        with self._lock:
            if text not in self._stand_ins:
                self._stand_ins[text] = stand_in_clip(self._engine, text, self._voice, self._pace)
            return self._stand_ins[text]


def stand_in_clip(engine: Engine, text: str, voice: str, pace: int) -> Clip:
    """A line read by an engine, trimmed, levelled and with its felt beat. Unsayable text gives 50 ms of silence."""
    samples, rate = engine.read(text, voice, pace)
    begin, end = speech_bounds(samples, rate)
    part = samples[begin:end]
    if not len(part):
        return Clip(text, "stand-in (silent)", np.zeros(rate // 20, np.float32), rate, 0.0, True)
    part = tapered(tame_peaks(part * np.float32(10 ** (speech_gain(part, rate) / 20)), rate), rate)
    return Clip(text, "stand-in", part, rate, felt_beat(part, rate), True)


def session_narrator(session: Session, folder: Path, strict: bool = True) -> Narrator:
    """The narrator a session asks for; `folder` is where its file stands."""
    return Narrator(session.voice, session.language, folder, strict=strict)
