"""Shell commands around the records: copies, going back, looking whether all is whole, erasing a renter, export."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from creekbed.cli.shop import folder_of, need_shop, shop_of
from creekbed.cli.show import Add, plain_number, show


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add the commands; those that print JSON are returned."""
    copies = add("copies", _copies, "what there is to go back to, newest first, and what would be lost")
    copies.add_argument(
        "--forget-aside", type=plain_number, metavar="DAYS", help="remove what was put aside more than so many days ago"
    )
    restore = add("restore", _restore, "go back to a copy; what is there now is kept aside")
    restore.add_argument("name", nargs="?", default="", help="as “copies” names it; the newest whole one if missing")
    restore.add_argument("--even-damaged", action="store_true", help="also a copy that is not whole")
    go_on = add("go-on", _go_on, "go on with records from which actions are missing")
    backup = add("backup", _backup, "make a copy now")
    examine = add("examine", _examine, "read everything on record, and say what is not as it was written")
    examine.add_argument("--put-back", action="store_true", help="put back what the journal or a copy has whole")
    erase = add("erase", _erase, "take a renter's code out of the records; history keeps “erased”")
    erase.add_argument("renter", help="the code, such as K-17")
    export = add("export", _export, "everything on record as JSON, or as CSV files into a new folder")
    export.add_argument(
        "--to", type=Path, metavar="PATH", help="JSON file, or folder for --csv; standard output if missing"
    )
    export.add_argument("--csv", action="store_true", help="one CSV file for each table")
    export.add_argument("--replace", action="store_true", help="write over an export that is there")
    return [copies, restore, go_on, backup, examine, erase]


def _copies(given: argparse.Namespace) -> int:
    from creekbed.store.maintenance import all_copies, prune_aside

    folder = need_shop(folder_of(given))
    if given.forget_aside is not None:
        gone = prune_aside(folder, given.forget_aside)
        return show(given, {"removed": gone}, f"Removed: {', '.join(gone)}" if gone else "Nothing is that old.")
    copies = all_copies(folder)
    rows = [
        {
            "name": c.name, "kind": c.kind, "made_at": c.made_at.isoformat(), "whole": c.facts.whole,
            "wrong": c.facts.wrong, "jobs": c.facts.jobs, "instruments": c.facts.instruments,
            "actions": c.facts.entries, "last_at": c.facts.last_at.isoformat() if c.facts.last_at else None,
            "actions_lost": c.lost, "other_history": c.other, "size_bytes": c.size,
        }
        for c in copies
    ]  # fmt: skip
    from creekbed.workshop.shop.backup_lines import line_of

    return show(given, {"copies": rows}, "\n".join(line_of(c) for c in copies) or "There are no copies yet.")


def _restore(given: argparse.Namespace) -> int:
    from creekbed.store.maintenance import find, restore

    folder = need_shop(folder_of(given))
    copy = find(folder, given.name)
    aside = restore(folder, copy, even_damaged=given.even_damaged)
    kept = f" What was there is kept as {aside.name}." if aside is not None else ""
    return show(
        given, {"restored": copy.name, "kept_aside": aside.name if aside else None}, f"Went back to {copy.name}.{kept}"
    )


def _go_on(given: argparse.Namespace) -> int:
    from creekbed.store.maintenance import go_on_without

    missing = go_on_without(need_shop(folder_of(given)))
    words = f"Going on without {missing} actions." if missing else "Nothing is missing."
    return show(given, {"missing_actions": missing}, words)


def _backup(given: argparse.Namespace) -> int:
    from creekbed.store.maintenance import back_up

    shop = shop_of(given)
    try:
        made = back_up(shop.folder, "by-hand", now=shop.now)
    finally:
        shop.close()
    return show(given, {"copy": made.name}, f"Made {made.name}; all of it was read back and is whole.")


def _examine(given: argparse.Namespace) -> int:
    from creekbed.workshop.shop.integrity import examine, repair

    shop = shop_of(given)
    try:
        found = examine(shop)
        done = [repair(shop, d) for d in found if d.source] if given.put_back else []
    finally:
        shop.close()
    rows = [{"table": d.table, "row": d.row, "what": d.what, "from": d.source} for d in found]
    lines = [d.words for d in found] + [w.words for w in done]
    show(given, {"damaged": rows, "put_back": len(done)}, "\n".join(lines) or "All of it is as it was written.")
    return 1 if len(found) > len(done) else 0


def _erase(given: argparse.Namespace) -> int:
    from creekbed.workshop.shop.privacy import erase_renter

    shop = shop_of(given)
    try:
        done = erase_renter(shop, given.renter)
    finally:
        shop.close()
    return show(given, {"places": done.places, "actions": done.entries}, done.words)


def _export(given: argparse.Namespace) -> int:
    if given.csv and given.to is None:
        print("--csv wants a folder: --to PATH", file=sys.stderr)
        return 2
    from creekbed.workshop.shop import exporting

    if given.to is not None:
        exporting.need_room_for(given.to, csv=given.csv, replace=given.replace)
    shop = shop_of(given)
    try:
        if given.to is None:
            exporting.write_json(shop, sys.stdout.buffer)
        else:
            exporting.export_to(shop, given.to, csv=given.csv, replace=given.replace)
    finally:
        shop.close()
    return 0
