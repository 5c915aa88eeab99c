"""What a shop can go back to: its copies and what was kept aside, and going back.

Whatever is put in place of, is kept aside whole in ``kept-aside/<time>/`` and can itself be gone back to.
"""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import sqlite3
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.files import (
    create_private,
    free_bytes,
    part_of,
    private_folder,
    sync_file,
    sync_folder,
    write_whole,
)
from creekbed.store.layout import ABOUT, ASIDE, BACKUPS, CATALOGUE, FILE, KEPT_FILES, LOGS
from creekbed.store.presence import alone
from creekbed.store.problems import CANNOT_READ, from_error, problem
from creekbed.store.sqlite.backup import (
    SPARE_BYTES,
    STAMP,
    copies_in,
    copy_own,
    mirror,
    records_of,
    sha256_of,
    time_of,
)
from creekbed.store.sqlite.checking import Facts, examine
from creekbed.store.sqlite.making import make_records
from creekbed.store.sqlite.reading import reading
from creekbed.store.witness import Witness, WitnessedEntry

KINDS = {"daily": "daily copy", "before-migration": "before a new version", "by-hand": "made by hand"}
KEPT_ASIDE = "kept aside"


@dataclass(frozen=True)
class Copy:
    """Something that a shop can go back to.

    Attributes:
        name: what it is called by. kind: in words. made_at: when it was made, or put aside.
        size: of its records, bytes. lost: how many actions are on record now that are not in it; ``None`` where that
            cannot be known. other: its last action is another than the one of that number on record now.
    """

    name: str
    path: Path
    kind: str
    made_at: datetime
    facts: Facts
    size: int
    lost: int | None = None
    other: bool = False

    @property
    def aside(self) -> bool:
        """Whether it was put aside when somebody went back to a copy."""
        return self.kind == KEPT_ASIDE


def all_copies(folder: Path, *, deep: bool = True) -> list[Copy]:
    """Everything that a shop can go back to, newest first.

    Args:
        deep: check the integrity of each, which reads all of it.
    """
    found = [*copies_in(folder / BACKUPS), *copies_in(folder / ASIDE), *_old_aside(folder)]
    now = examine(folder / FILE, deep=False) if (folder / FILE).is_file() else None
    copies = [_look(p, deep) for p in found]
    made = [_compared(c, folder, now) for c in copies]
    return sorted(made, key=lambda c: (c.made_at, c.name), reverse=True)


def _old_aside(folder: Path) -> list[Path]:
    """What earlier versions put aside: the file itself, in the data folder."""
    return sorted(p for p in folder.glob("kept-aside-*.sqlite3") if p.is_file())


def _look(path: Path, deep: bool) -> Copy:
    aside = path.parent.name == ASIDE or path.name.startswith("kept-aside-")
    records = records_of(path)
    facts = examine(records, still=not aside, deep=deep)
    if facts.whole and not aside and path.is_dir():
        facts = _as_described(path, facts)
    why = path.name.partition("-")[2].removesuffix(".sqlite3")
    made = time_of(path) or _aside_time(path)
    size = sum(p.stat().st_size for p in (records, records.with_name(records.name + LOGS[0])) if p.exists())
    return Copy(path.name, path, KEPT_ASIDE if aside else KINDS.get(why, why.replace("-", " ")), made, facts, size)


def _as_described(path: Path, facts: Facts) -> Facts:
    """The facts, wrong where the copy is not the one that was proven whole when it was made."""
    try:
        about = json.loads(read_at_most(path / ABOUT, 100_000))
        same = about["sha256"] == sha256_of(path / FILE)
    except (OSError, ValueError, KeyError, TypeError, BadInput):
        return replace(facts, wrong="what says how it was made cannot be read")
    return facts if same else replace(facts, wrong="it was changed after it was made")


def _aside_time(path: Path) -> datetime:
    text = path.name.removeprefix("kept-aside-").removesuffix(".sqlite3")
    with contextlib.suppress(ValueError):
        return datetime.strptime(text, STAMP).replace(tzinfo=UTC)
    return datetime.fromtimestamp(path.stat().st_mtime, UTC)


