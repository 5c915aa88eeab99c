"""The same use cases from a shell: exit status 0, 1 (refused, with the reason on standard error) or 2 (usage)."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from creekbed.cli.shop import ensure_demo, folder_of
from creekbed.cli.show import Add, with_minus
from creekbed.core.conventions import use
from creekbed.core.errors import CreekbedError
from creekbed.core.units import bare_numbers


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command.

    Args:
        arguments: without the program's name; those of the process if not given.

    Returns:
        The exit status.
    """
    asked = with_minus(sys.argv[1:] if arguments is None else arguments)
    try:
        given = _parser(asked).parse_args(asked)
    except SystemExit as stop:
        return int(stop.code or 0)
    command: Callable[[argparse.Namespace], int] = given.run
    try:
        if command not in (_open, _demo):  # a window shows itself first, and reads them from its shop
            from creekbed.workshop.shop.stored import conventions_kept

            use(conventions_kept(folder_of(given)))
        with bare_numbers() as given.bare:
            return command(given)
    except CreekbedError as error:
        print(" ".join(error.words().split()), file=sys.stderr)  # one line, whatever was typed
        return 1
    except BrokenPipeError:  # who reads what is printed has heard enough
        return 1
    except OSError as error:
        print(f"{error.strerror or error}: {error.filename or ''}".rstrip(": "), file=sys.stderr)
        return 1


def _wants_window(arguments: Sequence[str]) -> bool:
    """Whether the command is one that opens a window: the options of the others are then not loaded."""
    folder = argparse.ArgumentParser(add_help=False, exit_on_error=False)
    folder.add_argument("--folder")
    try:
        words = folder.parse_known_args(arguments)[1]
    except argparse.ArgumentError:
        return False
    return next((word for word in words if not word.startswith("-")), "") in WINDOWS


def _parser(arguments: Sequence[str]) -> argparse.ArgumentParser:
    """The options and commands; all of them, unless a window is asked for."""
    parser = argparse.ArgumentParser(prog="creekbed", description="The bench companion for instrument-hire workshops.")
    parser.add_argument(
        "--demo", action="store_true", help="work on the demo shop's own data folder, made when missing"
    )
    parser.add_argument("--folder", type=Path, help="work on this data folder instead of the user's")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    def add(name: str, run: Callable[[argparse.Namespace], int], help: str) -> argparse.ArgumentParser:
        found = commands.add_parser(name, help=help, description=help)
        found.set_defaults(run=run)
        return found

    _add_windows(add)
    if not _wants_window(arguments):
        from creekbed.cli.commands import add_all

        add_all(add)
    return parser


def _add_windows(add: Add) -> None:
    for name, (run, words) in WINDOWS.items():
        window = add(name, run, words)
        window.add_argument("--offscreen", action="store_true", help="draw into memory, for machines without a screen")
        window.add_argument(
            "--quit-when-shown", action="store_true", help="leave when the bench is drawn; prints how long"
        )
        window.add_argument(
            "--caliper", default="", metavar="PORT", help="serial port of the caliper, e.g. /dev/ttyUSB0"
        )
        if name == "demo":
            window.add_argument("--reset", action="store_true", help="begin the demo day again")


# --- the window -----------------------------------------------------------------------------------------------------


def _open(given: argparse.Namespace) -> int:
    if given.demo:
        given.reset = False
        return _demo(given)
    from creekbed.window.app import run

    def shop() -> Any:
        from creekbed.workshop.shop.shop import Shop

        return Shop(folder_of(given))

    return run(shop, offscreen=given.offscreen, quit_when_shown=given.quit_when_shown, port=given.caliper)


def _demo(given: argparse.Namespace) -> int:
    given.demo = True
    folder = folder_of(given)
    ensure_demo(folder, given.reset)
    from creekbed.demo.folder import DEMO_PERSON, DEMO_TITLE, day_is_over, demo_clock
    from creekbed.window.app import run

    clock = demo_clock(folder)
    greeting = ""
    if day_is_over(folder, clock.now()):
        greeting = "This demo day has gone by. Start with ./run-demo --reset to begin it again."

    def shop() -> Any:
        from creekbed.workshop.shop.shop import Shop

        return Shop(folder, clock, person=DEMO_PERSON)

    def devices() -> Any:
        from creekbed.demo.devices import DemoDevices

        return DemoDevices()

    return run(
        shop, title=DEMO_TITLE, plug=devices, offscreen=given.offscreen,
        quit_when_shown=given.quit_when_shown, port=given.caliper, greeting=greeting,
    )  # fmt: skip


WINDOWS = {"open": (_open, "open the window"), "demo": (_demo, "open the window on the demo shop")}
"""Commands that open a window: what they run, and their help."""
