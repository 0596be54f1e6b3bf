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
        pictured: the same in pictures or with the number first: "it rests at the top for 6", "count to 6 as it leaves".
        counts_before: the same, the number before it: "4 in".
        rounds, breaths, strokes, sets, lengths: numbers with their units; "mark" names what stands between.
        named_rounds, named_strokes: under a teacher's own name, "10 waves", "30 quick puffs", "7 of those".
        alone: "3 more on your own".
        starts, firsts: "begin on the left", "the left side first"; the side as group "side".
        last_set, last_round: "the last set", "the last one".
        doing, past: words by which a sentence speaks of what is done now, or of what was.
        seconds, least, most, about, whole: words that say what a length means; for `fullmatch` and before a number.
        part: "this part": a length is that of the set.
    """

    counts: tuple[tuple[str, re.Pattern[str]], ...]
    counts_before: tuple[tuple[str, re.Pattern[str]], ...]
    pictured: tuple[tuple[str, re.Pattern[str]], ...]
    rounds: re.Pattern[str]
    named_rounds: tuple[re.Pattern[str], ...]
    named_strokes: re.Pattern[str]
    breaths: re.Pattern[str]
    strokes: re.Pattern[str]
    sets: re.Pattern[str]
    lengths: re.Pattern[str]
    alone: re.Pattern[str]
    starts: re.Pattern[str]
    firsts: tuple[re.Pattern[str], ...]
    last_set: re.Pattern[str]
    last_round: re.Pattern[str]
    doing: re.Pattern[str]
    past: re.Pattern[str]
    seconds: re.Pattern[str]
    least: re.Pattern[str]
    most: re.Pattern[str]
    about: re.Pattern[str]
    whole: re.Pattern[str]
    part: re.Pattern[str]
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

    def pictured(direction: str) -> re.Pattern[str]:
        between, tail = one_of("within", "links", "counting"), one_of("tail", "seconds")
        return re.compile(
            rf"(?<!\S)(?:{direction})(?:(?: ,)? (?:{between})){{0,4}}(?: ,)? {_N}(?= (?:(?:{tail})\b|\W)|\s*$)"
        )

    def counted_to(direction: str) -> re.Pattern[str]:
        return re.compile(
            rf"(?<!\S)(?:{one_of('counting')}) {_N}(?:(?: ,)? [^\W\d_]+){{0,4}}?(?: ,)? (?:{direction})(?!\S)"
        )

    rate = rf"(?! (?:a|per|each|every|por|par|al|pro|in der|na|в|на) (?:{one_of('minutes')})\b)"

    def with_unit(units: str) -> re.Pattern[str]:
        marks = f"{one_of('plain_breaths', 'fast')}|more|even|whole|complete"
        return re.compile(rf"(?<!\S){_N} (?P<mark>(?:{marks}) )*(?:{units})\b{rate}")

    def side_first(*parts: str) -> re.Pattern[str]:
        return re.compile(rf"(?<!\S){' '.join(parts)}(?!\S)")

    side, noun, first = rf"(?P<side>{one_of('left', 'right')})", rf"(?:{one_of('side')})", rf"(?:{one_of('first')})"
    few = r"(?:[^\W\d_]+ ){0,3}?"
    ends = r"(?= [^\w\s]|\s*$)"  # "do seven." is a promise; "do seven things" is not
    again = (
        re.compile(rf"(?<!\S){word.replace('N', _N, 1)}(?!\S){ends if word.endswith('N') else rate}")
        for word in rows["again"]
    )

    kinds = (("empty", one_of("empty")), ("in", one_of("into")), ("full", one_of("full")), ("out", one_of("out")))
    pictures = (("in", "into"), ("full", "full"), ("out", "out"))
    more = one_of("rounds", "breaths") + "|more|other|weitere|autres|más|altri|ещё|еще"
    last, sets = one_of("last"), one_of("sets")
    length = one_of("minutes", "seconds")
    return Patterns(
        tuple((name, behind(direction)) for name, direction in kinds),
        tuple((name, before(direction)) for name, direction in kinds if name != "empty"),
        (
            *((name, pictured(one_of(f"{key}_like"))) for name, key in pictures),
            *((name, counted_to(one_of(key, f"{key}_like"))) for name, key in pictures),
        ),
        with_unit(one_of("rounds", "times")),
        (with_unit(one_of("round_like")), *again),
        with_unit(one_of("stroke_like")),
        with_unit(one_of("breaths")),
        with_unit(one_of("strokes")),
        with_unit(sets),
        re.compile(
            rf"(?<!\S){_N}(?P<half> (?:{one_of('half')}))?(?: (?!{_NOT_AN_ADJECTIVE})[^\W\d]+)? "
            rf"(?P<unit>{length})\b(?P<half_behind> and a half\b)?"
        ),
        re.compile(rf"(?<!\S){_N}(?: (?:{more}))* (?:{one_of('alone')})\b"),
        re.compile(rf"(?<!\S)(?:{one_of('starts')})\b(?: \w+){{0,4}}? (?P<side>{one_of('left', 'right')})\b"),
        tuple(
            side_first(*parts)
            for parts in (
                (first, few + side, noun),
                (first, few + noun, side),
                (side, noun, few + first),
                (noun, side, few + first),
            )
        ),
        re.compile(rf"(?<!\S)(?:{last}) (?:{sets}|practice|technique|exercise|breathing)\b"),
        re.compile(rf"(?<!\S)(?:{last}) (?:{one_of('rounds', 'breaths')}|one)\b"),
        re.compile(rf"(?<!\S)(?:{one_of('doing')})\b"),
        re.compile(rf"(?<!\S)(?:{one_of('past')})\b"),
        re.compile(one_of("seconds")),
        re.compile(rf"(?:{one_of('least')})$"),
        re.compile(rf"(?:{one_of('most')})$"),
        re.compile(rf"(?:{one_of('about')})$"),
        re.compile(rf"\b(?:{one_of('whole')})\b"),
        re.compile(rf"(?<!\S)(?:{one_of('part')})(?!\S)"),
        re.compile(one_of("left")),
    )
