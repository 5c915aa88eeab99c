"""Lists that lie where people put them."""

from __future__ import annotations

import os
from pathlib import Path

from creekbed.workshop.bringing.recent import MOST, recent_lists


def put(folder: Path, name: str, at: int) -> None:
    (folder / name).write_text("Tag;What\n")
    os.utime(folder / name, (at, at))


def test_the_newest_tables_come_first_and_nothing_else(tmp_path: Path) -> None:
    one, two = tmp_path / "lists", tmp_path / "downloads"
    for folder in (one, two):
        folder.mkdir()
    put(one, "fleet.csv", 1_000)
    put(two, "Stock.XLSX", 3_000)
    put(two, "people.ods", 2_000)
    for other in ("letter.txt", ".hidden.csv", "~$open.xlsx", "photo.png"):
        put(two, other, 9_000)
    (two / "folder.csv").mkdir()
    found = recent_lists([one, two, tmp_path / "none", one / "fleet.csv"])
    assert [r.path.name for r in found] == ["Stock.XLSX", "people.ods", "fleet.csv"]
    for n in range(9):
        put(one, f"more-{n}.tsv", 5_000 + n)
    assert [r.path.name for r in recent_lists([one, two])] == [f"more-{n}.tsv" for n in (8, 7, 6, 5)][:MOST]
