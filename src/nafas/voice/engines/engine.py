"""What any engine that can read a line aloud offers: one small protocol."""

from typing import Protocol

from nafas.voice.level import Samples


class Engine(Protocol):
    """Reads lines aloud. The same words, voice and pace always give the same sound."""

    @property
    def name(self) -> str:
        """Engine and version, part of the cache's key."""

    def read(self, text: str, voice: str, pace: int) -> tuple[Samples, int]:
        """Speak `text`.

        Args:
            text: one line.
            voice: the engine's own name of a voice.
            pace: words a minute.

        Returns:
            Mono samples, shape (n,), float32, and their rate.

        Raises:
            InputError: the engine has no such voice, or cannot run here.
        """
