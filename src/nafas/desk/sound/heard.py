"""Sounds to be heard one by one: the chimes as they are chosen; the voice as it is shaped and as it was said."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from nafas.desk.audio.audition import Audition
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.labels import Label
from nafas.errors import InputError
from nafas.script import PhaseKind
from nafas.sound.chimes.plan import Chimes
from nafas.sound.mix.mix import Mix
from nafas.sound.mix.voice_chain import through
from nafas.voice.level import SPEECH_LEVEL

LISTENING = 9.0
"""dB: about what a master gets."""
_CHIMES = (
    (PhaseKind.INHALE, "In"), (PhaseKind.HOLD_FULL, "Hold full"), (PhaseKind.EXHALE, "Out"),
    (PhaseKind.HOLD_EMPTY, "Hold empty"),
)  # fmt: skip
_WORDS = 4  # of the voice that are heard one after another
_GAP = 0.35  # seconds between them


class HeardRow(QWidget):
    """Signals: said: words for the status line."""

    said = Signal(str)

    def __init__(self, audition: Audition) -> None:
        super().__init__()
        self._audition = audition
        self._mix: Mix | None = None
        self._folder = Path()
        self.buttons: dict[str, QPushButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        chimes: list[tuple[str, Callable[[], None]]] = [
            (text, partial(self.play_chime, kind)) for kind, text in _CHIMES
        ]
        chimes += [("Tick", partial(self.play_chime, None)), ("End bell", self.play_bell)]
        label = Label("Chimes", objectName="muted")
        label.setMinimumWidth(52)
        row.addWidget(label)
        for text, does in chimes:
            button = Button(text, lambda _=False, does=does: does(), kind="small")
            row.addWidget(button)
            self.buttons[text] = button
        row.addStretch(1)

    def show_mix(self, mix: Mix, folder: Path) -> None:
        """Play the sounds of a mix from now on; `folder` is where its session's paths start."""
        self._mix, self._folder = mix, folder

    def play_chime(self, kind: PhaseKind | None) -> None:
        """The chime of a phase kind as the session has it; the tick for None."""
        if self._mix is not None:
            levels = self._mix.cast.timeline.session.chimes
            self._play_own(kind, levels.tick if kind is None else levels.phase)

    def play_bell(self) -> None:
        """The end bell."""
        if self._mix is not None:
            self._play_own("bell", self._mix.cast.timeline.session.chimes.bell)

    def _play_own(self, what: PhaseKind | str | None, level: float) -> None:
        assert self._mix is not None
        chimes = Chimes(self._mix.cast.timeline.session.chimes, self._mix.rate, self._folder)
        try:
            if isinstance(what, PhaseKind):
                sound = chimes.phase(what)
            else:
                sound = chimes.bell if what == "bell" else chimes.tick
        except InputError as error:
            self.said.emit(str(error))
            return
        gain = np.float32(10 ** ((SPEECH_LEVEL + level + LISTENING) / 20))
        self._audition.play((sound.mean(axis=0) * gain).astype(np.float32), self._mix.rate)

    def play_voice(self, shaped: bool) -> None:
        """The first few words that are said, after the voice's chain or before it."""
        if self._mix is None:
            return
        mix, how = self._mix, self._mix.cast.timeline.session.voice_sound
        gap, parts = np.zeros(round(_GAP * mix.rate), np.float32), []
        for placement in mix.cast.placements[:_WORDS]:
            samples = placement.clip.samples
            made = through(samples, how, mix.rate) if shaped else samples
            parts += [made.mean(axis=0) if made.ndim == 2 else made, gap]
        if parts:
            gain = np.float32(10 ** (LISTENING / 20))
            self._audition.play(np.concatenate(parts) * gain, mix.rate)
