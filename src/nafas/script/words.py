"""The words a session speaks of its own accord: cues by language, and number words.

The cue words are the plain ones practitioners use (common practice, no source); a phase may carry its own.
Number words come from num2words, but for Hindi.
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

# num2words has no Hindi. 0 to 60, from memory; a set of counts never needs more.
_HINDI = (
    "शून्य एक दो तीन चार पाँच छह सात आठ नौ दस ग्यारह बारह तेरह चौदह पंद्रह सोलह सत्रह अठारह उन्नीस बीस इक्कीस बाईस तेईस "
    "चौबीस पच्चीस छब्बीस सत्ताईस अट्ठाईस उनतीस तीस इकतीस बत्तीस तैंतीस चौंतीस पैंतीस छत्तीस सैंतीस अड़तीस उनतालीस चालीस "
    "इकतालीस बयालीस तैंतालीस चौवालीस पैंतालीस छियालीस सैंतालीस अड़तालीस उनचास पचास इक्यावन बावन तिरपन चौवन पचपन छप्पन "
    "सत्तावन अट्ठावन उनसठ साठ"
).split()

LANGUAGES = tuple(_CUES)


def cue_word(kind: PhaseKind, language: str) -> str:
    """The short cue for a phase kind in one of `LANGUAGES`."""
    return _CUES[language][kind]


@cache
def count_word(count: int, language: str) -> str:
    """The word for a count, 0 to 60, in one of `LANGUAGES`."""
    if language == "hi":
        return _HINDI[count]
    from num2words import num2words  # imported late: `nafas --version` must not pay for it

    return str(num2words(count, lang=language))
