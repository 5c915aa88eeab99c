"""The command that brings lists: instruments, supplies, people."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from creekbed.cli.shop import shop_of
from creekbed.cli.show import Add, show
from creekbed.core.errors import BadInput

if TYPE_CHECKING:
    from creekbed.interchange.tables import Table
    from creekbed.workshop.bringing.rows import Bringing, ListRequest
    from creekbed.workshop.shop.shop import Shop

SHOWN = 40
"""So many rows are shown in words; JSON has all."""


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``import``.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The parsers, each of which prints JSON too.
    """
    bring = add("import", _import, "bring a list from a file: CSV, OpenDocument or Excel")
    bring.add_argument("file", type=Path)
    bring.add_argument("--as", dest="kind", required=True, choices=["instruments", "supplies", "people"])
    bring.add_argument("--map", type=Path, metavar="FILE", help="which column is which, and what words mean (TOML)")
    bring.add_argument(
        "--try", dest="only_try", action="store_true", help="show what becomes of each row, write nothing"
    )
    bring.add_argument("--leave-out", action="store_true", help="leave out rows that cannot be brought")
    return [bring]


def _import(given: argparse.Namespace) -> int:
    from creekbed.interchange.files import chosen_file
    from creekbed.interchange.tables import MOST_BYTES, read_table
    from creekbed.workshop.bringing.bring import bring, prepare

    table = read_table(chosen_file(given.file, MOST_BYTES))
    shop = shop_of(given)
    try:
        found = prepare(shop, table, _request(given, shop, table))
        written = 0 if given.only_try else bring(shop, found, leave_out=given.leave_out)
    finally:
        shop.close()
    return show(given, _facts(found, written), _words(found, written, given.only_try))


def _request(given: argparse.Namespace, shop: Shop, table: Table) -> ListRequest:
    from creekbed.workshop.bringing.bring import recogniser
    from creekbed.workshop.bringing.columns import guess, remembered
    from creekbed.workshop.bringing.rows import ListRequest

    told = _read_map(given.map) if given.map is not None else {}
    columns = told.get("columns") or remembered(shop, table, given.kind) or guess(table, given.kind, recogniser(shop))
    families = {words: _family(shop, words, answer) for words, answer in told.get("families", {}).items()}
    return ListRequest(given.kind, columns, families, told.get("made_of", {}))


def _read_map(path: Path) -> dict[str, dict[str, Any]]:
    """A map: tables ``columns`` (field = column), ``families`` (words = key, or [key, size]) and ``made_of``.

    Raises:
        BadData: it cannot be read. BadInput: it holds something else.
    """
    from creekbed.core.catalogue.reading import read_table

    table, _ = read_table(path)
    for name, rows in table.items():
        if name not in ("columns", "families", "made_of") or not isinstance(rows, dict):
            raise BadInput(f"{path.name}: “{name}” is not understood.", todo="Tables: columns, families, made_of.")
        kinds = str | list if name == "families" else str
        if not all(isinstance(value, kinds) for value in rows.values()):
            raise BadInput(f"{path.name}: a value of “{name}” is no text.")
    return table


def _family(shop: Shop, words: str, answer: Any) -> tuple[str, str]:
    family, size = (answer, "") if isinstance(answer, str) else (*answer, "")[:2]
    known = shop.catalogue.families.get(str(family))
    if known is None or (size and size not in known.sizes):
        raise BadInput(f"“{words[:40]}”: there is no family {str(family)[:30]}{f' in size {size}' if size else ''}.")
    return known.key, str(size)


def _facts(found: Bringing, written: int) -> dict[str, Any]:
    return {
        "read_as": found.table.told, "columns": dict(found.request.columns), "written": written,
        "new": found.count("new"), "changed": found.count("changed"), "same": found.count("same"),
        "problems": found.count("problem"),
        "asks": [{"words": a.words, "families": list(a.candidates), "rows": a.rows} for a in found.asks],
        "not_said_what_of": dict(found.unsaid),
        "rows": [
            {"line": r.line, "key": r.key, "state": r.state, "words": r.words,
             "problems": [{"field": p.field, "words": p.words} for p in r.problems]}
            for r in found.rows
        ],
    }  # fmt: skip


def _words(found: Bringing, written: int, only_try: bool) -> str:
    from creekbed.workshop.bringing.columns import fields_of

    fields = fields_of(found.request.kind)
    lines = [f"{found.table.told}: {len(found.rows)} rows"]
    lines += [f"  {fields[name].name}: “{column}”" for name, column in found.request.columns.items()]
    lines += [f"“{a.words}” in {a.rows} rows: which family? {', '.join(a.candidates) or 'any'}" for a in found.asks]
    lines += [f"line {r.line:4d}  {r.state:8s} {r.key}  {r.words}" for r in found.rows[:SHOWN] if r.state != "same"]
    done = f"{found.count('new')} new, {found.count('changed')} changed, {found.count('problem')} cannot be brought"
    return "\n".join([*lines, f"{done}. {'Nothing was written.' if only_try else f'{written} brought.'}"])