def _compared(copy: Copy, folder: Path, now: Facts | None) -> Copy:
    last, chain = _last_known(folder, now)
    if not last:
        return copy
    there = _chain_at(folder, copy.facts.entries) if copy.facts.chain else ""
    other = bool(there) and there != copy.facts.chain
    if copy.facts.entries > last or (copy.facts.entries == last and chain and copy.facts.chain not in ("", chain)):
        other = True
    return replace(copy, lost=None if other else max(last - copy.facts.entries, 0), other=other)


def _last_known(folder: Path, now: Facts | None) -> tuple[int, str]:
    """The last action that is known of: on record, or by the witness."""
    found = (now.entries, now.chain) if now is not None else (0, "")
    with contextlib.suppress(OSError):
        seen = Witness(folder).read()
        if seen is not None and seen.number > found[0]:
            found = seen.number, seen.chain
    return found


def _chain_at(folder: Path, number: int) -> str:
    """The chain on record now at an entry; "" where it is not there."""
    try:
        with reading(folder / FILE) as connection:
            row = connection.execute("SELECT chain FROM journal WHERE id = ?", (number,)).fetchone()
            return "" if row is None else str(row[0])
    except (*CANNOT_READ, OSError):
        return ""


def find(folder: Path, name: str = "") -> Copy:
    """The copy with a name; the newest whole backup if none is given.

    Raises:
        Refused: there is none.
    """
    copies = all_copies(folder)
    if name:
        found = next((c for c in copies if c.name == name), None)
    else:
        found = next((c for c in copies if not c.aside and c.facts.whole), None)
    if found is None:
        raise Refused(f"There is no copy “{name[:80]}”." if name else "There is no copy that is whole.")
    return found


def restore(folder: Path, copy: Copy, *, even_damaged: bool = False, now: datetime | None = None) -> Path | None:
    """Put a copy in place; what is there now is kept aside whole, and can be gone back to.

    Args:
        copy: from :func:`all_copies`. even_damaged: also one that is not whole.
        now: the time; the computer's if not given.

    Returns:
        The folder in which what was there is kept, or ``None`` where nothing was.

    Raises:
        StoreProblem: the shop is open, the copy is not whole, there is no room, or the disk does not take it; what is
            there now is as it was, or kept aside whole.
    """
    if not copy.facts.whole and not even_damaged:
        raise problem("not_whole", folder, what=copy.facts.wrong)
    try:
        with alone(folder):
            return _put_in_place(folder, copy, now or datetime.now(UTC))
    except (*CANNOT_READ, OSError) as error:
        raise from_error(error, folder) from error


def _put_in_place(folder: Path, copy: Copy, now: datetime) -> Path | None:
    path = folder / FILE
    if free_bytes(folder) < copy.size + SPARE_BYTES:
        raise problem(
            "no_room", folder, what=f"it takes {copy.size / 1e6:.1f} MB, and {SPARE_BYTES / 1e6:.0f} MB must be left"
        )
    part = part_of(path)
    try:
        _bring(copy, part)
        aside = _set_aside(folder, now)
        os.replace(part, path)
        sync_folder(folder)
    finally:
        part.unlink(missing_ok=True)
        for end in LOGS:
            part.with_name(part.name + end).unlink(missing_ok=True)
    facts = examine(path, deep=False)
    Witness(folder).note(WitnessedEntry(facts.entries, facts.chain), anew=True)
    if copy.path.is_dir() and (copy.path / CATALOGUE).is_dir():
        _bring_own(copy.path / CATALOGUE, folder / CATALOGUE, aside)
    for place, _, ending in KEPT_FILES:
        mirror(folder / BACKUPS / place, folder / place, ending=ending)
    return aside


def _bring(copy: Copy, part: Path) -> None:
    """The records of a copy as one file on disk, its log played into it."""
    records = records_of(copy.path)
    os.close(create_private(part))
    if copy.facts.whole and copy.aside:
        with reading(records) as source, contextlib.closing(sqlite3.connect(part, isolation_level=None)) as target:
            source.backup(target)
            target.execute("PRAGMA journal_mode=DELETE")
    else:
        with records.open("rb") as source_file, part.open("wb") as to:
            shutil.copyfileobj(source_file, to)
    sync_file(part)


