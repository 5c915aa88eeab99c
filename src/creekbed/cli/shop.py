"""The shop behind a shell command."""

from __future__ import annotations

import argparse
import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from creekbed.core.errors import Refused

PATIENCE_MS = 15_000
"""How long a command waits for another program that holds the records: house default."""


class _Waits:
    """Says once that a command waits, and when it gives up."""

    said = False

    def __call__(self, seconds: float) -> bool:
        if seconds > 1 and not self.said:
            print("Another program holds the records; waiting …", file=sys.stderr)
            self.said = True
        return seconds * 1000 < PATIENCE_MS


def folder_of(given: argparse.Namespace) -> Path:
    """The data folder that a command works on."""
    if given.folder is not None:
        return Path(given.folder)

    from creekbed.demo.folder import demo_folder

    return demo_folder() if given.demo else demo_folder().parent


def need_shop(folder: Path) -> Path:
    """A data folder that is there.

    Raises:
        Refused: there is no such folder.
    """
    if not folder.is_dir():
        raise Refused(f"There is no shop in {folder}.", todo="Name its folder with --folder.")
    return folder


def ensure_demo(folder: Path, reset: bool = False) -> None:
    """Make the demo shop where it is missing or unfinished, in a folder of its own.

    Raises:
        Refused: the folder holds something else; it was not touched.
    """
    from creekbed.demo.folder import MAKING, is_made, need_place
    from creekbed.demo.folder import reset as empty

    need_place(folder)
    unfinished = (folder / MAKING).exists()
    if (reset and folder.exists()) or unfinished:
        empty(folder)
    if not is_made(folder):
        from creekbed.demo.folder import DEMO_PERSON, demo_clock
        from creekbed.demo.seed import make_demo
        from creekbed.workshop.shop.shop import Shop

        print("Making the demo shop, a few seconds …", file=sys.stderr)
        make_demo(folder, datetime.now(UTC), lambda words: print(f"  {words}", file=sys.stderr))
        shop = Shop(folder, demo_clock(folder), person=DEMO_PERSON)
        shop.look_at_clock()  # from here on by this computer's clock
        shop.close()


def shop_of(given: argparse.Namespace) -> Any:
    """The shop that a command works on; what is found of the computer's clock is said on standard error."""
    from creekbed.workshop.shop.shop import Shop

    folder = folder_of(given)
    clock, who = None, ""
    if given.demo:
        from creekbed.demo.folder import DEMO_PERSON, demo_clock

        ensure_demo(folder)
        clock, who = demo_clock(folder), DEMO_PERSON
    shop = Shop(folder, clock, person=who, kind="shell", busy_ms=PATIENCE_MS)
    shop.wait_in_steps(_Waits())
    try:
        told = [shop.look_at_clock(), shop.own_file_words]
    except BaseException:
        shop.close()
        raise
    for words in told:
        if words:
            print(words, file=sys.stderr)
    return shop
