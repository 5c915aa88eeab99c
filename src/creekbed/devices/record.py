"""A record of times and pressures from a CSV file, as gauges with a memory of their own write it."""

from __future__ import annotations

import csv
from pathlib import Path

from creekbed.core.errors import BadInput

LARGEST_CSV = 4_000_000
"""Bytes; half an hour of a fast gauge."""


def read_record(path: Path) -> tuple[list[float], list[float]]:
    """Times in s and pressures in Pa of a CSV file.

    Raises:
        BadInput: not such a file, too large, or a row that is no reading.
    """
    if path.stat().st_size > LARGEST_CSV:
        raise BadInput(f"{path.name} is too large for a leak test.", todo="Half a minute is enough.")
    times, pressures = [], []
    try:
        with path.open(newline="", encoding="utf-8-sig") as file:
            rows = csv.reader(file)
            head = [h.strip().lower() for h in next(rows, [])]
            names = {"pressure_pa": 1.0, "pressure_kpa": 1000.0}
            column = next((h for h in head if h in names), None)
            if "time_s" not in head or column is None:
                raise BadInput(
                    f"{path.name} has no columns time_s and pressure_pa.", todo="Name them in the first line."
                )
            t, p = head.index("time_s"), head.index(column)
            for number, row in enumerate(rows, 2):
                if row:
                    try:
                        times.append(float(row[t]))
                        pressures.append(float(row[p]) * names[column])
                    except (ValueError, IndexError):
                        raise BadInput(f"{path.name}, line {number} is no reading.", todo="Mend the file.") from None
    except (UnicodeDecodeError, csv.Error) as error:
        raise BadInput(f"{path.name} is not a CSV file.", todo="Save it as CSV, UTF-8.") from error
    return times, pressures
