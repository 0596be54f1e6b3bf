"""Recordings on disk: how long they are, to the sample."""

from fractions import Fraction
from pathlib import Path

from nafas.errors import InputError


def recording_length(path: Path) -> Fraction:
    """Exact seconds of an audio file: its frames over its rate.

    Raises:
        InputError: it is missing, not audio, or empty.
    """
    import soundfile

    try:
        info = soundfile.info(str(path))
    except (OSError, soundfile.LibsndfileError):
        raise InputError(
            str(path), "is not audio that can be read", "choose WAV, FLAC, Ogg, Opus, MP3 or AIFF"
        ) from None
    if info.frames <= 0 or info.samplerate <= 0:
        raise InputError(str(path), "holds no sound", "choose another recording")
    return Fraction(info.frames, info.samplerate)
