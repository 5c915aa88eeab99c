"""Commands that ask the catalogue: the families, and the steps of a job that nobody has booked in."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from typing import Any

from creekbed.cli.show import Add
from creekbed.core.conventions import number
from creekbed.core.renters import RENTERS


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``families`` and ``job``.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The commands that can print JSON.
    """
    families = add("families", _families, "every family with its parts, checks and house rules")
    job = add("job", _job, "the steps of a family's job, in order")
    job.add_argument("family", help='key or name, "B flat clarinet"')
    job.add_argument("--size", default="", help="one of the family's sizes")
    for name, example in (
        ("policy", "TOPIC=CHOICE"), ("finding", "CHECK=FOUND"), ("material", "PART=MATERIAL"),
        ("finish", "PART=FINISH"), ("lately", "STEP=DAYS"),
    ):  # fmt: skip
        job.add_argument(f"--{name}", action="append", default=[], metavar=example, help="may be repeated")
    job.add_argument("--missing", action="append", default=[], metavar="ITEM", help="piece missing in the case")
    job.add_argument("--no-dry-cloth", action="store_true", help="no washed, dry cloth lies on the shelf")
    job.add_argument("--came", default="", choices=["", "hot", "cold"], help="inside of the case, from the journey")
    job.add_argument("--arrived", default="", help="joined, pieces, or the joints that were together, with commas")
    job.add_argument("--renter", default="", choices=list(RENTERS), help="the next renter")
    return [families, job]


def _catalogue(given: argparse.Namespace) -> Any:
    from creekbed.core.catalogue.load import shipped

    return shipped()


def _families(given: argparse.Namespace) -> int:
    from creekbed.core.procedure.imagine import family_table

    catalogue = _catalogue(given)
    rows = [family_table(catalogue, f) for f in catalogue.families.values()]
    if given.json:
        print(json.dumps(rows, ensure_ascii=False, indent=1))
        return 0
    for row in rows:
        sizes = f" ({', '.join(row['sizes'])})" if len(row["sizes"]) > 1 else ""
        print(f"{row['name']}{sizes}: {len(row['parts'])} parts, {len(row['checks'])} checks, {row['steps']} steps")
    return 0


def _job(given: argparse.Namespace) -> int:
    from creekbed.core.errors import BadInput
    from creekbed.core.procedure.build import build
    from creekbed.core.procedure.imagine import find_family, imagine, step_table

    catalogue = _catalogue(given)
    family = find_family(catalogue, given.family)
    days: dict[str, float] = {}
    for step, text in _pairs(given.lately, "lately").items():
        try:
            days[step] = float(text)
        except ValueError:
            raise BadInput(f"“{text[:20]}” is no number of days.", todo="Write --lately bath=12.") from None
    situation = imagine(
        catalogue, family, size=given.size, policies=_pairs(given.policy, "policy"),
        findings=_pairs(given.finding, "finding"), materials=_pairs(given.material, "material"),
        finishes=_pairs(given.finish, "finish"), missing=given.missing, renter=given.renter, lately=days,
        dry_cloth=not given.no_dry_cloth, came=given.came, arrived=given.arrived,
    )  # fmt: skip
    steps = build(catalogue, situation)
    if given.json:
        print(json.dumps([step_table(s) for s in steps], ensure_ascii=False, indent=1))
        return 0
    for n, built in enumerate(steps, 1):
        wait = f", then {number(built.wait.min_minutes)} min {built.wait.where}" if built.wait else ""
        print(f"{n:2}  {built.what} ({number(built.hands_min)} min{wait})")
        if built.held:
            print(f"      Not now, what was found forbids it: {', '.join(built.held)}")
        for move in built.moves:
            print(f"      {move.what}. {move.how}".rstrip())
        if built.caution:
            print(f"      Mind: {built.caution}")
    return 0


def _pairs(given: Sequence[str], name: str) -> dict[str, str]:
    from creekbed.core.errors import BadInput

    found = {}
    for text in given:
        key, sign, value = text.partition("=")
        if not sign or not key.strip() or not value.strip():
            raise BadInput(f"“{text[:40]}” cannot be read.", todo=f"Write --{name} KEY=VALUE.")
        found[key.strip()] = value.strip()
    return found
