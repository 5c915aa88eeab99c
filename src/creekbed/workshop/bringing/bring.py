"""Taking a list over: all of it at once, or nothing."""

from __future__ import annotations

from types import ModuleType

from creekbed.core.catalogue.names import Recogniser, phrase
from creekbed.core.errors import BadInput, Refused
from creekbed.core.progress import Progress, untold
from creekbed.interchange.tables import Table
from creekbed.store.records import OwnName
from creekbed.workshop.bringing import instruments, people, supplies
from creekbed.workshop.bringing.columns import KINDS, Kind, fields_of, setting_for
from creekbed.workshop.bringing.rows import Bringing, ListRequest
from creekbed.workshop.shop.shop import Shop

_OF: dict[Kind, ModuleType] = {"instruments": instruments, "supplies": supplies, "people": people}


def recogniser(shop: Shop) -> Recogniser:
    """What words of lists mean here."""
    with shop.reading() as records:
        return instruments.recogniser_of(records, shop)


def prepare(shop: Shop, table: Table, request: ListRequest, progress: Progress = untold) -> Bringing:
    """What becomes of each row of a file; nothing is written.

    Args:
        progress: told the share that is done; it answers false to give up.

    Raises:
        BadInput: a field that every row needs has no column, a column is not in the file, or given up.
    """
    fields = fields_of(request.kind)
    for name, column in request.columns.items():
        if name not in fields:
            raise BadInput(f"There is no field “{name[:30]}”.", todo=f"There are: {', '.join(fields)}.")
        if column not in table.columns:
            raise BadInput(f"The file has no column “{column[:40]}”.", todo=f"It has: {', '.join(table.columns)}.")
    missing = [f.name for key, f in fields.items() if f.needed and key not in request.columns]
    if missing:
        raise BadInput(f"Which column says this: {missing[0].lower()}?", todo="Choose it.", missing=missing)
    found: Bringing = _OF[request.kind].prepare(shop, table, request, progress)
    return found


def bring(shop: Shop, found: Bringing, *, leave_out: bool = False) -> int:
    """Take a list over in one transaction; one undo takes all of it back.

    Args:
        leave_out: rows that cannot be brought are left out; without it, one of them stops the list.

    Returns:
        How many rows were new or changed.

    Raises:
        Refused: some rows cannot be brought, or nothing would change. StoreProblem: changed by somebody meanwhile; then
            nothing was brought.
    """
    wrong, rows = found.count("problem"), found.to_write
    if wrong and not leave_out:
        raise Refused(
            f"{wrong} {'rows' if wrong > 1 else 'row'} cannot be brought.", todo="Mend the list, or leave them out.",
            lines=[r.line for r in found.rows if r.problems],
        )  # fmt: skip
    if not rows:
        raise Refused("All of that is on record already.", todo="Nothing was changed.")
    write = _OF[found.request.kind].write
    with shop.act(f"bring.{found.request.kind}") as act:
        for words, (family, size) in found.request.families.items():
            act.records.put(OwnName(words=" ".join(phrase(words)), family=family, size=size))
        write(shop, act, rows)
        act.records.put(setting_for(found.table, found.request.kind, found.request.columns))
        new, changed = found.count("new"), found.count("changed")
        act.words = f"Brought a list of {KINDS[found.request.kind].lower()}: {new} new, {changed} changed"
        if wrong:
            act.notes.append(f"{wrong} {'rows were' if wrong > 1 else 'row was'} left out.")
    return len(rows)
