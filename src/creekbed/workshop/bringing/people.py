"""People of a list: who works at the bench, and when."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from creekbed.core.errors import BadInput
from creekbed.core.progress import Progress
from creekbed.core.text import code
from creekbed.interchange.tables import Table
from creekbed.store.records import Person
from creekbed.words.calendar import clock_of
from creekbed.workshop.bringing.rows import Bringing, ListRequest, Row, RowPlan, rows_of
from creekbed.workshop.shop.shop import Act, Shop
from creekbed.workshop.shop.staff import is_initials, read_hours

YES = frozenset({"yes", "y", "true", "1", "x", "helper", "assistant", "trainee", "ja", "oui", "si", "hilfe", "aide"})
NO = frozenset({"", "no", "n", "false", "0", "-", "technician", "nein", "non"})


def prepare(shop: Shop, table: Table, request: ListRequest, progress: Progress) -> Bringing:
    """What becomes of each row; nothing is written.

    Raises:
        BadInput: given up.
    """
    with shop.reading() as records:
        there = {p.initials: p for p in records.all_of(Person)}
    plans: list[RowPlan] = []
    seen: dict[str, int] = {}
    for row in rows_of(table, request):
        key = code(row.get("initials"))
        values = _values(row, key, seen)
        known = there.get(key)
        if row.problems:
            plans.append(row.problem(key))
            continue
        words = "helper" if values.get("helper") else "technician"
        if "from_hour" in values:
            words += f", {clock_of(values['from_hour'])} to {clock_of(values['to_hour'])}"
        changed = known is None or any(getattr(known, n) != v for n, v in values.items())
        state: Any = "new" if known is None else "changed" if changed else "same"
        plans.append(RowPlan(row.line, key, state, words, values if changed else {}))
    progress(1.0)
    return Bringing(request, table, tuple(plans))


def _values(row: Row, key: str, seen: dict[str, int]) -> dict[str, Any]:
    values: dict[str, Any] = {}
    if not is_initials(key):
        row.wrong("initials", f"“{row.get('initials')[:12]}” are no initials: up to four letters or digits.")
    elif seen.setdefault(key, row.line) != row.line:
        row.wrong("initials", f"{key} is in line {seen[key]} already.")
    said = row.get("helper").lower()
    if said in YES or said in NO:
        if "helper" in row.cells:
            values["helper"] = said in YES
    else:
        row.wrong("helper", f"“{said[:16]}”: yes or no?")
    if row.get("hours"):
        try:
            values["from_hour"], values["to_hour"] = read_hours(row.get("hours"))
        except BadInput as error:
            row.refused("hours", error)
    return values


def write(shop: Shop, act: Act, rows: Sequence[RowPlan]) -> None:
    """Take rows over."""
    for row in rows:
        _write(act, row)


def _write(act: Act, plan: RowPlan) -> None:
    """Take one row over."""
    there = act.records.get(Person, plan.key)
    if there is None:
        act.records.add(Person(initials=plan.key, **plan.values))
    else:
        act.records.update(there, **plan.values)
