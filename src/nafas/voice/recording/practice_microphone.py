"""The practice microphone as a device: asked for a line, it says it, with the ways of a person, and knows what it said.

Like any microphone it gives sound without end: between the lines, the room.
"""

import numpy as np

from nafas.voice.clip import Samples
from nafas.voice.engines.engine import Engine
from nafas.voice.recording.practice import RATE, Manners, Spoken, breath, click, cough, practice_line, room

_ROOM_SECONDS = 4


class PracticeMicrophone:
    """A simulated microphone. The same seed and questions, the same sound.

    Attributes:
        rate: samples a second.
        truth: what was said so far: for each line its text (None for a cough), begin and end in seconds.
    """

    rate = RATE
    name = "Practice microphone (simulated)"

    def __init__(self, engine: Engine, manners: Manners, seed: int = 1) -> None:
        self._engine, self._manners = engine, manners
        self._draw = np.random.default_rng(seed)
        self._room = room(_ROOM_SECONDS * RATE, manners, self._draw)
        self._at = 0
        self._waiting: list[tuple[int, Samples]] = []
        self.truth: list[tuple[str | None, Spoken]] = []

    def ask(self, text: str) -> None:
        """Hold a line up to the reader: it will be said after a moment, or not, as people do."""
        draw, manners = self._draw, self._manners
        at = self._at + int(RATE * draw.uniform(0.35, 0.6))

        def put(sound: Samples, said: str | None, spoken: bool = True) -> None:
            nonlocal at
            self._waiting.append((at, sound))
            if spoken:
                self.truth.append((said, Spoken(None, at / RATE, (at + len(sound)) / RATE)))
            at += len(sound)

        if draw.random() < manners.cough:
            put(cough(draw), None)
            at += int(0.5 * RATE)
        if draw.random() < manners.click:
            put(click(draw), None, spoken=False)
            at += int(0.35 * RATE)
        if draw.random() < manners.breath:
            put(breath(draw), None, spoken=False)
            at += int(0.25 * RATE)
        if draw.random() < manners.skip:
            return
        for again in range(1 + (draw.random() < manners.retake)):
            at += int(0.55 * RATE) * bool(again)
            put(practice_line(self._engine, text, manners, draw), text)

    @property
    def speaking(self) -> bool:
        """Whether something is still to be said."""
        return any(at + len(sound) > self._at for at, sound in self._waiting)

    def read(self, frames: int) -> Samples:
        """The next `frames` samples, shape (frames,)."""
        out = self._room[np.arange(self._at, self._at + frames) % len(self._room)].copy()
        for at, sound in self._waiting:
            begin, end = max(at, self._at), min(at + len(sound), self._at + frames)
            if begin < end:
                out[begin - self._at : end - self._at] += sound[begin - at : end - at]
        self._at += frames
        self._waiting = [(at, sound) for at, sound in self._waiting if at + len(sound) > self._at]
        return out
