"""The columns of a series' table: how a variant's cell reads, and how what is typed into it is taken."""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from nafas.languages import LANGUAGES
from nafas.script.edits.session_edits import block_name
from nafas.script.model.blocks import BreathSet
from nafas.script.model.exact import decimal_text, parse_seconds
from nafas.script.model.guidance import Level
from nafas.script.model.session import Session
from nafas.script.notation.phases import format_pattern
from nafas.series.plan import Variant
from nafas.series.planner import read_set
from nafas.timing.clock import clock, parse_clock

_MINUS = "\N{MINUS SIGN}"


@dataclass(frozen=True)
class Column:
    """A column.

    Attributes:
        key: the variant's field; "rounds of ID" and "pattern of ID" for the rounds and the pattern of a set.
        heading: for people.
        tip: what an empty cell means, and how it is typed.
        text: how a variant's cell reads; "" for as in the session.
        fields: the fields of a variant that the typed text stands for. Raises ValueError.
        choices: what can be chosen; () where it is typed.
    """

    key: str
    heading: str
    tip: str
    text: Callable[[Variant], str]
    fields: Callable[[Variant, str], dict[str, Any]]
    choices: tuple[str, ...] = ()


def columns_of(session: Session) -> list[Column]:
    """The columns for variants of a session: a column of rounds for each of its sets. No two headings are the same."""
    sets = [block for block in session.blocks if isinstance(block, BreathSet)]
    names = Counter(block_name(block) for block in sets)
    return [
        _plain("name", "Variant", "of its files"),
        _plain("title", "Title", "of the session"),
        _typed("length", "Length", "fitted to it, such as 12:00", _length, parse_clock),
        _typed("count_length", "Count, s", "seconds a count, such as 1.1", decimal_text, _read_seconds),
        *(column(each, names[block_name(each)] > 1) for each in sets for column in (_rounds, _pattern)),
        _plain("language", "Language", "a code such as es", ("", *LANGUAGES)),
        _plain("words", "Words", "a translator's table next to the series: CSV, XLSX or PO"),
        _plain("guidance", "Guidance", "how much is said in every set", ("", *(level.value for level in Level))),
        _plain("narrator", "Narrator", "who reads what has no take", ("", "auto", "espeak")),
        _typed("bed", "Bed, dB", "louder or softer by, such as −2", _level, _read_level),
        _typed("loudness", "LUFS", "of the master, such as −16", _level, _read_level),
    ]


def changed(variant: Variant, column: Column, text: str) -> Variant:
    """The variant with what was typed into a cell. Raises ValueError with what is wrong, for people."""
    fields = column.fields(variant, text.strip())
    return Variant.model_validate({**dict(variant), **fields})


def new_name(taken: Sequence[str], wanted: str = "variant") -> str:
    """A name that no variant has yet, whatever its case."""
    there = {name.lower() for name in taken}
    stem, number = wanted, 2
    while wanted.lower() in there:
        wanted, number = f"{stem} {number}", number + 1
    return wanted


def _plain(key: str, heading: str, tip: str, choices: tuple[str, ...] = ()) -> Column:
    def text(variant: Variant) -> str:
        value = getattr(variant, key)
        return "" if value is None else str(value)

    return Column(key, heading, tip, text, lambda _, typed: {key: typed or None}, choices)


def _typed(key: str, heading: str, tip: str, show: Callable[[Any], str], read: Callable[[str], Any]) -> Column:
    def text(variant: Variant) -> str:
        value = getattr(variant, key)
        return "" if value is None else show(value)

    return Column(key, heading, tip, text, lambda _, typed: {key: read(typed) if typed else None})


def _rounds(block: BreathSet, by_id: bool) -> Column:
    def text(variant: Variant) -> str:
        return str(variant.rounds.get(block.id, ""))

    def fields(variant: Variant, typed: str) -> dict[str, Any]:
        rest = {name: count for name, count in variant.rounds.items() if name != block.id}
        if typed and not typed.isdecimal():
            raise ValueError("rounds are a whole number; write for example 8")
        return {"rounds": {**rest, block.id: int(typed)} if typed else rest}

    heading = f"Rounds, {block_name(block)}" + (f" ({block.id})" if by_id else "")
    return Column(f"rounds of {block.id}", heading, f"{block.rounds} in the session", text, fields)


def _pattern(block: BreathSet, by_id: bool) -> Column:
    def text(variant: Variant) -> str:
        return variant.patterns.get(block.id, "")

    def fields(variant: Variant, typed: str) -> dict[str, Any]:
        rest = {name: cell for name, cell in variant.patterns.items() if name != block.id}
        if typed:
            read_set(typed, block)
        return {"patterns": {**rest, block.id: typed} if typed else rest}

    heading = f"Pattern, {block_name(block)}" + (f" ({block.id})" if by_id else "")
    tip = f"{format_pattern(block.pattern.phases)} in the session; with a way up, such as 4-4 step 1 to 8, too"
    return Column(f"pattern of {block.id}", heading, tip, text, fields)


def _length(value: Fraction) -> str:
    """To the tenth as a clock shows it; what is finer as exact seconds."""
    return clock(value, tenths=value.denominator > 1) if 10 % value.denominator == 0 else decimal_text(value)


def _level(value: float) -> str:
    return f"{value:g}".replace("-", _MINUS)


def _read_seconds(text: str) -> Fraction:
    return parse_seconds(text.replace(",", "."))


def _read_level(text: str) -> float:
    try:
        return float(text.replace(_MINUS, "-").replace(",", "."))
    except ValueError:
        raise ValueError("a level is a number; write for example −2") from None
