"""Supplies of a list: how many of each are on the shelf, with lots and dates."""

from __future__ import annotations

import difflib
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from creekbed.core.catalogue.models.house import Supply
from creekbed.core.catalogue.names import Phrase, phrase
from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.local import at_hour
from creekbed.core.progress import Progress
from creekbed.core.text import line
from creekbed.interchange.tables import Table, date_in, day_first, decimal_comma, number_in
from creekbed.store.reader import Reader
from creekbed.store.records import Lot, StockMove
from creekbed.workshop.bringing.rows import Bringing, ListRequest, Row, RowPlan, rows_of
from creekbed.workshop.shop.shop import Act, Shop

MOST = 100_000.0
"""A larger count is a slip: house default."""
WHY = "from a list"


def prepare(shop: Shop, table: Table, request: ListRequest, progress: Progress) -> Bringing:
    """What becomes of each row; nothing is written.

    Raises:
        BadInput: given up.
    """
    catalogue = shop.catalogue
    names = {phrase(s.name): s for s in catalogue.supplies.values()}
    names |= {phrase(s.key.replace("_", " ")): s for s in catalogue.supplies.values()}
    bottles = {r.stock for r in catalogue.house.every_recipe}
    with shop.reading() as records:
        lots = _lots(records)
    rows = rows_of(table, request)
    comma, first = decimal_comma(r.get("amount") for r in rows), day_first(r.get("discard_on") for r in rows)
    plans: list[RowPlan] = []
    seen: dict[tuple[str, str], int] = {}
    for n, row in enumerate(rows):
        if n % 200 == 0 and not progress(n / len(rows)):
            raise BadInput("Given up; nothing was brought.")
        supply = _supply(row, names)
        values = _values(row, comma, first, shop.now.astimezone().date())
        if supply is not None and supply.key in bottles:
            row.wrong("item", f"{supply.name} has a strength; book it in with what its label says.")
        if supply is not None:
            key = (supply.key, values.get("lot", ""))
            if seen.setdefault(key, row.line) != row.line:
                row.wrong("item", f"{supply.name} is in line {seen[key]} already.")
        if row.problems or supply is None:
            plans.append(row.problem(supply.key if supply is not None else ""))
            continue
        plans.append(_plan(row, supply, values, lots))
    return Bringing(request, table, tuple(plans))


def _lots(records: Reader) -> dict[tuple[str, str], Lot]:
    """(item, lot) → the newest such lot."""
    return {(found.item, found.lot): found for found in records.all_of(Lot)}


def _plan(row: Row, supply: Supply, values: dict[str, Any], lots: Mapping[tuple[str, str], Lot]) -> RowPlan:
    there = lots.get((supply.key, values.get("lot", "")))
    words = f"{supply.name}: {number(values['amount'])} {supply.unit}"
    values = {"item": supply.key} | values
    if there is None:
        return RowPlan(row.line, supply.key, "new", words, values)
    same_day = "discard_on" not in values or (
        there.discard_at is not None and there.discard_at.astimezone().date().isoformat() == values["discard_on"]
    )
    if there.amount == values["amount"] and same_day:
        return RowPlan(row.line, supply.key, "same", words)
    return RowPlan(row.line, supply.key, "changed", f"{words}, {number(there.amount)} on record", values)


def _supply(row: Row, names: Mapping[Phrase, Supply]) -> Supply | None:
    words = row.get("item")
    if not words:
        row.wrong("item", "It is not said what it is.")
        return None
    found = names.get(phrase(words))
    if found is None:
        near = difflib.get_close_matches(" ".join(phrase(words)), [" ".join(p) for p in names], 1, 0.6)
        like = f" Is it “{names[tuple(near[0].split())].name}”?" if near else ""
        row.wrong("item", f"“{words[:40]}” is no supply that is known here.{like}")
    return found


def _values(row: Row, comma: bool, first: bool, today: date) -> dict[str, Any]:
    values: dict[str, Any] = {}
    try:
        values["amount"] = number_in(row.get("amount"), comma)
        if not 0 <= values["amount"] <= MOST:
            row.wrong("amount", "A count is 0 or more.")
    except BadInput as error:
        row.wrong("amount", error.happened if row.get("amount") else "It is not said how many.")
    try:
        if row.get("lot"):
            values["lot"] = line(row.get("lot"), what="The lot", longest=40)
        if row.get("discard_on"):
            day = date_in(row.get("discard_on"), first)
            if day < today:
                row.wrong("discard_on", "It is past its date already.")
            values["discard_on"] = day.isoformat()
    except BadInput as error:
        row.refused("discard_on", error)
    return values


def write(shop: Shop, act: Act, rows: Sequence[RowPlan]) -> None:
    """Take rows over."""
    for row in rows:
        _write(act, row)


def _write(act: Act, plan: RowPlan) -> None:
    """Take one row over: the lot holds what the list says."""
    values, records = plan.values, act.records
    discard = at_hour(date.fromisoformat(values["discard_on"]), 24.0) if "discard_on" in values else None
    there = records.first_of(Lot, newest=True, item=values["item"], lot=values.get("lot", ""))
    if there is None:
        there = records.add(
            Lot(item=values["item"], lot=values.get("lot", ""), amount=0.0, made_at=act.now, discard_at=discard)
        )
    change = values["amount"] - there.amount
    records.update(there, amount=values["amount"], **({"discard_at": discard} if discard is not None else {}))
    if change:
        records.add(StockMove(lot_id=there.id, job_id=None, amount=change, why=WHY, at=act.now))
