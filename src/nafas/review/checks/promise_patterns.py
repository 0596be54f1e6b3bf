"""What promises look like: regular expressions over sentences whose numbers are digits, made of a language's words."""

import re
from dataclasses import dataclass
from functools import cache

from nafas.languages import read_words

_N = r"(?P<n>\d+(?:\.\d+)?)"
_NOT_AN_ADJECTIVE = r"(?:for|or|to|of|in|and|counts?|rounds?)\b"
_NOT_A_COUNT = ("%", "more", "or", "to", "even", "equal", "parts?", "places")


@dataclass(frozen=True)
class Patterns:
    """Compiled, with the number as group "n".

    Attributes:
        counts: by direction ("in", "full", "out", "empty"), the number behind it: "in for 4".
        counts_before: the same, the number before it: "4 in".
        rounds, breaths, strokes, sets, lengths: numbers with their units; "mark" names what stands between.
        alone: "3 more on your own". starts: "begin on the left", its side as group "side".
        last_set, last_round: "the last set", "the last one".
        doing, past: words by which a sentence speaks of what is done now, or of what was.
        seconds, least, most, about, whole: words that say what a length means; for `fullmatch` and before a number.
    """

    counts: tuple[tuple[str, re.Pattern[str]], ...]
    counts_before: tuple[tuple[str, re.Pattern[str]], ...]
    rounds: re.Pattern[str]
    breaths: re.Pattern[str]
    strokes: re.Pattern[str]
    sets: re.Pattern[str]
    lengths: re.Pattern[str]
    alone: re.Pattern[str]
    starts: re.Pattern[str]
    last_set: re.Pattern[str]
    last_round: re.Pattern[str]
    doing: re.Pattern[str]
    past: re.Pattern[str]
    seconds: re.Pattern[str]
    least: re.Pattern[str]
    most: re.Pattern[str]
    about: re.Pattern[str]
    whole: re.Pattern[str]
    left: re.Pattern[str]


@cache
def patterns(language: str) -> Patterns | None:
    """What promises look like in a language; None where its words are not known here."""
    rows = read_words(language).get("promises")
    if rows is None:
        return None

    def one_of(*keys: str) -> str:
        return "|".join(word for key in keys for word in rows[key])

    no_count = one_of("rounds", "times", "breaths", "strokes", "sets", "minutes", "half") + "|" + "|".join(_NOT_A_COUNT)

    def behind(direction: str) -> re.Pattern[str]:
        between, seconds = one_of("within"), one_of("seconds")
        unit = rf"(?: (?P<unit>{seconds})\b)?(?! (?:{no_count})\b)"
        return re.compile(rf"(?<!\S)(?:{direction})(?: (?:{between})){{0,5}} {_N}\b{unit}")

    def before(direction: str) -> re.Pattern[str]:
        return re.compile(rf"(?<!\S){_N}(?: counts?)? (?:{direction})(?!\S)")

    def with_unit(units: str) -> re.Pattern[str]:
        marks = f"{one_of('plain_breaths')}|more|even|whole|complete"
        return re.compile(rf"(?<!\S){_N} (?P<mark>(?:{marks}) )*(?:{units})\b")

    kinds = (("empty", one_of("empty")), ("in", one_of("into")), ("full", one_of("full")), ("out", one_of("out")))
    more = one_of("rounds", "breaths") + "|more|other|weitere|autres|más|altri|ещё|еще"
    last, sets = one_of("last"), one_of("sets")
    length = one_of("minutes", "seconds")
    return Patterns(
        tuple((name, behind(direction)) for name, direction in kinds),
        tuple((name, before(direction)) for name, direction in kinds if name != "empty"),
        with_unit(one_of("rounds", "times")),
        with_unit(one_of("breaths")),
        with_unit(one_of("strokes")),
        with_unit(sets),
        re.compile(
            rf"(?<!\S){_N}(?P<half> (?:{one_of('half')}))?(?: (?!{_NOT_AN_ADJECTIVE})[^\W\d]+)? "
            rf"(?P<unit>{length})\b(?P<half_behind> and a half\b)?"
        ),
        re.compile(rf"(?<!\S){_N}(?: (?:{more}))* (?:{one_of('alone')})\b"),
        re.compile(rf"(?<!\S)(?:{one_of('starts')})\b(?: \w+){{0,4}}? (?P<side>{one_of('left', 'right')})\b"),
        re.compile(rf"(?<!\S)(?:{last}) (?:{sets}|practice|technique|exercise|breathing)\b"),
        re.compile(rf"(?<!\S)(?:{last}) (?:{one_of('rounds', 'breaths')}|one)\b"),
        re.compile(rf"(?<!\S)(?:{one_of('doing')})\b"),
        re.compile(rf"(?<!\S)(?:{one_of('past')})\b"),
        re.compile(one_of("seconds")),
        re.compile(rf"(?:{one_of('least')})$"),
        re.compile(rf"(?:{one_of('most')})$"),
        re.compile(rf"(?:{one_of('about')})$"),
        re.compile(rf"\b(?:{one_of('whole')})\b"),
        re.compile(one_of("left")),
    )
