"""Files of sound: read only if whole, and the same samples wherever and in whatever order they are read."""

from nafas.audio_files.reader import AudioReader, sane

__all__ = ["AudioReader", "sane"]
