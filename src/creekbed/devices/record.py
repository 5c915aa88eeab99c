"""Records that devices write as CSV: opened as data, with limits, every line accounted for."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadInput

Row = TypeVar("Row")
LARGEST_CSV = 4_000_000
"""Bytes; half an hour of a fast gauge."""
MOST_ROWS = 200_000


def read_rows(
    path: Path, columns: Sequence[str | Sequence[str]], make: Callable[..., Row], *, largest: int = LARGEST_CSV
) -> list[Row]:
    """The wanted columns of a CSV file with a head line, each line made into a value.

    Args:
        columns: names of the columns, each a name or several of which one must be there, whatever their case.
        make: gets the texts of a line in that order, and after them the names that were found for those with several;
            ``ValueError`` (or BadInput) says that they are no reading.
        largest: bytes that are read at most.

    Raises:
        BadInput: no such file, too large, no CSV, a column that is not there, or a line that is no reading.
    """
    named = [[c] if isinstance(c, str) else list(c) for c in columns]
    try:
        text = read_at_most(path, largest).decode("utf-8-sig")
        rows = csv.reader(io.StringIO(text, newline=""))
        head = [h.strip().lower() for h in next(rows, [])]
        there = [next((n for n in names if n in head), "") for names in named]
        if not all(there):
            wanted = ", ".join(names[0] for names in named)
            raise BadInput(f"{path.name} has no columns {wanted}.", todo="Name them in the first line.")
        at = [head.index(n) for n in there]
        found_as = [n for n, names in zip(there, named, strict=True) if len(names) > 1]
        found: list[Row] = []
        for number, row in enumerate(rows, 2):
            if number > MOST_ROWS:
                raise BadInput(f"{path.name} is too large.", todo="Split it, or record less.")
            if row:
                try:
                    found.append(make(*(row[n] for n in at), *found_as))
                except (ValueError, IndexError, OverflowError, BadInput):
                    raise BadInput(f"{path.name}, line {number} is no reading.", todo="Mend the file.") from None
    except FileNotFoundError:
        raise BadInput(f"There is no file {str(path)[:120]}.", todo="Type its name again, with its folder.") from None
    except (UnicodeDecodeError, csv.Error, OSError) as error:
        raise BadInput(f"{path.name} is not a CSV file.", todo="Save it as CSV, UTF-8.") from error
    return found


PRESSURES = {
    "pressure_pa": 1.0, "pressure_kpa": 1000.0, "pressure_hpa": 100.0, "pressure_mbar": 100.0,
    "pressure_cmh2o": 98.0665, "pressure_mmh2o": 9.80665, "pressure_inh2o": 249.0889, "pressure_mmhg": 133.3224,
    "pressure_inhg": 3386.389, "pressure_psi": 6894.757,
}  # fmt: skip
"""Columns of pressure and what one of them is in Pa: NIST SP 811, appendix B.8 (water and mercury conventional)."""
TIMES = {"time_s": 1.0, "time_ms": 0.001}


def read_record(path: Path) -> tuple[list[float], list[float]]:
    """Times in s and pressures in Pa of a leak test; the head line says what they are written in.

    Raises:
        BadInput: as :func:`read_rows`.
    """
    rows = read_rows(
        path, (tuple(TIMES), tuple(PRESSURES)),
        lambda t, p, time, pressure: (float(t) * TIMES[time], float(p) * PRESSURES[pressure]),
    )  # fmt: skip
    return [t for t, _ in rows], [p for _, p in rows]
