"""What a master can be written as: by the ending of its name, and for WAV and FLAC by the bits of a sample."""

from dataclasses import dataclass, field
from pathlib import Path

from nafas.errors import InputError

BITS = ("16", "24", "float")
"""Of a sample, in WAV; FLAC takes 16 and 24."""


@dataclass(frozen=True)
class Encoding:
    """How a file is written.

    Attributes:
        container, subtype: libsndfile's names.
        bits: "16", "24" or "float" where samples are kept; None for a codec that keeps none.
        rates: samples a second it can hold; () for any.
        options: of libsndfile, for codecs.
        bit_rate: kilobits a second, about, for judging the room a file needs.
    """

    container: str
    subtype: str
    bits: str | None = None
    rates: tuple[int, ...] = ()
    options: tuple[tuple[str, object], ...] = field(default=())
    bit_rate: int = 0

    def size(self, frames: int, channels: int, rate: int) -> int:
        """Bytes it will take, about."""
        if self.bits is None:
            return frames * self.bit_rate * 125 // rate
        width = {"16": 2, "24": 3, "float": 4}[self.bits]
        return frames * channels * width // (4 if self.container == "FLAC" else 1)


_PCM = {"16": "PCM_16", "24": "PCM_24", "float": "FLOAT"}
_MP3_RATES = (32_000, 44_100, 48_000)
_OPUS_RATES = (8000, 12_000, 16_000, 24_000, 48_000)
# MP3 at the constant bit rate of `mp3_file`. Vorbis and Opus near 170 and 140 kbit/s, clear for speech over a bed.
_CODECS = {
    ".mp3": Encoding("MP3", "MPEG_LAYER_III", None, _MP3_RATES, (), 200),
    ".ogg": Encoding("OGG", "VORBIS", None, (), (("compression_level", 0.5),), 200),
    ".opus": Encoding("OGG", "OPUS", None, _OPUS_RATES, (("compression_level", 0.75),), 160),
}
ENDINGS = (".wav", ".flac", *_CODECS)


def encoding_of(path: Path, bits: str = "24", rate: int = 48_000) -> Encoding:
    """How a file of this name is written.

    Args:
        path: its ending says the format.
        bits: of a sample, one of `BITS`, where the format keeps samples.
        rate: samples a second of the master.

    Raises:
        InputError: an ending, bits or a rate that it cannot be.
    """
    ending = path.suffix.lower()
    if ending in _CODECS:
        encoding = _CODECS[ending]
    elif ending in (".wav", ".flac"):
        if bits not in BITS or (ending == ".flac" and bits == "float"):
            raise InputError(str(path), f"{bits} bits cannot be written", "use 16 or 24, or float in a .wav")
        encoding = Encoding(ending[1:].upper(), _PCM[bits], bits)
    else:
        shown = path.suffix or "no ending"
        raise InputError(str(path), f"{shown} is not a known audio format", f"end the name in {', '.join(ENDINGS)}")
    if encoding.rates and rate not in encoding.rates:
        offered = ", ".join(map(str, encoding.rates))
        raise InputError(str(path), f"{ending[1:]} cannot hold {rate} Hz", f"render at one of {offered} Hz")
    return encoding
