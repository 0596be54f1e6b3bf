"""The loudness a master should have, by use."""

TARGETS = (
    ("spoken", "spoken show", -16.0),
    ("streaming", "music streaming", -14.0),
    ("broadcast", "broadcast", -23.0),
)
"""Key, words and LUFS. Broadcast after EBU R 128; spoken shows and streaming as services ask (common practice, no
source)."""
