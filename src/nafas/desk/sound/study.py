"""Looks at the recording that is the bed, in the background: its outline and its tempo. The newest asked for wins."""

import contextlib
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from nafas.desk.work.background import Note
from nafas.desk.work.latest_task import LatestTask
from nafas.sound.beat.onsets import RATE
from nafas.sound.beat.tempo import Tempo, find_tempo
from nafas.sound.bed.waveform import outline
from nafas.sound.files.recording import Recording


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


class Study(LatestTask):
    """Signals: found: Studied, first without and then with its tempo."""

    found = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.studied: Studied | None = None
        self.found.connect(self._keep)

    def look(self, path: Path, begin: float, end: float | None) -> None:
        """Look at a part of a file, unless that is known already or being looked at."""
        with contextlib.suppress(OSError):  # that it is gone is said where it is played
            self.ask(Question(path, path.stat().st_mtime_ns, begin, end))

    def work(self, what: Question, note: Note) -> Studied:
        """Look at a recording. Raises InputError."""
        low = Recording(what.path, RATE)
        own = Recording(what.path, low.file_rate)
        seen = Studied(what, own.seconds, outline(own, stopped=note.stopped))
        if not note.stopped():
            self.found.emit(seen)
        return replace(seen, tempo=find_tempo(low, what.begin, what.end, note.stopped))

    def take(self, made: Studied) -> None:
        """Tell what was found."""
        self.found.emit(made)

    def _keep(self, studied: Studied) -> None:
        if studied.question == self.wanted:
            self.studied = studied
