"""Tables from files: separators, encodings, decimal marks, spreadsheets written by other libraries, hostile files."""

from __future__ import annotations

import csv
import io
import random
import zipfile
from datetime import date, datetime
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.interchange.tables import (
    MOST_BYTES,
    MOST_CELL,
    MOST_COLUMNS,
    MOST_ROWS,
    date_in,
    day_first,
    decimal_comma,
    number_in,
    read_table,
)

PLAIN = "Tag,What,Size\nMH-1,Violin,1/2\nMH-2,Viola,15 in\n"
ROWS = ((2, ("MH-1", "Violin", "1/2")), (3, ("MH-2", "Viola", "15 in")))


@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "utf-32", "cp1252"])
def test_every_separator_and_encoding(separator: str, encoding: str) -> None:
    text = PLAIN.replace(",", separator).replace("What", "Größe")
    table = read_table(text.encode(encoding))
    assert table.columns == ("Tag", "Größe", "Size") and table.rows == ROWS


def test_a_semicolon_wins_over_decimal_commas() -> None:
    table = read_table(b"Tag;Price;Weight\nA1;349,00;2,5\nA2;1.249,50;3,25\nA3;80;1\n")
    assert table.columns == ("Tag", "Price", "Weight") and table.rows[1][1] == ("A2", "1.249,50", "3,25")
    assert "semicolons" in table.told


def test_quotes_line_ends_and_empty_lines() -> None:
    text = 'Tag,Note\r\n\r\nA1,"two\r\nlines, and a comma"\r\nA2,"said ""so"""\r\n,\r\n'
    table = read_table(text.encode())
    assert table.rows == ((4, ("A1", "two lines, and a comma")), (5, ("A2", 'said "so"')))


def test_one_column_and_unequal_rows() -> None:
    assert read_table(b"Tag\nA1\nA2\n").rows == ((2, ("A1",)), (3, ("A2",)))
    table = read_table(b"Tag,,Tag\nA1\nA2,b,c,d\n")
    assert table.columns == ("Tag", "column 2", "Tag (3)", "column 4")
    assert table.rows[0][1] == ("A1", "", "", "") and table.rows[1][1] == ("A2", "b", "c", "d")


def workbook(*rows: tuple[Any, ...]) -> bytes:
    from openpyxl import Workbook

    book = Workbook()
    empty = book.active
    assert empty is not None
    sheet = book.create_sheet("list")
    for row in rows:
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_spreadsheet_of_another_library() -> None:
    data = workbook(
        ("Tag", "Bought", "Cost", "Out", "Whole"), ("MH-1", datetime(2021, 9, 3), 349.5, True, 12.0), (None,) * 5,
        ("MH-2", date(2020, 1, 14), None, False, 1e6),
    )  # fmt: skip
    table = read_table(data)
    assert table.told == "spreadsheet"
    assert table.rows == (
        (2, ("MH-1", "2021-09-03", "349.5", "yes", "12")),
        (4, ("MH-2", "2020-01-14", "", "no", "1000000")),
    )