def _set_aside(folder: Path, now: datetime) -> Path | None:
    """Move records and their log into a folder of their own; the own values are copied there."""
    rejoin_log(folder)
    there = [folder / (FILE + end) for end in ("", *LOGS) if os.path.lexists(folder / (FILE + end))]
    if not there:
        return None
    aside = private_folder(folder / ASIDE / now.astimezone(UTC).strftime(STAMP))
    for path in sorted(there, key=lambda p: p.name != FILE):  # the records first: their log finds them there
        os.rename(path, aside / path.name)
    copy_own(folder / CATALOGUE, aside / CATALOGUE)
    sync_folder(aside)
    sync_folder(folder)
    return aside


def rejoin_log(folder: Path) -> None:
    """Where putting records aside was cut off between them and their log, put the log where they are.

    Raises:
        OSError: it cannot be moved.
    """
    logs = [folder / (FILE + end) for end in LOGS if (folder / (FILE + end)).exists()]
    if os.path.lexists(folder / FILE) or not logs:
        return
    for aside in reversed(copies_in(folder / ASIDE)):
        if not any((aside / log.name).exists() for log in logs):
            for log in logs:
                os.rename(log, aside / log.name)
        return


def _bring_own(source: Path, target: Path, aside: Path | None) -> None:
    """Put the own families and values of a copy in place; files that it does not have go, once they are kept aside."""
    wanted = {p.relative_to(source) for p in source.rglob("*.toml") if p.is_file()}
    for name in sorted(wanted):
        write_whole(target / name, (source / name).read_bytes())
    for path in sorted(target.rglob("*.toml")):
        name = path.relative_to(target)
        if name not in wanted and aside is not None and (aside / CATALOGUE / name).is_file():
            path.unlink()


def set_aside_empty(folder: Path, *, new: bool = False, now: datetime | None = None) -> Path | None:
    """Put an empty records file aside where there is nothing to go back to, so that a new shop can begin.

    Args:
        new: make the records of the new shop at once; what was put aside tells of a shop that is gone otherwise.

    Raises:
        Refused: it is not empty, or there is something to go back to. StoreProblem: the shop is open.
    """
    path = folder / FILE
    if not path.is_file() or path.stat().st_size or all_copies(folder, deep=False):
        raise Refused("There is something to go back to; a new shop is not begun over it.")
    try:
        with alone(folder):
            aside = _set_aside(folder, now or datetime.now(UTC))
            if new:
                make_records(folder)
            return aside
    except (*CANNOT_READ, OSError) as error:
        raise from_error(error, folder) from error


def go_on_without(folder: Path) -> int:
    """Take the records as they are though actions that were on record are missing.

    Returns:
        How many are missing.

    Raises:
        StoreProblem: the shop is open, or the records cannot be read.
    """
    try:
        with alone(folder):
            facts = examine(folder / FILE)
            if not facts.whole:
                raise problem("damaged", folder, what=facts.wrong)
            seen = Witness(folder).read()
            Witness(folder).note(WitnessedEntry(facts.entries, facts.chain), anew=True)
            return max((seen.number if seen is not None else 0) - facts.entries, 0)
    except OSError as error:
        raise from_error(error, folder) from error


def prune_aside(folder: Path, days: float, *, now: datetime | None = None) -> list[str]:
    """Remove what was put aside more than a number of days ago; only on request.

    Returns:
        What was removed.

    Raises:
        Refused: less than a week. StoreProblem: it cannot be removed.
    """
    if not days >= 7:
        raise Refused("What was put aside is kept for a week at least.", todo="Say 7 days or more.")
    before = (now or datetime.now(UTC)) - timedelta(days=min(days, 36_500))
    removed = []
    try:
        for path in copies_in(folder / ASIDE):
            if (time_of(path) or before) < before:
                shutil.rmtree(path)
                removed.append(path.name)
        for path in _old_aside(folder):
            if _aside_time(path) < before:
                for end in ("", *LOGS):
                    path.with_name(path.name + end).unlink(missing_ok=True)
                removed.append(path.name)
    except OSError as error:
        raise from_error(error, folder) from error
    return removed
