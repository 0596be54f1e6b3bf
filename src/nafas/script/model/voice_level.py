"""How loud the voice is within a block."""

from typing import Annotated

from pydantic import AfterValidator, Field

from nafas.script.model.phase import Model

_Level = Annotated[float, Field(ge=-30, le=6), AfterValidator(lambda level: round(level, 2))]


class VoiceLevel(Model):
    """The voice's level in one block, against the session's.

    Attributes:
        level: dB, at the block's beginning.
        to: dB at its end, reached evenly; None: it stays. Each word and each sentence has one level, that of its place.
    """

    level: _Level = 0.0
    to: _Level | None = None

    def at(self, way: float) -> float:
        """dB at a place of the block, 0.0 its beginning, 1.0 its end."""
        return self.level if self.to is None else self.level + (self.to - self.level) * min(1.0, max(0.0, way))

    @property
    def text(self) -> str:
        """`-6 dB`, `0 dB to -12 dB`; `voice_level_of` reads it back."""
        first = f"{_signed(self.level)} dB"
        return first if self.to is None else f"{first} to {_signed(self.to)} dB"

    @property
    def words(self) -> str:
        """The same in a few words: "voice 0 to -12 dB"."""
        text = self.text if self.to is None else f"{_signed(self.level)} to {_signed(self.to)} dB"
        return f"voice {text}".replace("-", "\N{MINUS SIGN}")


def _signed(level: float) -> str:
    return f"{level:+g}" if level else "0"


def voice_level_of(text: str) -> VoiceLevel:
    """A level as `VoiceLevel.text` writes it; the unit may be left out. Raises ValueError."""
    first, to, last = (each.strip() for each in text.replace("\N{MINUS SIGN}", "-").lower().partition("to"))
    try:
        numbers = [float(each.removesuffix("db").replace(",", ".")) for each in ([first, last] if to else [first])]
        return VoiceLevel(level=numbers[0], to=numbers[1] if to else None)
    except ValueError:
        raise ValueError(f"{text[:30]!r} is not a voice level; write -6 dB, or 0 dB to -12 dB, from -30 to 6") from None
