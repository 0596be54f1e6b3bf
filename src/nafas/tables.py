"""Tables as spreadsheets write them: text with any separator, in any usual encoding, or XLSX; read, and written back in
the way they came."""

import csv
import io
import re
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.files import read_whole

ENDINGS = (".csv", ".tsv", ".txt", ".xlsx")
MOST_ROWS, MOST_CELL = 20_000, 50_000
_UNPACKED = 100_000_000  # bytes
_SEPARATORS = "\t;,|"
_MARKS = ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))
_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_COMMA = re.compile(r"[-\N{MINUS SIGN}]?\d+,\d+")


@dataclass(frozen=True)
class Dialect:
    """How a table is written.

    Attributes:
        kind: "text" or "xlsx".
        encoding, separator: of text.
        comma: decimals have a comma.
    """

    kind: str = "text"
    encoding: str = "utf-8-sig"
    separator: str = ","
    comma: bool = False


@dataclass(frozen=True)
class Table:
    """A table.

    Attributes:
        rows: its cells, row by row, those that are all empty left out; headings are the first row.
        numbers: of each row, as the spreadsheet counts them.
        dialect: how it was written.
    """

    rows: tuple[tuple[str, ...], ...]
    numbers: tuple[int, ...]
    dialect: Dialect

    def records(self, *wanted: str) -> list[dict[str, str]]:
        """The rows under the headings, by these headings in any case; missing cells are "". Raises ValueError with the
        heading that is not there."""
        heads = [cell.strip().casefold() for cell in self.rows[0]] if self.rows else []
        places = {}
        for name in wanted:
            if name.casefold() not in heads:
                raise ValueError(name)
            places[name] = heads.index(name.casefold())
        return [{name: row[at] if at < len(row) else "" for name, at in places.items()} for row in self.rows[1:]]


def read_table(path: Path, most: int = 8_000_000) -> Table:
    """Read a table from a file of at most `most` bytes.

    Raises:
        InputError: it cannot be read, is no table, a quote is left open in it, or it has too many rows.
    """
    data = read_whole(path, most)
    if data[:4] == b"PK\x03\x04":
        return _workbook(data, path)
    return parse_table(decoded(data), str(path), _encoding(data))


def parse_table(text: str, place: str, encoding: str = "utf-8", separator: str = "") -> Table:
    """Read a table from text. Raises InputError as `read_table`; `place` says where it is from."""
    separator = separator or _separator(text)
    lines = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    rows, numbers, before = list[tuple[str, ...]](), list[int](), 0
    try:
        for line in lines:
            if any(cell.strip() for cell in line):
                if any(_swallows(cell, separator, len(rows[0]) if rows else len(line)) for cell in line):
                    raise InputError(f"{place}, line {before + 1}", _OPEN, "close it, or write it twice")
                rows.append(tuple(_plain(cell) for cell in line))
                numbers.append(before + 1)
            before = lines.line_num
            if len(rows) > MOST_ROWS:
                raise InputError(place, f"has more than {MOST_ROWS:,} rows", "split it up")
    except csv.Error as error:
        problem = _OPEN if "unexpected end" in str(error) else f"is no table ({error})"
        raise InputError(f"{place}, line {before + 1}", problem, "close it, or write it twice") from None
    comma = any(_COMMA.fullmatch(cell.strip()) for row in rows for cell in row)
    return Table(tuple(rows), tuple(numbers), Dialect("text", encoding, separator, comma and separator != ","))


_OPEN = "has a quote that is opened and takes in the rows after it"


def written(rows: Sequence[Sequence[str]], dialect: Dialect) -> bytes:
    """A table as the bytes of a file."""
    if dialect.kind == "xlsx":
        from openpyxl import Workbook

        book = Workbook(write_only=True)
        sheet = book.create_sheet("Nafas")
        for row in rows:
            sheet.append(list(row))
        out = io.BytesIO()
        book.save(out)
        return out.getvalue()
    text = io.StringIO()
    csv.writer(text, delimiter=dialect.separator).writerows(rows)
    return text.getvalue().encode(dialect.encoding, "xmlcharrefreplace" if dialect.encoding == "cp1252" else "strict")


def dialect_of(path: Path) -> Dialect:
    """How a new table is written, by its name; that of the file which stands there, if it is a table."""
    try:
        return read_table(path).dialect
    except InputError:
        ending = path.suffix.lower()
        return Dialect("xlsx") if ending == ".xlsx" else Dialect(separator="\t" if ending in (".tsv", ".txt") else ",")


def _encoding(data: bytes) -> str:
    for mark, name in _MARKS:
        if data.startswith(mark):
            return name
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return "cp1252"  # what spreadsheets of western Windows write
    return "utf-8"


def decoded(data: bytes) -> str:
    """Text of any usual encoding: UTF-8 and UTF-16 by their marks, UTF-8, else Windows' western one."""
    return data.decode(_encoding(data), "replace")


def _separator(text: str) -> str:
    """The sign that most often parts the first line that holds anything, outside quotes; a comma where none does."""
    first = next((line for line in text.splitlines() if line.strip()), "")
    bare = re.sub(r'"[^"]*"?', "", first)
    best = max(_SEPARATORS, key=bare.count)
    return best if bare.count(best) else ","


def _swallows(cell: str, separator: str, columns: int) -> bool:
    """Whether a cell holds whole rows: a quote before it was never closed."""
    inner = cell.splitlines()[1:-1] if "\n" in cell else []
    return columns > 1 and bool(inner) and all(line.count(separator) >= columns - 1 for line in inner)


def _plain(cell: str) -> str:
    return _CONTROL.sub(" ", cell)[:MOST_CELL]


def _workbook(data: bytes, path: Path) -> Table:
    from openpyxl import load_workbook

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as inside:
            if sum(info.file_size for info in inside.infolist()) > _UNPACKED:
                raise InputError(str(path), "unpacks to more than is read", "save its first sheet alone, or as CSV")
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        rows, numbers = list[tuple[str, ...]](), list[int]()
        for number, line in enumerate(_lines(sheet), 1):
            if any(cell.strip() for cell in line):
                rows.append(line)
                numbers.append(number)
            if len(rows) > MOST_ROWS:
                raise InputError(str(path), f"has more than {MOST_ROWS:,} rows", "split it up")
    except InputError:
        raise
    except Exception as error:  # whatever a damaged workbook makes its reader raise
        problem = f"is no workbook that can be read ({type(error).__name__})"
        raise InputError(str(path), problem, "save it again as XLSX, or as CSV") from None
    return Table(tuple(rows), tuple(numbers), Dialect("xlsx"))


def _lines(sheet: Any) -> Iterator[tuple[str, ...]]:
    for row in sheet.iter_rows(values_only=True):
        cells = [_shown(cell) for cell in row]
        while cells and not cells[-1]:
            cells.pop()
        yield tuple(cells)


def _shown(value: object) -> str:
    """A cell as a person sees it; a length such as 12:00 is a time of day to a spreadsheet."""
    if value is None:
        return ""
    if isinstance(value, datetime):
        value = value.time()
    if isinstance(value, timedelta):
        seconds = round(value.total_seconds())
        value = time(seconds // 3600 % 24, seconds // 60 % 60, seconds % 60)
    if isinstance(value, time):
        return f"{value.hour}:{value.minute:02d}" + (f":{value.second:02d}" if value.second else "")
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return _plain(str(value))
