"""Rows of a series as cells that a spreadsheet copies and pastes: lines of tab-separated values under headings."""

import csv
import io
from collections.abc import Sequence

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.script.faults import as_input_error
from nafas.series.columns import Column, changed
from nafas.series.plan import MOST_ROWS, Series, Variant

_MOST_TEXT = 2_000_000


def as_cells(columns: Sequence[Column], variants: Sequence[Variant]) -> str:
    """Variants as text, a heading over each column."""
    text = io.StringIO()
    rows = csv.writer(text, "excel-tab", lineterminator="\n")
    rows.writerow(column.heading for column in columns)
    rows.writerows([column.text(variant) for column in columns] for variant in variants)
    return text.getvalue()


def with_cells(series: Series, columns: Sequence[Column], text: str) -> Series:
    """The series with pasted rows: one whose name is there changes that variant, others are added at the end.

    Args:
        series: it.
        columns: of its table.
        text: rows of tab-separated values. Where the first holds headings, they say which column is which and the
            others stay as they are; else the columns stand as in the table.

    Raises:
        InputError: with the row and the column that cannot be taken; nothing is taken then.
    """
    if len(text) > _MOST_TEXT:
        raise InputError("what was pasted", "is too long", f"paste at most {MOST_ROWS} rows")
    try:
        lines = [line for line in csv.reader(io.StringIO(text), "excel-tab") if any(map(str.strip, line))]
    except csv.Error as error:
        raise InputError("what was pasted", f"is no table ({error})", "copy cells in a spreadsheet") from None
    known = {column.heading.casefold(): column for column in columns}
    headings = [cell.strip().casefold() for cell in lines[0]] if lines else []
    name = columns[0].heading
    named = bool(headings) and (name.casefold() in headings or set(headings) <= known.keys() | {""})
    if named:
        if name.casefold() not in headings:
            raise InputError("what was pasted", f"has no column {name!r}", "copy the variants' names too")
        strange = [cell for cell in lines[0] if cell.strip() and cell.strip().casefold() not in known]
        if strange:
            raise InputError("what was pasted", f"has a column {strange[0]!r}", f"use {', '.join(_names(columns))}")
        if len(set(filter(None, headings))) < len(list(filter(None, headings))):
            raise InputError("what was pasted", "has a column twice", "leave one of them out")
    order = [known.get(heading) for heading in headings] if named else list(columns)
    first = 2 if named else 1
    rows = lines[1:] if named else lines
    if not rows:
        raise InputError("what was pasted", "holds no rows", f"copy cells under {', '.join(_names(columns[:3]))} …")
    by_name = {variant.name.lower(): variant for variant in series.variants}
    pasted: set[str] = set()
    for number, line in enumerate(rows, first):
        variant = _taken(number, line, order, by_name)
        name = variant.name.lower()
        if name in pasted:
            raise InputError(f"pasted row {number}", f"has the name {variant.name!r} again", "give every row its own")
        pasted.add(name)
        by_name[name] = variant
    if len(by_name) > MOST_ROWS:
        raise InputError("what was pasted", f"makes {len(by_name)} variants", f"a series has at most {MOST_ROWS}")
    return series.model_copy(update={"variants": tuple(by_name.values())})


def _taken(number: int, line: list[str], order: Sequence[Column | None], by_name: dict[str, Variant]) -> Variant:
    if len(line) > len(order) and any(map(str.strip, line[len(order) :])):
        raise InputError(f"pasted row {number}", f"has {len(line)} cells", f"a row has at most {len(order)}")
    cells = {column.key: (column, cell) for column, cell in zip(order, line) if column is not None}
    heading = "Variant"
    try:
        _, name = cells.pop("name")
        variant = by_name.get(name.strip().lower()) or Variant(name=name.strip())
        for column, cell in cells.values():
            heading = column.heading
            variant = changed(variant, column, cell)
    except KeyError:
        raise InputError(f"pasted row {number}", "has no name", "give every row its own") from None
    except ValidationError as fault:
        raise as_input_error(fault, f"pasted row {number}, {heading}") from None
    except ValueError as fault:
        problem, _, remedy = str(fault).partition("; ")
        raise InputError(f"pasted row {number}, {heading}", problem, remedy or "fix it there") from None
    return variant


def _names(columns: Sequence[Column]) -> list[str]:
    return [column.heading for column in columns]