def open_document(*rows: tuple[str, ...]) -> bytes:
    """A table as OASIS OpenDocument 1.2 has it, by hand."""
    cells = "".join(
        "<table:table-row>"
        + "".join(f'<table:table-cell office:value-type="string"><text:p>{c}</text:p></table:table-cell>' for c in row)
        + "</table:table-row>"
        for row in rows
    )
    names = " ".join(f'xmlns:{n}="urn:oasis:names:tc:opendocument:xmlns:{n}:1.0"' for n in ("office", "table", "text"))
    content = (
        f'<?xml version="1.0"?><office:document-content {names} office:version="1.2"><office:body>'
        f'<office:spreadsheet><table:table table:name="s">{cells}</table:table></office:spreadsheet>'
        "</office:body></office:document-content>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        file.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        file.writestr("META-INF/manifest.xml", "<manifest/>")
        file.writestr("content.xml", content)
    return out.getvalue()


def test_open_document() -> None:
    table = read_table(open_document(("Tag", "Größe"), ("MH-1", "1/2")))
    assert table.columns == ("Tag", "Größe") and table.rows == ((2, ("MH-1", "1/2")),)


@pytest.mark.parametrize(
    "data",
    [
        b"", b"\n\n ,,\n", b"Tag,What\n", b"\0\1\2\3" * 40, b"PK\x03\x04 broken",
        b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 no",
        b"x" * (MOST_BYTES + 1), b"Tag\n" + b"a" * (MOST_CELL + 1), b",".join([b"c"] * (MOST_COLUMNS + 1)) + b"\n1\n",
        b"Tag\n" + b"A1\n" * (MOST_ROWS + 1), "a,b\n1,2".encode("utf-16")[:-1], workbook(),
        b'"' + b"x" * 200_000,
    ],
    ids=[
        "empty", "blank", "head", "binary", "zip", "ole", "long", "cell", "columns", "rows", "cut", "no sheet", "quote",
    ],
)  # fmt: skip
def test_what_is_refused(data: bytes) -> None:
    with pytest.raises(BadInput) as caught:
        read_table(data)
    assert caught.value.happened


def test_a_small_file_that_unpacks_to_much_is_refused() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("content.xml", b" " * 210_000_000)
    assert len(out.getvalue()) < 1_000_000
    with pytest.raises(BadInput, match="too long"):
        read_table(out.getvalue())


def test_formulas_and_markup_are_only_text() -> None:
    table = read_table(b'Tag,Note\nA1,"=HYPERLINK(""x"")"\nA2,<b>bold</b>\n')
    assert [cells[1] for _, cells in table.rows] == ['=HYPERLINK("x")', "<b>bold</b>"]


@given(
    st.lists(st.lists(st.text("abcé1 ,;\t|\"'\n", max_size=8), min_size=3, max_size=3), min_size=3, max_size=12),
    st.sampled_from([",", ";"]),
)
def test_what_a_library_wrote_is_read_back(rows: list[list[str]], separator: str) -> None:
    """Python's own writer, with cells that hold every separator, quotes and line ends."""
    wanted = [["Tag", "Second", "Third"], *([f"T{n}", *r[1:]] for n, r in enumerate(rows))]
    out = io.StringIO(newline="")
    csv.writer(out, delimiter=separator, quoting=csv.QUOTE_ALL).writerows(wanted)
    table = read_table(out.getvalue().encode())
    if len(table.columns) == 3:  # a quoted text may look more like a table of another separator
        assert [list(cells) for _, cells in table.rows] == [[" ".join(c.split()) for c in row] for row in wanted[1:]]


def test_damaged_files_are_read_or_refused() -> None:
    """1,200 tables of three makes with some bytes changed, taken out or doubled."""
    chance, read = random.Random(11), 0
    wholes = [
        PLAIN.encode() * 6,
        PLAIN.encode("utf-16"),
        workbook(("Tag", "What"), ("A1", "Violin")),
        open_document(("Tag",), ("A1",)),
    ]
    for n in range(1200):
        data = bytearray(wholes[n % 4])
        for _ in range(chance.randint(1, 5)):
            at, how = chance.randrange(len(data)), chance.randrange(3)
            if how == 0:
                data[at] = chance.randrange(256)
            elif how == 1:
                del data[at : at + chance.randint(1, 9)]
            else:
                data[at:at] = data[at : at + chance.randint(1, 20)]
        try:
            table = read_table(bytes(data))
        except BadInput:
            continue
        read += 1
        assert all(len(cells) == len(table.columns) for _, cells in table.rows)
        assert len(set(table.columns)) == len(table.columns) <= MOST_COLUMNS
    assert read > 400


def test_a_spreadsheet_of_an_unknown_version_is_refused() -> None:
    """One byte of the directory that says which version of ZIP is needed: 216 where 20 stood."""
    data = bytearray(workbook(("Tag", "What"), ("A1", "Violin")))
    entry = data.index(b"PK\x01\x02")
    data[entry + 6] = 216
    with pytest.raises(BadInput, match="damaged"):
        read_table(bytes(data))


# --- numbers and dates ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "cells, comma",
    [
        (["349,00", "80"], True), (["349.00", "80"], False), (["1.249,50"], True), (["1,249.50"], False),
        (["1,249", "3,000"], False), (["1.249", "3.000", "12,5"], True), (["1.234.567"], True), ([], False),
    ],
)  # fmt: skip
def test_the_decimal_mark_of_a_column(cells: list[str], comma: bool) -> None:
    assert decimal_comma(cells) is comma


@pytest.mark.parametrize(
    "cell, comma, value",
    [
        ("349,00 €", True, 349.0), ("1.249,50", True, 1249.5), ("1,249.50", False, 1249.5), ("£ 80", False, 80.0),
        ("−3", False, -3.0), ("1 234,5", True, 1234.5), ("1'234.5", False, 1234.5), ("12.-", False, 12.0),
    ],
)  # fmt: skip
def test_numbers(cell: str, comma: bool, value: float) -> None:
    assert number_in(cell, comma) == value


@pytest.mark.parametrize("cell", ["", "many", "3 of 12", "12 34", "1e400", "--", "9999999999", "1,2"])
def test_what_is_no_number(cell: str) -> None:
    with pytest.raises(BadInput):
        number_in(cell, False)


@pytest.mark.parametrize(
    "cells, first, found",
    [
        (["3/9/2021", "14/1/2020"], True, date(2021, 9, 3)), (["9/3/2021", "1/14/2020"], False, date(2021, 9, 3)),
        (["03.09.2021"], True, date(2021, 9, 3)), (["2021-09-03"], True, date(2021, 9, 3)),
        (["3 Sep 2021"], True, date(2021, 9, 3)), (["September 3, 2021"], True, date(2021, 9, 3)),
        (["2021-09-03 12:00"], True, date(2021, 9, 3)),
    ],
)  # fmt: skip
def test_dates(cells: list[str], first: bool, found: date) -> None:
    assert day_first(cells) is first and date_in(cells[0], first) == found


@pytest.mark.parametrize("cell", ["", "soon", "3 Sep", "2021", "31.02.2021", "0021-09-03", "9/2021"])
def test_what_is_no_date(cell: str) -> None:
    with pytest.raises(BadInput):
        date_in(cell, True)
