"""Exact seconds and bounded numbers for the models.

Seconds are `fractions.Fraction` everywhere before `sound/`. In the file they are plain JSON numbers where a
short decimal is exact (1.2) and "20/21" strings where it is not.
"""

from decimal import Decimal, InvalidOperation
from fractions import Fraction
from typing import Any

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

_FINEST = 10**12  # a denominator past this is a slip of the keyboard, and would make every sum slow


def parse_seconds(value: object) -> Fraction:
    """Exact seconds from an int, a decimal (1.2, "1.2", Decimal) or a ratio ("20/21").

    A float is read as its shortest decimal, so 1.2 means 6/5.

    Raises:
        ValueError: not a number, not finite, or a denominator over 10**12.
    """
    if isinstance(value, bool) or not isinstance(value, int | float | str | Decimal | Fraction):
        raise ValueError('not a number; write seconds such as 1.2 or "20/21"')
    try:
        text = repr(value) if isinstance(value, float) else str(value).strip()
        if "/" in text:
            exact = Fraction(text.replace(" ", "")[:40])
        else:
            decimal = Decimal(text)
            # Looked at before it becomes a ratio: 1e999999999 would be an integer of that many digits.
            if decimal and not -15 < decimal.adjusted() < 10:
                raise ValueError
            exact = Fraction(decimal)
    except (ValueError, InvalidOperation, OverflowError, ZeroDivisionError):
        raise ValueError(f'{str(value)[:40]!r} is not a number; write seconds such as 1.2 or "20/21"') from None
    if exact.denominator > _FINEST:
        raise ValueError("finer than a trillionth of a second; write fewer decimals")
    return exact


def decimal_text(value: Fraction) -> str:
    """The shortest exact text: "1.2" where a decimal of at most twelve places is exact, else "20/21"."""
    if _FINEST % value.denominator:  # a longer decimal would be cut short, and read as another number
        return f"{value.numerator}/{value.denominator}"
    text = format(Decimal(value.numerator) / Decimal(value.denominator), "f")
    return text.rstrip("0").rstrip(".") if "." in text else text


def _to_json(value: Fraction) -> int | float | str:
    if value.denominator == 1:
        return value.numerator
    text = decimal_text(value)
    # A float only where reading it back gives the very same number.
    return float(text) if "/" not in text and parse_seconds(float(text)) == value else text


class Seconds:
    """Model annotation for exact seconds between two bounds: `Annotated[Fraction, Seconds("0", "60")]`."""

    def __init__(self, low: str, high: str, unit: str = "seconds") -> None:
        self.low = Fraction(low)
        self.high = Fraction(high)
        self.unit = unit

    def check(self, value: object) -> Fraction:
        """`value` as an exact Fraction within the bounds, both included, or ValueError."""
        exact = parse_seconds(value)
        if not self.low <= exact <= self.high:
            low, high = decimal_text(self.low), decimal_text(self.high)
            given = f"{decimal_text(exact)} {self.unit and 's'}".strip()
            raise ValueError(f"{given} is not allowed; write {low} to {high} {self.unit}".strip())
        return exact

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            self.check,
            serialization=core_schema.plain_serializer_function_ser_schema(_to_json),
        )

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {
            "anyOf": [
                {"type": "number", "minimum": float(self.low), "maximum": float(self.high)},
                {"type": "string", "pattern": r"^\d+(\.\d+)?$|^\d+/\d+$"},
            ],
            "description": f"{self.unit or 'ratio'}, {decimal_text(self.low)} to {decimal_text(self.high)}; "
            'a ratio such as "20/21" where no decimal is exact',
        }
