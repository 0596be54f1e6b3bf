"""Tables as spreadsheets really write them: every separator, encoding and decimal sign, line breaks, workbooks."""

import importlib.util
import io
import zipfile
from datetime import datetime, time, timedelta
from fractions import Fraction
from pathlib import Path

import openpyxl
import pytest

from nafas.cli.main import main
from nafas.desk.work import imports
from nafas.errors import InputError
from nafas.script import Session, read_block, save_session
from nafas.series.plan import load_series
from nafas.series.words import read_words
from nafas.tables import MOST_ROWS, dialect_of, read_table, written
from nafas.voice.segmentation.labels import read_labels

ROWS = [
    ["Words", "TRANSLATION", "kind"],
    ["Sit, here", "Siéntate, aquí", "talk"],
    ["two\nlines", "“dos”; líneas", "talk"],
]


@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("ends", ["\r\n", "\n"])
def test_words_are_read_however_a_spreadsheet_writes_them(folder, separator, encoding, ends):
    quoted = [[f'"{cell}"' if set(cell) & {separator, "\n", ";", ","} else cell for cell in row] for row in ROWS]
    text = ends.join(separator.join(row) for row in quoted) + ends
    (folder / "w.csv").write_bytes(text.encode(encoding))
    table = read_table(folder / "w.csv")
    assert [list(row) for row in table.rows] == ROWS and table.numbers == (1, 2, 3)
    assert read_words(folder / "w.csv") == {"Sit, here": "Siéntate, aquí", "two lines": "“dos”; líneas"}
    (folder / "again.csv").write_bytes(written(ROWS, table.dialect))
    again = read_table(folder / "again.csv")
    assert again.dialect == table.dialect and again.rows == table.rows


def test_a_workbook_is_read_as_a_person_sees_it(folder):
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.append(["Variant", "Length", "Count, s", "When", "Long"])
    sheet.append(["one", time(12, 0), 1.1, datetime(2026, 1, 1, 8, 30), timedelta(hours=1, minutes=2, seconds=3)])
    sheet.append([])
    sheet.append(["two", "12:30", 2.0, None, None])
    book.save(folder / "v.xlsx")
    table = read_table(folder / "v.xlsx")
    assert table.rows[1] == ("one", "12:00", "1.1", "8:30", "1:02:03") and table.rows[2] == ("two", "12:30", "2")
    assert table.numbers == (1, 2, 4) and table.dialect.kind == "xlsx"
    assert dialect_of(folder / "new.xlsx").kind == "xlsx"
    (folder / "out.xlsx").write_bytes(written(ROWS, table.dialect))
    assert [list(row) for row in read_table(folder / "out.xlsx").rows] == ROWS


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b'a,b\n"one,two\nthree,four\nfive,six\n', "line 2.*takes in the rows after it"),
        (b'a,b\n"one,two\nthree,four\nfive",six\n', "line 2.*takes in the rows after it"),
        (b'a,b\n"one"x,two\n', "line 2"),
        (b"PK\x03\x04nothing", "no workbook"),
        (b"a\n" * (MOST_ROWS + 2), "more than 20,000 rows"),
    ],
)
def test_a_table_that_is_none_says_where_and_what(folder, data, said):
    (folder / "x.csv").write_bytes(data)
    with pytest.raises(InputError, match=f"(?s){said}"):
        read_table(folder / "x.csv")


def test_odd_bytes_are_never_a_fault_of_ours(folder):
    good = io.BytesIO(written(ROWS, dialect_of(folder / "a.xlsx")))
    hollow = io.BytesIO()
    with zipfile.ZipFile(good) as old, zipfile.ZipFile(hollow, "w") as new:
        for info in old.infolist():
            new.writestr(info, old.read(info)[:40])
    for data in (b"", b"\0", b"\xff\xfe\x00", b"\x00\x01\x02,\x03\n", hollow.getvalue(), good.getvalue()[:200]):
        (folder / "x.csv").write_bytes(data)
        try:
            table = read_table(folder / "x.csv")
        except InputError:
            continue
        letters = {letter for row in table.rows for cell in row for letter in cell}
        assert not any(ord(letter) < 32 for letter in letters - set("\t\r\n"))


@pytest.mark.parametrize("name", ["rows.csv", "rows.xlsx"])
def test_a_series_is_made_of_a_table_and_written_to_one(folder, name, monkeypatch, capsys):
    monkeypatch.chdir(folder)
    save_session(Session(title="Watch", blocks=(read_block("4-6 x3", "long"),)), Path("s.nafas"))
    rows = [["variant", "length", "COUNT, S", "lufs"], ["one", "12:00", "1,1", "-16"], ["two", "", "", "−18,5"]]
    dialect = dialect_of(Path(name))
    if name == "rows.csv":
        text = "\n".join(map(";".join, rows)).replace("−", "-")  # Windows' western encoding has no minus sign
        Path(name).write_bytes(text.encode("cp1252"))
    else:
        Path(name).write_bytes(written(rows, dialect))
    assert main(["series", "take", "all.nafas-series", name, "--of", "s.nafas"]) == 0
    one, two = load_series(folder / "all.nafas-series").variants
    assert (one.length, one.count_length, one.loudness, two.loudness) == (720, Fraction(11, 10), -16, -18.5)
    assert main(["series", "take", "all.nafas-series", name]) == 0  # the same rows change nothing
    assert load_series(folder / "all.nafas-series").variants == (one, two)
    assert main(["series", "table", "all.nafas-series", "-o", name, "--force"]) == 0
    back = read_table(Path(name))
    assert back.rows[1][:4] == ("one", "", "12:00", "1,1" if name == "rows.csv" else "1.1")
    assert back.dialect.separator == (";" if name == "rows.csv" else ",")
    Path(name).write_bytes(written([["Variant", "Length"], ["three", "long"]], dialect))
    capsys.readouterr()
    assert main(["series", "take", "all.nafas-series", name]) == 1
    assert f"{name}, row 2, Length" in capsys.readouterr().err
    assert main(["series", "take", "all.nafas-series", name, "--of", "s.nafas"]) == 1  # it is there already


def test_labels_come_in_other_encodings_too(folder):
    (folder / "l.txt").write_bytes("0\t1\tinhale\r\n1\t2\trépété\r\n".encode("utf-16"))
    assert [label.text for label in read_labels(folder / "l.txt")] == ["inhale", "répété"]


def test_the_modules_that_are_imported_ahead_are_there():
    assert all(importlib.util.find_spec(name) for name in imports._VIEWS)
