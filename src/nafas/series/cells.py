"""Rows of a series as cells that a spreadsheet copies and pastes: lines of tab-separated values under headings."""

import csv
import io
import re
from collections.abc import Sequence

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.script.faults import as_input_error
from nafas.series.columns import Column, changed
from nafas.series.plan import MOST_ROWS, Series, Variant
from nafas.tables import Table, parse_table

_MOST_TEXT = 2_000_000
_DECIMAL = re.compile(r"^([-\N{MINUS SIGN}]?\d+)\.(\d+)$")


def as_cells(columns: Sequence[Column], variants: Sequence[Variant]) -> str:
    """Variants as text, a heading over each column."""
    text = io.StringIO()
    csv.writer(text, "excel-tab", lineterminator="\n").writerows(as_rows(columns, variants))
    return text.getvalue()


def as_rows(columns: Sequence[Column], variants: Sequence[Variant], comma: bool = False) -> list[list[str]]:
    """Variants as rows of a table, its headings first; `comma`: decimals have a comma."""
    rows = [[column.heading for column in columns]]
    for variant in variants:
        cells = [column.text(variant) for column in columns]
        rows.append([_DECIMAL.sub(r"\1,\2", cell) if comma else cell for cell in cells])
    return rows


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
        raise InputError("the pasted rows", "are too many", f"paste at most {MOST_ROWS} rows")
    return with_rows(
        series, columns, parse_table(text, "the pasted rows", separator="\t"), "the pasted rows", "pasted row"
    )


def with_rows(series: Series, columns: Sequence[Column], table: Table, place: str, row: str) -> Series:
    """The series with the rows of a table, as `with_cells`.

    Args:
        series, columns: as `with_cells` takes them.
        table: of the rows.
        place, row: what the table and one of its rows are called where something is wrong.
    """
    lines = list(table.rows)
    known = {column.heading.casefold(): column for column in columns}
    headings = [cell.strip().casefold() for cell in lines[0]] if lines else []
    name = columns[0].heading
    named = bool(headings) and (name.casefold() in headings or set(headings) <= known.keys() | {""})
    if named:
        if name.casefold() not in headings:
            raise InputError(place, f"has no column {name!r}", "give the variants' names too")
        strange = [cell for cell in lines[0] if cell.strip() and cell.strip().casefold() not in known]
        if strange:
            raise InputError(place, f"has a column {strange[0]!r}", f"use {', '.join(_names(columns))}")
        if len(set(filter(None, headings))) < len(list(filter(None, headings))):
            raise InputError(place, "has a column twice", "leave one of them out")
    order = [known.get(heading) for heading in headings] if named else list(columns)
    first = 1 if named else 0
    rows = lines[first:]
    if not rows:
        raise InputError(place, "holds no rows", f"give cells under {', '.join(_names(columns[:3]))} …")
    by_name = {variant.name.lower(): variant for variant in series.variants}
    pasted: set[str] = set()
    for number, line in zip(table.numbers[first:], rows):
        variant = _taken(f"{row} {number}", line, order, by_name)
        name = variant.name.lower()
        if name in pasted:
            raise InputError(f"{row} {number}", f"has the name {variant.name!r} again", "give every row its own")
        pasted.add(name)
        by_name[name] = variant
    if len(by_name) > MOST_ROWS:
        raise InputError(place, f"makes {len(by_name)} variants", f"a series has at most {MOST_ROWS}")
    return series.model_copy(update={"variants": tuple(by_name.values())})


def _taken(where: str, line: Sequence[str], order: Sequence[Column | None], by_name: dict[str, Variant]) -> Variant:
    if len(line) > len(order) and any(map(str.strip, line[len(order) :])):
        raise InputError(where, f"has {len(line)} cells", f"a row has at most {len(order)}")
    cells = {column.key: (column, cell) for column, cell in zip(order, line) if column is not None}
    heading = "Variant"
    try:
        _, name = cells.pop("name")
        variant = by_name.get(name.strip().lower()) or Variant(name=name.strip())
        for column, cell in cells.values():
            heading = column.heading
            variant = changed(variant, column, cell)
    except KeyError:
        raise InputError(where, "has no name", "give every row its own") from None
    except ValidationError as fault:
        raise as_input_error(fault, f"{where}, {heading}") from None
    except ValueError as fault:
        problem, _, remedy = str(fault).partition("; ")
        raise InputError(f"{where}, {heading}", problem, remedy or "fix it there") from None
    return variant


def _names(columns: Sequence[Column]) -> list[str]:
    return [column.heading for column in columns]
