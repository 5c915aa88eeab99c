"""The shop behind a shell command."""

from __future__ import annotations

import argparse
import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import Any


def folder_of(given: argparse.Namespace) -> Path:
    """The data folder that a command works on."""
    if given.folder is not None:
        return Path(given.folder)

    from creekbed.demo.folder import demo_folder

    return demo_folder() if given.demo else demo_folder().parent


def ensure_demo(folder: Path, reset: bool = False) -> None:
    """Make the demo shop where it is missing or unfinished."""
    from creekbed.demo.folder import is_made
    from creekbed.demo.folder import reset as empty

    unfinished = (folder / "making").exists()
    if (reset and folder.exists()) or unfinished:
        empty(folder)
    if not is_made(folder):
        from creekbed.demo.seed import make_demo

        print("Making the demo shop, a few seconds …", file=sys.stderr)
        make_demo(folder, datetime.now(UTC), lambda words: print(f"  {words}", file=sys.stderr))


def shop_of(given: argparse.Namespace) -> Any:
    """The shop that a command works on."""
    from creekbed.workshop.shop import Shop

    folder = folder_of(given)
    if not given.demo:
        return Shop(folder)
    from creekbed.demo.folder import demo_clock

    ensure_demo(folder)
    return Shop(folder, demo_clock(folder))
