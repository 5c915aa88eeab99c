"""Tables from files: CSV of any separator and encoding, and spreadsheets (OpenDocument, Excel), with limits."""

from __future__ import annotations

import csv
import io
import re
import struct
import zipfile
from codecs import BOM_UTF8, BOM_UTF16_BE, BOM_UTF16_LE, BOM_UTF32_BE, BOM_UTF32_LE
from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import date, datetime, time, timedelta
from functools import lru_cache
from typing import Any

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import LONGEST_LINE, clean

MOST_BYTES = 20_000_000
MOST_UNPACKED = 200_000_000
MOST_ROWS = 50_000
MOST_COLUMNS = 60
MOST_CELL = 500
"""Limits of a table: bytes of the file and unpacked, rows, columns, characters of a cell: house default."""
SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
LOOKED_AT = 60
"""So many lines are looked at to find the separator."""
_BOMS = (
    (BOM_UTF32_LE, "utf-32"), (BOM_UTF32_BE, "utf-32"), (BOM_UTF8, "utf-8-sig"), (BOM_UTF16_LE, "utf-16"),
    (BOM_UTF16_BE, "utf-16"),
)  # fmt: skip
_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
# What zipfile raises over a directory that makes no sense: a version it does not know is "not implemented".
_DAMAGED_ZIP = (zipfile.BadZipFile, NotImplementedError, struct.error, ValueError, OSError, EOFError)


@dataclass(frozen=True)
class Table:
    """What a file holds.

    Attributes:
        columns: their names, none twice, none empty. rows: (line of the file, cells); as many cells as columns.
        told: how it was read, in words: "CSV, semicolons, UTF-8".
    """

    columns: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    told: str

    def column(self, n: int) -> list[str]:
        """The cells of a column."""
        return [cells[n] for _, cells in self.rows]


def read_table(data: bytes) -> Table:
    """The first table of a file; what it is, is found by its content.

    Args:
        data: the file's bytes.

    Raises:
        BadInput: too long, no table, damaged, or no text.
    """
    if len(data) > MOST_BYTES:
        raise too_long()
    if data.startswith((_ZIP, _OLE)):
        rows, told = _sheet(data), "spreadsheet"
    else:
        text, encoding = decode(data)
        separator = separator_of(text)
        rows, told = _csv_rows(text, separator), f"CSV, {SEPARATORS[separator]}s, {encoding}"
    return _table(rows, told)


def too_long() -> BadInput:
    """The file is longer than :data:`MOST_BYTES`."""
    return BadInput("That file is too long.", todo=f"Up to {MOST_BYTES // 1_000_000} MB are read; bring it in parts.")


def decode(data: bytes) -> tuple[str, str]:
    """The text of a file, and the name of its encoding.

    A byte-order mark decides. Without one: UTF-16 where every second byte is mostly zero, else UTF-8 where it is that,
    else Windows-1252, which holds Latin-1.

    Raises:
        BadInput: it is no text.
    """
    for mark, name in _BOMS:
        if data.startswith(mark):
            return _as(data, name), name.removesuffix("-sig").upper()
    head = data[:4000]
    if len(head) >= 4 and b"\0" in head:
        odd, even = head[1::2].count(0), head[0::2].count(0)
        if max(odd, even) > 0.3 * len(head) / 2:
            return _as(data, "utf-16-le" if odd > even else "utf-16-be"), "UTF-16"
        raise BadInput("That file is no text.", todo="Save it as CSV, OpenDocument or Excel.")
    try:
        return data.decode("utf-8"), "UTF-8"
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace"), "Latin-1"


def _as(data: bytes, encoding: str) -> str:
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as error:
        raise BadInput("That file breaks off in the middle of a letter.", todo="Save it anew.") from error


