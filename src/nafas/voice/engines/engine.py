"""What any engine that can read a line aloud offers: one small protocol."""

from typing import Protocol

from nafas.voice.level import Samples


class Engine(Protocol):
    """Reads lines aloud. The same words, voice, pace and reading always give the same sound."""

    @property
    def name(self) -> str:
        """Engine and version, part of the cache's key."""

    @property
    def readings(self) -> int:
        """How many readings of a line it can give that differ as a person's do; 1 where all are the same."""

    def read(self, text: str, voice: str, pace: int, reading: int = 0) -> tuple[Samples, int]:
        """Speak `text`.

        Args:
            text: one line.
            voice: the engine's own name of a voice.
            pace: words a minute.
            reading: which reading of it, from 0 to `readings` - 1.

        Returns:
            Mono samples, shape (n,), float32, in steps of 1/32768, and their rate.

        Raises:
            InputError: the engine has no such voice, or cannot run here.
        """
