"""The command ``shop``: name, address and paper; clock, money and units; pitch and room."""

from __future__ import annotations

import argparse
from dataclasses import asdict, replace
from typing import Any

from creekbed.cli.shop import shop_of
from creekbed.cli.show import Add, show
from creekbed.core.conventions import number, temperature


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``shop``.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The parsers, each of which prints JSON too.
    """
    this = add("shop", _shop, "what the shop is called, and how it writes times, money and quantities")
    this.add_argument("--name")
    this.add_argument("--address", nargs="*", metavar="LINE", help="its lines; none takes it away")
    this.add_argument("--paper", choices=["A4", "Letter"])
    this.add_argument("--country", metavar="CODE", help="two letters: paper, clock, money and units as usual there")
    this.add_argument("--currency", metavar="CODE", help='three letters; "" for plain numbers')
    this.add_argument("--hours", type=int, choices=[24, 12])
    this.add_argument("--units", choices=["metric", "us"])
    this.add_argument("--decimal", choices=[".", ","])
    this.add_argument("--zone", metavar="NAME", help='such as Pacific/Auckland; "" for the computer\'s')
    this.add_argument("--pitch", metavar="HZ", help="A4")
    this.add_argument("--room", metavar="TEMPERATURE", help="how warm the room usually is")
    return [this]


def _shop(given: argparse.Namespace) -> int:
    from creekbed.workshop.shop import formats
    from creekbed.workshop.shop.house_numbers import house_numbers, set_house_numbers
    from creekbed.workshop.shop.identity import identity, set_identity

    shop = shop_of(given)
    try:
        usual = formats.country(given.country) if given.country else None
        _change(given, ("name", "paper"), identity(shop), lambda found: set_identity(shop, found), {
            "paper": usual.paper if usual else None,
            "address": tuple(given.address) if given.address is not None else None,
        })  # fmt: skip
        parts = ("currency", "hours", "units", "decimal", "zone")
        now = formats.formats(shop)
        base = replace(usual.conventions, zone=now.zone) if usual else now
        _change(given, parts, base, lambda found: formats.set_formats(shop, found), {}, always=usual is not None)
        read = _numbers(given)
        _change(given, (), house_numbers(shop), lambda found: set_house_numbers(shop, found), read)
        found, writes, numbers = identity(shop), formats.formats(shop), house_numbers(shop)
    finally:
        shop.close()
    facts = asdict(found) | asdict(writes) | asdict(numbers)
    clock = (
        f"{writes.hours} h, {writes.units}, {writes.currency or 'no currency'}, {writes.zone or 'time of the computer'}"
    )
    pitch = f"A4 = {number(numbers.a4_hz)} Hz, room {temperature(round(numbers.room_c, 1))}"
    return show(given, facts, "\n".join([found.name or "No name yet.", *found.address, found.paper, clock, pitch]))


def _numbers(given: argparse.Namespace) -> dict[str, Any]:
    from creekbed.core.units import parse_quantity

    pitch = parse_quantity(given.pitch, "hertz", what="The pitch") if given.pitch is not None else None
    room = parse_quantity(given.room, "degC", what="The room") if given.room is not None else None
    return {"a4_hz": pitch, "room_c": room}


def _change(
    given: argparse.Namespace,
    names: tuple[str, ...],
    now: Any,
    keep: Any,
    more: dict[str, Any],
    *,
    always: bool = False,
)  -> None:  # fmt: skip
    """Store what was given over what holds now; nothing is stored where nothing was given."""
    said = more | {n: v for n in names if (v := getattr(given, n)) is not None}
    said = {n: v for n, v in said.items() if v is not None}
    if said or always:
        keep(replace(now, **said))