def separator_of(text: str) -> str:
    """What stands between the cells: the one that gives most lines the same number of cells, more than one.

    A comma that is only a decimal mark loses against the semicolon, because a quoted or a missing number breaks it.
    """
    sample = "\n".join(text.splitlines()[:LOOKED_AT])
    best, found = (0.0, 0), ","
    for separator in SEPARATORS:
        widths = Counter(len(row) for _, row in _csv_rows(sample, separator, strict=False) if any(row))
        if not widths:
            continue
        width, count = max(widths.items(), key=lambda item: (item[1], item[0]))
        score = (count / sum(widths.values()) if width > 1 else 0.0, width)
        if score > best:
            best, found = score, separator
    return found


def _csv_rows(text: str, separator: str, *, strict: bool = True) -> Iterable[tuple[int, list[str]]]:
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    try:
        for row in reader:
            yield reader.line_num, row
    except csv.Error as error:
        if strict:
            raise BadInput(f"Line {reader.line_num} cannot be read as a table.", todo="Look at its quotes.") from error


def _sheet(data: bytes) -> Iterable[tuple[int, list[str]]]:
    """The rows of the first sheet of a spreadsheet that holds anything."""
    from python_calamine import CalamineError, CalamineWorkbook  # only who brings a spreadsheet needs this

    if data.startswith(_ZIP):
        try:
            size = sum(entry.file_size for entry in zipfile.ZipFile(io.BytesIO(data)).infolist())
        except _DAMAGED_ZIP as error:
            raise BadInput("That spreadsheet is damaged.", todo="Save it anew.") from error
        if size > MOST_UNPACKED:
            raise too_long()
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        for name in book.sheet_names:
            rows = book.get_sheet_by_name(name).to_python(skip_empty_area=False)
            if any(any(cell not in ("", None) for cell in row) for row in rows):
                return [(n, [_cell(c) for c in row]) for n, row in enumerate(rows, 1)]
    except (CalamineError, ValueError, OSError) as error:
        raise BadInput("That file is no spreadsheet that can be read.", todo="Save it as CSV.") from error
    raise BadInput("There is nothing in that file.")


