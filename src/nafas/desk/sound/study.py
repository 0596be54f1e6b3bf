"""Looks at the recording that is the bed, in the background: its outline and its tempo. The newest asked for wins."""

import threading
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from nafas.errors import Cancelled, InputError
from nafas.sound.recording import Recording
from nafas.sound.tempo import RATE, Tempo, find_tempo
from nafas.sound.waveform import outline


@dataclass(frozen=True)
class Question:
    """Which part of which file, as it was when it was asked."""

    path: Path
    changed: int
    begin: float
    end: float | None


@dataclass(frozen=True, eq=False)
class Studied:
    """What was found of a recording; the tempo comes later than the rest."""

    question: Question
    seconds: float
    outline: NDArray[np.float32]
    tempo: Tempo | None = None


class Study(QObject):
    """Signals: found: Studied, first without and then with its tempo."""

    found = Signal(object)
    _ended = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.studied: Studied | None = None
        self._wanted: Question | None = None
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self.found.connect(self._keep)
        self._ended.connect(self._take)

    def look(self, path: Path, begin: float, end: float | None) -> None:
        """Look at a part of a file, unless that is known already or being looked at."""
        try:
            question = Question(path, path.stat().st_mtime_ns, begin, end)
        except OSError:
            return  # that it is gone is said where it is played
        if question == self._wanted:
            return
        self._wanted = question
        self._stop.set()
        if self._thread is None:
            self._begin(question)

    def stop(self) -> None:
        """Stop, and wait until it has stopped."""
        self._wanted = None
        self._stop.set()
        if self._thread is not None:
            self._thread.join(timeout=10)

    def _begin(self, question: Question) -> None:
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, args=(question, self._stop), name="study", daemon=True)
        self._thread.start()

    def _run(self, question: Question, stop: threading.Event) -> None:
        try:
            at_its_own = Recording(question.path, Recording(question.path, RATE).file_rate)
            seen = Studied(question, at_its_own.seconds, outline(at_its_own, stopped=stop.is_set))
            self.found.emit(seen)
            tempo = find_tempo(Recording(question.path, RATE), question.begin, question.end, stop.is_set)
            self.found.emit(Studied(question, seen.seconds, seen.outline, tempo))
        except (Cancelled, InputError):
            pass  # a fault of the file is said where it is played
        self._ended.emit(question)

    def _keep(self, studied: Studied) -> None:
        if studied.question == self._wanted:
            self.studied = studied

    def _take(self, question: Question) -> None:
        if self._thread is not None:
            self._thread.join()
        self._thread = None
        if self._wanted is not None and self._wanted != question:
            self._begin(self._wanted)
