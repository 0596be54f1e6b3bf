"""The loudness and the channels a master should have, by use."""

from typing import NamedTuple


class Target(NamedTuple):
    """One use: its key, what to call it, LUFS, and whether it has one channel."""

    key: str
    words: str
    loudness: float
    mono: bool = False


TARGETS = (
    Target("spoken", "spoken show", -16.0),
    Target("spoken-mono", "spoken show, mono", -19.0, mono=True),
    Target("streaming", "music streaming", -14.0),
    Target("broadcast", "broadcast", -23.0),
)
"""Broadcast after EBU R 128; spoken shows and streaming as services ask (common practice, no source). A mono file at
-19 LUFS plays as loud on both loudspeakers as a stereo one at -16: BS.1770 adds channels up."""
