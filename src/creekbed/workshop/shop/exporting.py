"""Everything on record as open files: one JSON document, or a folder with one CSV file for each table."""

from __future__ import annotations

import os
import shutil
import stat
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import IO, Any

from creekbed.core.errors import BadInput, Refused, StoreProblem
from creekbed.core.progress import Progress, untold
from creekbed.papers.export import Tables, export_csv, export_json
from creekbed.store.files import private_folder, writing_whole
from creekbed.store.reader import Reader
from creekbed.workshop.shop.shop import Shop

TOLD_EVERY = 500
"""Rows between two reports."""


def write_json(shop: Shop, out: IO[bytes]) -> None:
    """Write everything as one JSON document into an open file."""
    with shop.reading() as records:
        export_json(records.tables(), shop.now, out)


def export_to(shop: Shop, to: Path, *, csv: bool, replace: bool = False, progress: Progress = untold) -> None:
    """Write everything to a file, or into a folder; what is there is whole, or as it was before.

    Args:
        csv: a folder of CSV files instead of one JSON file. replace: an export that is there already goes.

    Raises:
        Refused: something else is there; it was not touched. BadInput: given up. StoreProblem: it cannot be written.
    """
    need_room_for(to, csv=csv, replace=replace)
    try:
        with shop.reading() as records:
            tables = _told(records, progress)
            if csv:
                _write_csv(to, tables)
            else:
                with writing_whole(to) as file:
                    export_json(tables, shop.now, file)
    except OSError as error:
        raise StoreProblem(
            f"The export could not be written: {error.strerror or error}.", todo="Is there room, and may it be written?"
        ) from error


def _write_csv(to: Path, tables: Tables) -> None:
    """Write all files beside the folder first; then they take their places."""
    part = to.with_name(f"{to.name}.part")
    shutil.rmtree(part, ignore_errors=True)
    private_folder(part)

    def write(name: str, pieces: Iterator[bytes]) -> None:
        with writing_whole(part / name) as file:
            file.writelines(pieces)

    try:
        export_csv(tables, write)
        private_folder(to)
        written = sorted(part.iterdir())
        for path in written:
            os.replace(path, to / path.name)
        for old in set(to.glob("*.csv")) - {to / path.name for path in written}:  # a table that has no rows any more
            old.unlink()
    finally:
        shutil.rmtree(part, ignore_errors=True)


def _told(records: Reader, progress: Progress) -> Iterator[tuple[str, Iterator[Mapping[str, Any]]]]:
    """All tables, reporting how far it is.

    Raises:
        BadInput: given up.
    """
    total, done = max(records.count_all(), 1), 0

    def rows_of(rows: Iterator[Mapping[str, Any]]) -> Iterator[Mapping[str, Any]]:
        nonlocal done
        for row in rows:
            if done % TOLD_EVERY == 0 and not progress(min(done / total, 1.0)):
                raise BadInput("Given up; nothing was written.")
            done += 1
            yield row

    for name, rows in records.tables():
        yield name, rows_of(rows)


def need_room_for(path: Path, *, csv: bool, replace: bool) -> None:
    """See that an export may be written to a path.

    Raises:
        Refused: something else is there; it was not touched.
    """
    try:
        (_need_folder if csv else _need_file)(path, replace)
    except OSError as error:
        raise Refused(f"{path} cannot be looked at: {error.strerror}.", todo="Name another place.") from error


def _kind(path: Path) -> str:
    """What lies at a path, in words; "" where nothing does, "file" for an ordinary file, "folder" for a folder."""
    try:
        mode = path.lstat().st_mode
    except (FileNotFoundError, NotADirectoryError):
        return ""
    if stat.S_ISLNK(mode):
        return "a link"
    return "file" if stat.S_ISREG(mode) else "folder" if stat.S_ISDIR(mode) else "a device"


def _need_file(path: Path, replace: bool) -> None:
    """See that an export may be written to a path.

    Raises:
        Refused: something else is there; it was not touched.
    """
    kind = _kind(path)
    if not kind:
        return
    if kind != "file":
        words = "a folder" if kind == "folder" else kind
        raise Refused(f"{path} is {words}; an export is an ordinary file.", todo="Name another file.")
    with path.open("rb") as file:
        ours = b'"format": "creekbed-export-' in file.read(200)
    if not ours:
        raise Refused(f"{path} is there and is no export of Creekbed; it was not touched.", todo="Name another file.")
    if not replace:
        raise Refused(f"{path} is there already.", todo="Name another file, or say that it may be replaced.")


def _need_folder(path: Path, replace: bool) -> None:
    """See that an export as CSV may be written into a folder.

    Raises:
        Refused: something else is there; it was not touched.
    """
    kind = _kind(path)
    if not kind:
        return
    if kind != "folder":
        words = "a file" if kind == "file" else kind
        raise Refused(f"{path} is {words}; CSV files go into a folder.", todo="Name another folder.")
    from creekbed.store.maintenance import EXPORTED

    there = set(os.listdir(path))
    strange = sorted(there - {f"{name}.csv" for name in EXPORTED})
    if strange:
        raise Refused(f"{path} holds something else, such as {strange[0]}.", todo="Name a new folder.")
    if there and not replace:
        raise Refused(f"{path} holds an export already.", todo="Name another folder, or say that it may be replaced.")
