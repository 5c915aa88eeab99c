"""The demo shop's own data folder and its own day."""

from __future__ import annotations

import json
import shutil
from datetime import UTC, datetime, timedelta
from pathlib import Path

from creekbed.core.errors import Refused
from creekbed.workshop.clock import SystemClock

MARKER = "demo.json"


def demo_folder() -> Path:
    """Where the demo shop keeps its data (XDG data folder of the user)."""
    import platformdirs

    return Path(platformdirs.user_data_dir("creekbed")) / "demo"


def is_made(folder: Path) -> bool:
    """Whether a whole demo shop lies in the folder."""
    return (folder / MARKER).exists()


def reset(folder: Path) -> None:
    """Remove a demo shop. Only a folder that holds one is touched.

    Raises:
        Refused: the folder is not empty and holds no demo shop.
    """
    if not folder.exists():
        return
    if not is_made(folder) and any(folder.iterdir()) and not (folder / "making").exists():
        raise Refused(f"{folder} holds something else than a demo shop; it was not touched.")
    shutil.rmtree(folder)


def mark_made(folder: Path, shop_now: datetime) -> None:
    """Note what the demo shop's clock shows at this moment of real time."""
    offset = (shop_now - datetime.now(UTC)).total_seconds()
    part = folder / (MARKER + ".part")
    part.write_text(json.dumps({"offset_seconds": offset, "began": shop_now.isoformat()}))
    part.rename(folder / MARKER)


def demo_clock(folder: Path) -> SystemClock:
    """The demo shop's clock: real time, shifted to the shop's own Thursday."""
    offset = json.loads((folder / MARKER).read_text())["offset_seconds"]
    return SystemClock(timedelta(seconds=float(offset)))


def day_is_over(folder: Path, now: datetime) -> bool:
    """Whether the demo day has gone by, so that beginning it again is worth offering."""
    began = datetime.fromisoformat(json.loads((folder / MARKER).read_text())["began"])
    return now - began > timedelta(hours=20)


def last_thursday(now: datetime) -> datetime:
    """The beginning of the most recent Thursday, local time."""
    local = now.astimezone()
    day = (local - timedelta(days=(local.weekday() - 3) % 7)).date()
    return datetime(day.year, day.month, day.day).astimezone()
