"""Lists that lie where people put them, so that nobody has to look for a file: by mouse, key or scan."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime
from pathlib import Path

from creekbed.core.quick_dataclasses import dataclass

ENDINGS = frozenset((".csv", ".tsv", ".ods", ".xlsx", ".xls"))
FOLDER = "lists"
"""Folder in the shop's own, for lists that are to be brought."""
MOST = 4
LOOKED_AT = 2000
"""A folder with more files than this is looked at in part: house default."""


@dataclass(frozen=True)
class RecentList:
    """A file that may be a list. ``changed_at``: when it was written last."""

    path: Path
    changed_at: datetime


def recent_lists(folders: Iterable[Path]) -> list[RecentList]:
    """The newest tables in some folders; a folder that is not there or cannot be read holds none."""
    found: list[RecentList] = []
    for folder in folders:
        try:
            for n, path in enumerate(folder.iterdir()):
                if n >= LOOKED_AT:
                    break
                if path.suffix.lower() in ENDINGS and path.is_file() and not path.name.startswith((".", "~")):
                    found.append(RecentList(path, datetime.fromtimestamp(path.stat().st_mtime, UTC)))
        except OSError:
            continue
    return sorted(found, key=lambda r: r.changed_at, reverse=True)[:MOST]
