"""Commands of the fleet: where every instrument is, hiring out, resting and retiring, labels."""

from __future__ import annotations

import argparse
from datetime import date
from pathlib import Path
from typing import Any

from creekbed.cli.shop import shop_of
from creekbed.cli.show import Add, show

STANDINGS = {"rest": "resting", "retire": "retired", "use": ""}


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``instruments``, ``hire-out``, ``standing``, ``labels``, ``codes`` and ``find``.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The parsers, each of which prints JSON too.
    """
    every = add("instruments", _instruments, "where every instrument is, and what is next for it")
    every.add_argument("words", nargs="*", help="only those in which all these words are found")
    every.add_argument("--place", help="hired, bench, away, ready, here, resting or retired")
    out = add("hire-out", _hire_out, "instruments that are ready go out")
    out.add_argument("tags", nargs="+")
    out.add_argument("--to", default="", metavar="CODE", help="to whom: a code, not a name")
    out.add_argument("--group", default="", metavar="NAME", help="band or class")
    out.add_argument("--until", type=date.fromisoformat, metavar="DATE", help="back by")
    out.add_argument("--sheet", type=Path, metavar="FILE", help="write the sheet to sign, PDF")
    standing = add("standing", _standing, "instruments rest, are retired, or are in use again")
    standing.add_argument("tags", nargs="+")
    standing.add_argument("--as", dest="standing", required=True, choices=sorted(STANDINGS))
    standing.add_argument("--why", default="")
    labels = add("labels", _labels, "sheets of labels with tags and their codes, PDF")
    labels.add_argument("words", nargs="*", help="only instruments in which all these words are found")
    labels.add_argument("--size", default="70x37", help="70x37, 52x30, 38x21 or 67x25")
    labels.add_argument("--skip", type=int, default=0, metavar="N", help="labels of the first sheet that are used up")
    labels.add_argument("--to", type=Path, required=True, metavar="FILE")
    codes = add("codes", _codes, "sheets of codes for keys, pages, people and supplies, PDF")
    codes.add_argument("--size", default="52x30", help="as for labels")
    codes.add_argument("--to", type=Path, required=True, metavar="FILE")
    anything = add("find", _find, "everything in which all words are found")
    anything.add_argument("words", nargs="+")
    return [every, out, standing, labels, anything, codes]


def _need_size(size: str) -> None:
    """See that there are labels of a size.

    Raises:
        BadInput: there are none.
    """
    from creekbed.core.errors import BadInput
    from creekbed.papers.label_sheet import LABEL_SIZES

    if size not in LABEL_SIZES:
        raise BadInput(f"“{size[:20]}” is no size of labels.", todo=f"There are: {', '.join(LABEL_SIZES)}.")


def _codes(given: argparse.Namespace) -> int:
    from creekbed.papers.label_sheet import label_sheets
    from creekbed.store.files import write_whole
    from creekbed.workshop.arrival.scan_codes import all_codes

    _need_size(given.size)
    shop = shop_of(given)
    try:
        rows = all_codes(shop)
    finally:
        shop.close()
    write_whole(given.to, label_sheets(rows, given.size))
    return show(given, {"codes": len(rows), "file": str(given.to)}, f"{len(rows)} codes: {given.to}")


def _find(given: argparse.Namespace) -> int:
    from dataclasses import asdict

    from creekbed.words.instruments import FOUND
    from creekbed.workshop.fleet.finding import find

    shop = shop_of(given)
    try:
        found = find(shop, " ".join(given.words))
    finally:
        shop.close()
    lines = [f"{FOUND[f.kind]:14}  {f.title}{f'  ({f.words})' if f.words else ''}" for f in found]
    return show(given, {"found": [asdict(f) for f in found]}, "\n".join(lines or ["Nothing here has all these words."]))


def _found(given: argparse.Namespace) -> list[Any]:
    from creekbed.core.errors import BadInput
    from creekbed.words.instruments import PLACES
    from creekbed.workshop.fleet.fleet import fleet

    place = getattr(given, "place", None)
    if place is not None and place not in PLACES:
        raise BadInput(f"“{place[:20]}” is no place.", todo=f"There are: {', '.join(PLACES)}.")
    shop = shop_of(given)
    try:
        rows = fleet(shop)
    finally:
        shop.close()
    words = [w.lower() for w in given.words]
    return [r for r in rows if (place is None or r.place == place) and all(w in r.found_by for w in words)]


def _instruments(given: argparse.Namespace) -> int:
    rows = _found(given)
    facts = {
        "instruments": [
            {
                "tag": r.tag, "family": r.family, "size": r.size, "serial": r.serial, "place": r.place,
                "where": r.where, "next": r.next, "group": r.group,
                "due_on": r.due_on.isoformat() if r.due_on is not None else None,
            }
            for r in rows
        ]
    }  # fmt: skip
    lines = [f"{r.tag:10s} {r.kind} {r.size}".ljust(36) + f" {r.where}. {r.next}".rstrip(". ") for r in rows]
    return show(given, facts, "\n".join(lines) or "No such instrument.")


def _hire_out(given: argparse.Namespace) -> int:
    from creekbed.papers.hire_sheet import hire_pdf
    from creekbed.store.files import write_whole
    from creekbed.workshop.fleet.hiring import HireTerms, hire_facts, hire_out

    shop = shop_of(given)
    try:
        numbers = hire_out(shop, given.tags, HireTerms(given.to, given.group, given.until))
        sheets = [hire_facts(shop, n) for n in numbers]
        done = shop.last_done.words if shop.last_done is not None else ""
    finally:
        shop.close()
    if given.sheet is not None:
        write_whole(given.sheet, hire_pdf(sheets))
    return show(given, {"hires": sheets}, done)


def _standing(given: argparse.Namespace) -> int:
    from creekbed.workshop.fleet.hiring import set_standing

    shop = shop_of(given)
    try:
        set_standing(shop, given.tags, STANDINGS[given.standing], given.why)  # type: ignore[arg-type]
        done = shop.last_done.words if shop.last_done is not None else ""
    finally:
        shop.close()
    return show(given, {"tags": given.tags, "standing": STANDINGS[given.standing]}, done)


def _labels(given: argparse.Namespace) -> int:
    from creekbed.core.errors import BadInput
    from creekbed.papers.label_sheet import label_sheets
    from creekbed.store.files import write_whole

    _need_size(given.size)
    rows = [{"tag": r.tag, "name": f"{r.kind} {r.size}".strip()} for r in _found(given)]
    if not rows:
        raise BadInput("No instrument is like that.")
    path = write_whole(given.to, label_sheets(rows, given.size, max(given.skip, 0)))
    return show(given, {"labels": len(rows), "file": str(path)}, f"{len(rows)} labels in {path}")
