"""The demo shop's own data folder and its own day. The demo lives only in a folder that it made itself."""

from __future__ import annotations

import json
import shutil
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadInput, Refused
from creekbed.store.files import private_folder, write_whole
from creekbed.store.layout import ASIDE, BACKUPS, CATALOGUE, FILE, IN_USE, LOGS, PHOTOS, SOUNDS, WITNESS
from creekbed.store.presence import alone
from creekbed.store.unopened import first_action
from creekbed.workshop.shop.clock import SystemClock

MARKER = "demo.json"
"""Says that a whole demo shop lies here."""
MAKING = "making"
"""Says that one is being made here."""
EMPTY = "an empty folder"
FIRST = "demo.past"
"""The first action in every demo shop's journal, and in no other's."""
DEMO_PERSON = "IW"
"""The technician of the demo shop."""
DEMO_TITLE = "Creekbed: Marram Hire (demo)"
MOST = 10_000


def demo_folder() -> Path:
    """Where the demo shop keeps its data (XDG data folder of the user)."""
    import platformdirs

    return Path(platformdirs.user_data_dir("creekbed")) / "demo"


def is_made(folder: Path) -> bool:
    """Whether a whole demo shop lies in the folder."""
    return (folder / MARKER).exists() and is_demo(folder)


def is_demo(folder: Path) -> bool:
    """Whether the demo made this folder: its mark says so, or its records begin as only a demo's do."""
    marks = [_mark(folder / name) for name in (MARKER, MAKING)]
    if any(mark is not None and mark.get("made_in") == EMPTY for mark in marks):
        return True
    return any(mark is not None for mark in marks) and _first_action(folder) == FIRST


def _mark(path: Path) -> dict[str, Any] | None:
    try:
        found = json.loads(read_at_most(path, MOST) or b"{}")
    except FileNotFoundError:
        return None
    except (OSError, ValueError, BadInput):
        return {}
    return found if isinstance(found, dict) else {}


def _first_action(folder: Path) -> str:
    if not (folder / FILE).is_file():
        return ""
    return first_action(folder)


def need_place(folder: Path) -> None:
    """See that the demo may live in a folder: it made it, or nothing is there.

    Raises:
        Refused: something else is there; it was not touched.
    """
    if not folder.exists() or is_demo(folder):
        return
    if not folder.is_dir() or any(folder.iterdir()):
        raise Refused(
            f"{folder} holds something else than a demo shop; it was not touched.",
            todo="Choose an empty folder for the demo, or leave --demo out.",
        )


def begin(folder: Path) -> None:
    """Make the demo's folder, with the mark that it was empty.

    Raises:
        Refused: something is there. OSError: it cannot be made.
    """
    need_place(folder)
    private_folder(folder)
    if not is_demo(folder):
        write_whole(folder / MAKING, json.dumps({"made_in": EMPTY}).encode())


def reset(folder: Path) -> None:
    """Remove a demo shop: what the demo made, and nothing else.

    Raises:
        Refused: the folder holds no demo shop. StoreProblem: it is open.
    """
    if not folder.exists():
        return
    need_place(folder)
    with alone(folder):
        for name in (FILE, *(FILE + end for end in LOGS), WITNESS, MAKING):
            (folder / name).unlink(missing_ok=True)
        for name in (BACKUPS, PHOTOS, SOUNDS, ASIDE, "papers"):
            shutil.rmtree(folder / name, ignore_errors=True)
        (folder / CATALOGUE / "overrides.toml").unlink(missing_ok=True)
        (folder / MARKER).unlink(missing_ok=True)  # last: what is left of an interrupted removal is still the demo's
    shutil.rmtree(folder / IN_USE, ignore_errors=True)
    for place in (folder / CATALOGUE / "families", folder / CATALOGUE, folder):
        if place.is_dir() and not any(place.iterdir()):
            place.rmdir()


def mark_made(folder: Path, shop_now: datetime) -> None:
    """Note what the demo shop's clock shows at this moment of real time."""
    offset = (shop_now - datetime.now(UTC)).total_seconds()
    made = {"offset_seconds": offset, "began": shop_now.isoformat(), "made_in": EMPTY}
    write_whole(folder / MARKER, json.dumps(made).encode())


def demo_clock(folder: Path) -> SystemClock:
    """The demo shop's clock: real time, shifted to the shop's own Thursday."""
    return SystemClock(timedelta(seconds=_number(folder)))


def _number(folder: Path) -> float:
    try:
        return float((_mark(folder / MARKER) or {})["offset_seconds"])
    except (KeyError, TypeError, ValueError):
        raise Refused("The demo's own clock cannot be read.", todo="Begin it again: ./run-demo --reset") from None


def day_is_over(folder: Path, now: datetime) -> bool:
    """Whether the demo day has gone by, so that beginning it again is worth offering."""
    try:
        began = datetime.fromisoformat(str((_mark(folder / MARKER) or {})["began"]))
    except (KeyError, ValueError):
        return False
    return now - began > timedelta(hours=20)


def last_thursday(now: datetime) -> datetime:
    """The beginning of the most recent Thursday, local time."""
    local = now.astimezone()
    day = (local - timedelta(days=(local.weekday() - 3) % 7)).date()
    return datetime(day.year, day.month, day.day).astimezone()
