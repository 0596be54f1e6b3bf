"""What a session says of its own accord, apart from cues and numbers; and a session's own wording of it all.

`{cue}`, `{side}`, `{way}` and `{n}` stand for what is put in. Phrases are the plain ones practitioners use (common
practice, no source); those in Spanish, French, Italian, German and Hindi are from memory.
"""

from typing import Annotated

from pydantic import Field, field_validator

from nafas.script.model.phase import Model, is_one_line

Phrase = Annotated[str, Field(min_length=1, max_length=80)] | None


class Wording(Model):
    """Words of the session's own, in the place of its language's. None: the language's."""

    inhale: Phrase = None
    hold_full: Phrase = None
    exhale: Phrase = None
    hold_empty: Phrase = None
    left: Phrase = None
    right: Phrase = None
    both: Phrase = None
    half: Phrase = None
    more: Phrase = None
    more_counts: Phrase = None
    release: Phrase = None
    last: Phrase = None
    normal_in: Phrase = None
    normal_out: Phrase = None
    mind: Phrase = None
    hum: Phrase = None
    chant: Phrase = None
    sigh: Phrase = None
    stroke: Phrase = None
    arms_up: Phrase = None
    arms_down: Phrase = None

    @field_validator("*")
    @classmethod
    def _is_plain(cls, words: str | None) -> str | None:
        if words is not None and (not is_one_line(words) or words != words.strip()):
            raise ValueError("these words are one line of plain text without spaces at its ends; fix them")
        return words


def parse_wording(text: str) -> Wording:
    """Read wording written as lines of `key: words`. Raises ValueError, naming the line."""
    wording: dict[str, str] = {}
    for number, line in enumerate(text.splitlines(), 1):
        key, colon, words = line.partition(":")
        name = key.strip().lower().replace(" ", "_").replace("-", "_")
        if not line.strip():
            continue
        if not colon or name not in Wording.model_fields:
            known = ", ".join(field.replace("_", " ") for field in Wording.model_fields)
            raise ValueError(
                f"line {number}: {key.strip()[:20]!r} is none of: {known}; write for example exhale: let go"
            )
        if words.strip():
            wording[name] = words.strip()
    return Wording.model_validate(wording)


def format_wording(wording: Wording) -> str:
    """Wording as lines that `parse_wording` reads."""
    said = ((name, getattr(wording, name)) for name in Wording.model_fields)
    return "\n".join(f"{name.replace('_', ' ')}: {words}" for name, words in said if words)