def _cell(value: Any) -> str:
    """A cell of a spreadsheet as people would type it; dates as ISO 8601."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return str(int(value)) if value.is_integer() and abs(value) < 1e15 else repr(value)
    if isinstance(value, datetime):
        return value.date().isoformat() if value.time() == time() else value.isoformat(" ", "minutes")
    if isinstance(value, date | time | timedelta):
        return str(value)
    return "" if value is None else str(value)


def _table(rows: Iterable[tuple[int, list[str]]], told: str) -> Table:
    head: tuple[str, ...] | None = None
    found: list[tuple[int, tuple[str, ...]]] = []
    for number, row in rows:
        cells = [_plain(c, number) for c in row]
        while cells and not cells[-1]:
            cells.pop()
        if not cells:
            continue
        if len(cells) > MOST_COLUMNS:
            raise BadInput(f"Line {number} has {len(cells)} columns.", todo=f"Up to {MOST_COLUMNS} are read.")
        if head is None:
            head = _names(cells)
        elif len(found) >= MOST_ROWS:
            raise BadInput("There are too many rows.", todo=f"Up to {MOST_ROWS:,} are read; bring it in parts.")
        else:
            found.append((number, tuple(cells)))
    if head is None:
        raise BadInput("There is nothing in that file.")
    if not found:
        raise BadInput("That file has a line of names, and nothing below it.", todo="Its first line names the columns.")
    width = max(len(head), *(len(cells) for _, cells in found))
    columns = (*head, *(f"column {n + 1}" for n in range(len(head), width)))
    full = tuple((number, cells + ("",) * (width - len(cells))) for number, cells in found)
    return Table(columns, full, told)


def _plain(cell: str, number: int) -> str:
    if len(cell) > MOST_CELL:
        raise BadInput(f"Line {number} has a cell of {len(cell):,} characters.", todo=f"Up to {MOST_CELL} are read.")
    return " ".join(clean(cell).split())


def _names(cells: Sequence[str]) -> tuple[str, ...]:
    """Names of the columns: an empty one gets its number, one that is there twice too."""
    found: list[str] = []
    for n, cell in enumerate(cells, 1):
        name = cell[:LONGEST_LINE] or f"column {n}"
        while name in found:
            name = f"{name} ({n})"
        found.append(name)
    return tuple(found)


_NUMBER = re.compile(r"[^\d+\-−]*([+\-−]?)\s*(\d[\d\s.,'’]*)[^\d]*")
"""A number with a sign before it, and what is no digit on both sides: a currency, a unit."""

# --- numbers and dates in columns ----------------------------------------------------------------------------------


def decimal_comma(cells: Iterable[str]) -> bool:
    """Whether a comma is the decimal mark in a column: where comma and point both stand, the last one is it."""
    votes = 0
    for cell in cells:
        comma, point = cell.rfind(","), cell.rfind(".")
        if comma < 0 and point < 0:
            continue
        if comma >= 0 and point >= 0:
            votes += 3 if comma > point else -3
            continue
        mark, at = (",", comma) if comma >= 0 else (".", point)
        thousands = cell.count(mark) > 1 or (len(cell) - at == 4 and cell[:at].lstrip("-").isdecimal())
        votes += (1 if mark == "," else -1) * (-1 if thousands else 1)
    return votes > 0


def number_in(cell: str, comma: bool) -> float:
    """A number of a table: its decimal mark as found, marks between thousands, a unit or a currency beside it.

    Args:
        comma: a comma is the decimal mark.

    Raises:
        BadInput: there is no number, or more than one.
    """
    found = _NUMBER.fullmatch(cell)
    if found is None:
        raise BadInput(f"“{cell[:24]}” is no number.")
    mark, between = (",", ".") if comma else (".", ",")
    whole, _, part = found[2].rstrip(" .,'’").partition(mark)
    groups = re.split(rf"[\s'’{between}]", whole)
    if (not part.isdecimal() and part) or any(len(g) != 3 for g in groups[1:]) or not groups[0].isdecimal():
        raise BadInput(f"“{cell[:24]}” can be read in more than one way.", todo="Write it without marks between.")
    value = float("".join(groups) + (f".{part}" if part else "")) * (-1 if found[1] in ("-", "−") else 1)
    if abs(value) > 1e9:
        raise BadInput(f"“{cell[:24]}” is too large.")
    return value


def day_first(cells: Iterable[str]) -> bool:
    """Whether the day stands before the month in a column of dates: where one number is over 12 it is the day."""
    first = second = 0
    for cell in cells:
        parts = [p for p in cell.replace("/", ".").replace("-", ".").split(".") if p.strip().isdecimal()]
        if len(parts) >= 2 and len(parts[0]) <= 2:
            first += int(parts[0]) > 12
            second += int(parts[1]) > 12
    return first >= second


@lru_cache(maxsize=20_000)
def date_in(cell: str, days_first: bool) -> date:
    """A date of a table, with its year.

    Args:
        days_first: the day stands before the month, where both are numbers.

    Raises:
        BadInput: it is no date from 1900 to 2199, or the year is missing.
    """
    from dateutil.parser import parse

    try:
        return _possible(date.fromisoformat(cell[:10]), cell)
    except ValueError:
        pass
    found = []
    for guess in (datetime(1911, 1, 1), datetime(1912, 2, 2)):  # what is missing would be taken from these
        try:
            found.append(parse(cell, dayfirst=days_first, default=guess).date())
        except (ValueError, OverflowError, TypeError):
            raise BadInput(f"“{cell[:24]}” is no date.") from None
    if found[0] != found[1]:
        raise BadInput(f"“{cell[:24]}” is no whole date.", todo="Day, month and year.")
    return _possible(found[0], cell)


def _possible(day: date, cell: str) -> date:
    if not 1900 <= day.year < 2200:
        raise BadInput(f"“{cell[:24]}” is no date that can be.")
    return day
