"""The words a session speaks of its own accord: cues by language, and number words.

The cue words are the plain ones practitioners use (common practice, no source); a phase may carry its own.
Number words come from num2words.
"""

from functools import cache

from nafas.script.pattern import PhaseKind

_IN, _FULL, _OUT, _EMPTY = PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE, PhaseKind.HOLD_EMPTY

_CUES: dict[str, dict[PhaseKind, str]] = {
    "en": {_IN: "inhale", _FULL: "hold", _OUT: "exhale", _EMPTY: "rest"},
    "es": {_IN: "inhala", _FULL: "retén", _OUT: "exhala", _EMPTY: "descansa"},
    "fr": {_IN: "inspirez", _FULL: "retenez", _OUT: "expirez", _EMPTY: "restez vide"},
    "it": {_IN: "inspira", _FULL: "trattieni", _OUT: "espira", _EMPTY: "riposa"},
    "de": {_IN: "einatmen", _FULL: "halten", _OUT: "ausatmen", _EMPTY: "ruhen"},
    "hi": {_IN: "साँस लें", _FULL: "रोकें", _OUT: "साँस छोड़ें", _EMPTY: "ठहरें"},
}

LANGUAGES = tuple(_CUES)


def cue_word(kind: PhaseKind, language: str) -> str:
    """The short cue for a phase kind in one of `LANGUAGES`."""
    return _CUES[language][kind]


@cache
def count_word(count: int, language: str) -> str:
    """The word for a count, 0 or more, in one of `LANGUAGES`."""
    from num2words import num2words  # imported late: `nafas --version` must not pay for it

    return str(num2words(count, lang=language))
