"""A performance as it was spoken: its recording in place of the voice, with the session's bed and chimes."""

from dataclasses import replace
from typing import Any

import numpy as np

from nafas.rehearsal.performance import Performance
from nafas.sound.files.recording import Recording
from nafas.sound.mix.mix import Block, Mix
from nafas.voice.level import SPEECH_LEVEL, active_level

_EASE = 0.02
"""Seconds over which the recording comes and goes."""
_LEVEL_WORDS = 40
"""Words by which its level is found."""


class PerformedVoice:
    """Sounds like a mix's voice track: the recording where there is one, what was there before it elsewhere.

    Args:
        recording: of the performance, at the mix's rate.
        before: the track it stands in for.
        begin: frame of the session at which the recording begins.
        gain: of the recording.
    """

    def __init__(self, recording: Recording, before: Any, begin: int, gain: float) -> None:
        self._recording, self._before, self._begin, self._gain = recording, before, begin, gain
        self._end = begin + int(recording.seconds * recording.rate)
        self._ease = max(1, int(_EASE * recording.rate))

    def add_to(self, out: Block, start: int) -> None:
        """Add what sounds from frame `start` on to a block of shape (2, n)."""
        frames = out.shape[1]
        places = np.arange(start, start + frames)
        share = np.clip(np.minimum(places - self._begin, self._end - places) / self._ease, 0.0, 1.0).astype(np.float32)
        if share.any():
            out += self._recording.read(start - self._begin, frames) * (share * self._gain)
        if not share.all():
            other = np.zeros_like(out)
            self._before.add_to(other, start)
            out += other * (1 - share)


def as_spoken(mix: Mix, recording: Recording, performance: Performance, offset: float) -> Mix:
    """The mix with a performance as its voice, its constant lag taken off and its level brought to that of speech.

    Args:
        mix: of the session.
        recording: of the performance, at the mix's rate.
        performance: what was performed.
        offset: session time at which the recording begins, in seconds.
    """
    begin = round((offset - performance.lag) * mix.rate)
    parts = []
    said = [(word.start, word.end) for word in performance.words if word.start is not None and word.end is not None]
    for start, end in said[:: max(1, len(said) // _LEVEL_WORDS)]:
        parts.append(recording.read(round(start * mix.rate), round((end - start) * mix.rate)).mean(axis=0))
    spoken = np.concatenate(parts) if parts else np.zeros(1, np.float32)
    level = active_level(spoken.astype(np.float32), mix.rate)
    gain = 10 ** ((SPEECH_LEVEL - level) / 20) if level > -100 else 1.0
    voice: Any = PerformedVoice(recording, mix.voice, begin, gain)
    return replace(mix, voice=voice)
