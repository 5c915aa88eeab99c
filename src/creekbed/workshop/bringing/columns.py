"""Which column of a file is which field: guessed by its name and what is in it, and remembered."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping
from functools import lru_cache, partial
from pathlib import Path
from typing import Literal

from creekbed.core.catalogue.models.base import Entry, Text
from creekbed.core.catalogue.names import Recogniser, phrase
from creekbed.core.catalogue.reading import read_table as read_toml
from creekbed.core.catalogue.reading import validate
from creekbed.core.errors import BadInput
from creekbed.interchange.tables import Table, date_in, day_first
from creekbed.store.records import Setting
from creekbed.workshop.arrival.intake import clean_tag
from creekbed.workshop.shop.shop import Shop

FILE = Path(__file__).with_name("columns.toml")
Kind = Literal["instruments", "supplies", "people"]
KINDS: dict[Kind, str] = {"instruments": "Instruments", "supplies": "Supplies", "people": "People"}
"""What can be brought → its name."""
LOOKED_AT = 200
"""So many cells of a column are looked at: house default."""
SHARE = 0.6
"""A column is taken for a field by its content where so many of its cells fit: house default."""
REMEMBERED = "columns"
Fits = Callable[[str, Recogniser], bool]


class Column(Entry):
    """A field that a list can have. ``needed``: every row must have it."""

    name: Text
    words: tuple[Text, ...]
    needed: bool = False


class Columns(Entry):
    """The fields of every kind of list."""

    instruments: dict[str, Column]
    supplies: dict[str, Column]
    people: dict[str, Column]


@lru_cache(maxsize=1)
def _columns() -> Columns:
    table, text = read_toml(FILE)
    return validate(FILE, text, Columns, table, ())


def fields_of(kind: Kind) -> dict[str, Column]:
    """The fields of a kind of list, in the order in which they are shown."""
    found: dict[str, Column] = getattr(_columns(), kind)
    return found


def guess(table: Table, kind: Kind, recogniser: Recogniser) -> dict[str, str]:
    """Field → name of the column that it most likely is; each column once.

    The heading counts most: the same words, then words within it. What is in the column decides where headings say
    nothing, and against a heading that the content contradicts.
    """
    scores: list[tuple[float, int, str, str]] = []
    for rank, (field, column) in enumerate(fields_of(kind).items()):
        told = [phrase(words) for words in column.words]
        fits = _FITS.get((kind, field))
        for n, name in enumerate(table.columns):
            heading = phrase(name)
            score = max((_like(words, heading) for words in told), default=0.0)
            if fits is not None:
                share = _share(table, n, partial(_fits, fits, recogniser))
                score = score * (0.3 + 0.7 * share) + (0.5 * share if share >= SHARE and field in BY_CONTENT else 0.0)
            if score > 0.25:
                scores.append((-score, rank, field, name))
    found: dict[str, str] = {}
    for _, _, field, name in sorted(scores):
        if field not in found and name not in found.values():
            found[field] = name
    return {field: found[field] for field in fields_of(kind) if field in found}


def _like(words: tuple[str, ...], heading: tuple[str, ...]) -> float:
    if not words or not heading:
        return 0.0
    if words == heading:
        return 1.0
    within = all(w in heading for w in words)
    return 0.4 + 0.4 * len(words) / len(heading) if within else 0.0


def _share(table: Table, n: int, fits: Callable[[str], bool]) -> float:
    cells = [c for _, row in table.rows[:LOOKED_AT] if (c := row[n])]
    return sum(map(fits, cells)) / len(cells) if cells else 0.0


def _fits(fits: Fits, recogniser: Recogniser, cell: str) -> bool:
    return fits(cell, recogniser)


def _is_tag(cell: str, recogniser: Recogniser) -> bool:
    try:
        clean_tag(cell)
    except BadInput:
        return False
    return True


def _is_instrument(cell: str, recogniser: Recogniser) -> bool:
    return bool(recogniser.recognise(cell).families)


def _is_date(cell: str, recogniser: Recogniser) -> bool:
    try:
        date_in(cell, day_first([cell]))
    except BadInput:
        return False
    return True


_FITS: dict[tuple[str, str], Fits] = {
    ("instruments", "tag"): _is_tag,
    ("instruments", "what"): _is_instrument,
    ("instruments", "bought_on"): _is_date,
    ("instruments", "out_on"): _is_date,
    ("instruments", "due_on"): _is_date,
}
BY_CONTENT = ("tag", "what")
"""Fields that a column can be taken for by its content alone."""


# --- remembered ----------------------------------------------------------------------------------------------------


def _key(table: Table, kind: Kind) -> str:
    """The key of a setting for files with these headings."""
    text = json.dumps([kind, *table.columns], ensure_ascii=False)
    return f"{REMEMBERED}.{hashlib.sha256(text.encode()).hexdigest()[:16]}"


def remembered(shop: Shop, table: Table, kind: Kind) -> dict[str, str]:
    """Field → column as it was chosen for a file with the same headings; empty where there was none."""
    with shop.reading() as records:
        row = records.get(Setting, _key(table, kind))
    chosen = row.value.get("v", {}) if row is not None else {}
    fields = fields_of(kind)
    return {f: c for f, c in chosen.items() if f in fields and c in table.columns} if isinstance(chosen, dict) else {}


def setting_for(table: Table, kind: Kind, chosen: Mapping[str, str]) -> Setting:
    """The record that remembers a choice."""
    return Setting(key=_key(table, kind), value={"v": dict(chosen)})