_EN = {
    "left": "left", "right": "right", "both": "both sides", "sided": "{cue} {side}",
    "half": "halfway", "more": "{n} more seconds", "more_counts": "{n} more", "release": "and release",
    "last": "last one", "normal_in": "one breath, just as it comes", "normal_out": "and as it goes",
    "mind": "in the mind", "hum": "hum", "chant": "chant", "sigh": "sigh", "stroke": "exhale",
    "arms_up": "arms up", "arms_down": "arms down",
    "long_in": "inhale slowly{way}", "long_full": "hold gently", "long_out": "exhale slowly{way}",
    "long_empty": "rest, and wait", "nose": " through the nose", "mouth": " through the mouth",
    "pursed": " through pursed lips", "throat": " with a narrowed throat", "fill": " until {n} full",
    "1/4": "a quarter", "1/3": "a third", "1/2": "half", "2/3": "two thirds", "3/4": "three quarters", "1": "quite",
}  # fmt: skip
_ES = {
    "left": "izquierda", "right": "derecha", "both": "ambos lados", "sided": "{cue}, {side}",
    "half": "a la mitad", "more": "{n} segundos más", "more_counts": "{n} más", "release": "y suelta",
    "last": "la última",
    "normal_in": "inhala normal", "normal_out": "y exhala", "mind": "con la mente", "hum": "zumbido",
    "chant": "canta", "sigh": "suspira", "stroke": "exhala", "arms_up": "brazos arriba", "arms_down": "brazos abajo",
    "long_in": "inhala despacio{way}", "long_full": "retén suavemente", "long_out": "exhala despacio{way}",
    "long_empty": "descansa y espera", "nose": " por la nariz", "mouth": " por la boca",
    "pursed": " con los labios fruncidos", "throat": " cerrando un poco la garganta",
}  # fmt: skip
_FR = {
    "left": "à gauche", "right": "à droite", "both": "des deux côtés", "sided": "{cue} {side}",
    "half": "à mi-chemin", "more": "encore {n} secondes", "more_counts": "encore {n}", "release": "et relâchez",
    "last": "la dernière",
    "normal_in": "une inspiration normale", "normal_out": "et expirez", "mind": "en pensée", "hum": "bourdonnez",
    "chant": "chantez", "sigh": "soupirez", "stroke": "expirez", "arms_up": "bras en haut", "arms_down": "bras en bas",
    "long_in": "inspirez lentement{way}", "long_full": "retenez doucement", "long_out": "expirez lentement{way}",
    "long_empty": "restez vide, et attendez", "nose": " par le nez", "mouth": " par la bouche",
    "pursed": " lèvres pincées", "throat": " la gorge un peu serrée",
}  # fmt: skip
_IT = {
    "left": "a sinistra", "right": "a destra", "both": "da entrambi i lati", "sided": "{cue} {side}",
    "half": "a metà", "more": "ancora {n} secondi", "more_counts": "ancora {n}", "release": "e rilascia",
    "last": "l'ultima",
    "normal_in": "un respiro normale", "normal_out": "e fuori", "mind": "con la mente", "hum": "ronzio",
    "chant": "canta", "sigh": "sospira", "stroke": "espira", "arms_up": "braccia su", "arms_down": "braccia giù",
    "long_in": "inspira lentamente{way}", "long_full": "trattieni con dolcezza", "long_out": "espira lentamente{way}",
    "long_empty": "riposa, e aspetta", "nose": " dal naso", "mouth": " dalla bocca",
    "pursed": " a labbra socchiuse", "throat": " stringendo un poco la gola",
}  # fmt: skip
_DE = {
    "left": "links", "right": "rechts", "both": "beidseitig", "sided": "{side} {cue}",
    "half": "die Hälfte", "more": "noch {n} Sekunden", "more_counts": "noch {n}", "release": "und loslassen",
    "last": "noch einmal",
    "normal_in": "normal einatmen", "normal_out": "und ausatmen", "mind": "in Gedanken", "hum": "summen",
    "chant": "tönen", "sigh": "seufzen", "stroke": "ausatmen", "arms_up": "Arme hoch", "arms_down": "Arme runter",
    "long_in": "langsam{way} einatmen", "long_full": "sanft halten", "long_out": "langsam{way} ausatmen",
    "long_empty": "ruhen und warten", "nose": " durch die Nase", "mouth": " durch den Mund",
    "pursed": " mit gespitzten Lippen", "throat": " mit enger Kehle",
}  # fmt: skip
_HI = {
    "left": "बाएँ से", "right": "दाएँ से", "both": "दोनों ओर से", "sided": "{side} {cue}",
    "half": "आधा समय", "more": "{n} सेकंड और", "more_counts": "{n} और", "release": "और छोड़ दें", "last": "आखिरी बार",
    "normal_in": "सामान्य साँस लें", "normal_out": "और छोड़ें", "mind": "मन में", "hum": "गुंजन करें",
    "chant": "उच्चारण करें", "sigh": "आह भरें", "stroke": "साँस छोड़ें", "arms_up": "हाथ ऊपर", "arms_down": "हाथ नीचे",
    "long_in": "{way} धीरे साँस लें", "long_full": "आराम से रोकें", "long_out": "{way} धीरे साँस छोड़ें",
    "long_empty": "खाली ठहरें", "nose": "नाक से", "mouth": "मुँह से", "pursed": "होंठ सिकोड़कर",
    "throat": "गला सिकोड़कर",
}  # fmt: skip

PHRASES = {
    "en": _EN, "es": _ES, "fr": _FR, "fr-be": _FR, "fr-ch": _FR, "it": _IT, "de": _DE, "hi": _HI,
}  # fmt: skip
