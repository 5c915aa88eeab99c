"""What lies where in a shop's data folder."""

from __future__ import annotations

from pathlib import Path

FILE = "records.sqlite3"
"""The records. Beside them SQLite keeps its log (``-wal``) and an index of that (``-shm``)."""
PHOTOS, SOUNDS = "photos", "sounds"
KEPT_FILES = ((PHOTOS, "photo", ".jpg"), (SOUNDS, "recording", ".flac"))
"""Folders of files that records name by their contents: folder, table, ending."""
CATALOGUE = "catalogue"
"""The shop's own families and values."""
BACKUPS = "backups"
ASIDE = "kept-aside"
"""The folder of what was put aside when somebody went back to a copy."""
WITNESS = "journal.last"
"""The last number of the journal, outside the records."""
IN_USE = "in-use"
"""Who has the shop open."""
ABOUT = "about.json"
"""In a copy: what it holds."""
OURS = (PHOTOS, SOUNDS, CATALOGUE, BACKUPS, ASIDE, IN_USE, "papers")
"""The folders in it."""
LOGS = ("-wal", "-shm", "-journal")


def own_traces(folder: Path) -> list[str]:
    """What tells that a shop has been here, the records' own file left out: names, in words.

    Raises:
        OSError: the folder cannot be looked at.
    """
    found = []
    backups = folder / BACKUPS
    if backups.is_dir() and any(_is_copy(p) for p in backups.iterdir()):
        found.append("backups")
    aside = folder / ASIDE
    if any(folder.glob("kept-aside-*.sqlite3")) or (aside.is_dir() and any(_is_copy(p) for p in aside.iterdir())):
        found.append("records kept aside")
    if (folder / WITNESS).exists():
        found.append("the number of its last action")
    if any((folder / (FILE + end)).exists() for end in LOGS):
        found.append("a log of the records")
    return found


def _is_copy(path: Path) -> bool:
    return path.suffix == ".sqlite3" or (path / FILE).is_file()
