"""A session's own wording of what it says of its own accord, in the place of its language's (`languages/*.toml`)."""

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
    round: Phrase = None
    minute: Phrase = None
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
