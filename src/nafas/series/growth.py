"""A rule for a column: a programme in which one thing grows, such as a round more every third day."""

from dataclasses import dataclass
from fractions import Fraction

from nafas.script.model.exact import decimal_text
from nafas.series.columns import Column, changed
from nafas.series.plan import MOST_ROWS, Series, Variant
from nafas.timing.clock import clock, parse_clock


@dataclass(frozen=True)
class Rule:
    """A rule. Values and the step are typed as in the column: 8, 1.1 or 12:00.

    Attributes:
        column: what grows.
        first: its value in the first row.
        by: added at each step; below 0 it shrinks.
        every: rows from one step to the next.
        most: where it stops; "" for nowhere. Of a rule that shrinks, the least.
        rows: how many there are.
        name: of the rows, with {day} for the number.
    """

    column: Column
    first: str
    by: str = "1"
    every: int = 1
    most: str = ""
    rows: int = 21
    name: str = "Day {day}"

    def values(self) -> list[str]:
        """The value of each row, as it is typed into the column. Raises ValueError."""
        if not 1 <= self.rows <= MOST_ROWS:
            raise ValueError(f"{self.rows} rows are not allowed; take 1 to {MOST_ROWS}")
        if self.every < 1:
            raise ValueError("steps are one row apart or more; write for example every 3")
        clocked = ":" in self.first
        first, by = _number(self.first), _number(self.by)
        most = _number(self.most) if self.most.strip() else None
        if most is not None and (most - first) * by < 0:
            raise ValueError(f"from {self.first} by {self.by} never comes to {self.most}; turn one of them round")
        values = []
        for row in range(self.rows):
            value = first + by * (row // self.every)
            if most is not None and by:
                value = min(value, most) if by > 0 else max(value, most)
            values.append(clock(value) if clocked and value >= 0 else decimal_text(value))
        return values


def grown(series: Series, rule: Rule) -> Series:
    """The series with a row for every day of a rule: a row whose name is there changes in the column, others are added.

    Raises:
        ValueError: a value that the column does not take, with its row; names that are alike; too many rows.
    """
    if rule.rows > 1 and "{day}" not in rule.name:
        raise ValueError("the rows would have one name; write {day} in it")
    rows = {variant.name.lower(): variant for variant in series.variants}
    for number, value in enumerate(rule.values(), 1):
        name = rule.name.replace("{day}", str(number)).strip()
        try:
            variant = rows.get(name.lower()) or Variant(name=name)
            rows[name.lower()] = changed(variant, rule.column, value)
        except ValueError as fault:
            problem = str(fault).split("\n")[0] if "validation error" not in str(fault) else f"{value} is out of bounds"
            raise ValueError(f"{name}, {rule.column.heading}: {problem}") from None
    if len(rows) > MOST_ROWS:
        raise ValueError(f"this makes {len(rows)} rows; a series has at most {MOST_ROWS}")
    return series.replace(variants=tuple(rows.values()))


def _number(text: str) -> Fraction:
    """A number or a clock time, as one types it. Raises ValueError."""
    text = text.strip().replace("\N{MINUS SIGN}", "-").replace(",", ".")
    sign = -1 if text.startswith("-") else 1
    try:
        return sign * (parse_clock(text.lstrip("-")) if ":" in text else Fraction(text.lstrip("-")))
    except (ValueError, ZeroDivisionError):
        raise ValueError(f"{text!r} is no number; write for example 4, 1.1 or 12:00") from None
