"""Families put together: shared files, the group's file, the family's own entries, and what the shop changes.

A file in ``families/`` holds a ``[group]``, entries that all its families share (``[[part]]``, ``[[step]]`` …),
and one ``[[family]]`` for each family with entries of its own (``[[family.step]]``). A group may use files of
``shared/``. Later entries replace earlier ones of the same key. ``$name`` in an entry stands for a value of the
family's ``set`` table, or of the shared file's where the family says nothing; ``omit`` leaves entries out, ``change``
changes single values:

    [family.change.step.body_swab]
    hands_min = 2.0
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import field, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from creekbed.core.catalogue.models.base import Entry, Text
from creekbed.core.catalogue.models.family import Family, StringedData, Transposition
from creekbed.core.catalogue.models.parts import CaseItem, Check, Fault, Interval, Part, Wear
from creekbed.core.catalogue.models.steps import Breath, Dip, Joint, Order, Step
from creekbed.core.catalogue.reading import bad, read_table, validate
from creekbed.core.errors import BadData
from creekbed.core.quick_dataclasses import dataclass

KINDS: dict[str, type[Entry]] = {
    "part": Part, "joint": Joint, "item": CaseItem, "check": Check, "step": Step, "order": Order,
    "wear": Wear, "fault": Fault, "interval": Interval,
}  # fmt: skip
TABLES: dict[str, type[Entry]] = {"voice": Transposition, "stringed": StringedData, "breath": Breath, "dip": Dip}
OWN_FIRST = ("part", "item", "check")
"""Kinds in whose lists the group's own entries stand before the shared ones."""
PLAIN = ("key", "name", "sizes", "zones", "case_minutes", "drawing", "tells", "pulls_by", "air_way", "mark", "source")
_NAME = re.compile(r"\$([a-z][a-z0-9_]*)")


class Group(Entry):
    """Head of a family file."""

    key: str
    name: Text
    place: int = 100
    """Where the group stands in lists: as in a score."""
    uses: tuple[str, ...] = ()


@dataclass(frozen=True)
class Origin:
    """Where an entry stands: file, its text, and the path of keys inside it."""

    path: Path
    text: str
    where: tuple[str | int, ...]

    def bad(self, what: str, *more: str | int) -> BadData:
        """The error for this place."""
        return bad(self.path, self.text, (*self.where, *more), what)


@dataclass(frozen=True)
class Raw:
    """An entry as read, before the values of the family are put in."""

    table: dict[str, Any]
    origin: Origin
    made: list[Entry] = field(default_factory=list, compare=False)
    """The typed entry, once made, where it is the same for every family."""


Pool = dict[str, dict[str, Raw]]


def entry_key(kind: str, table: Mapping[str, Any]) -> str:
    """The key of an entry; an order rule is named by what it orders."""
    if kind == "order":
        return f"{table.get('first', '')}_before_{table.get('then', '')}"
    return str(table.get("key", ""))


def read_group(path: Path, shared: Path) -> tuple[int, dict[str, Family]]:
    """All families of one file, and where their group stands in lists.

    Raises:
        BadData: the file or one it uses is wrong.
    """
    table, text = read_table(path)
    top = Origin(path, text, ())
    _need_shape(top, table)
    group = validate(path, text, Group, table.get("group", {}), ("group",))
    known = {"group", "family", "common", "set", "defaults", *KINDS}
    for other in table:
        if other not in known:
            raise top.bad("is not known here.", other)
    mine = _entries(path, text, table, ())
    pool: Pool = {kind: dict(mine.get(kind, {})) for kind in OWN_FIRST}
    usual: dict[str, Any] = {}
    for use in group.uses:
        file = shared / f"{use}.toml"
        if not re.fullmatch(r"[a-z_]+", use) or not file.exists():
            raise top.bad(f"“{use}” is not a shared file.", "group", "uses")
        made = _shared(file)
        _add_below(pool, made.pool)
        usual |= made.usual
    _add(pool, mine)
    found: dict[str, Family] = {}
    for index, own in enumerate(table.get("family", [])):
        own = {**own, **{k: {**table.get(k, {}), **own.get(k, {})} for k in ("set", "defaults")}}
        own["set"] = {**usual, **own["set"]}
        at = Origin(path, text, ("family", index))
        family = _family(group, table.get("common", {}), own, pool, at)
        if family.key in found:
            raise top.bad(f"family “{family.key}” is there twice.", "family", index)
        found[family.key] = family
    if not found:
        raise top.bad("there is no [[family]] in this file.", "group")
    return group.place, found


def _need_shape(top: Origin, table: Mapping[str, Any]) -> None:
    """See that tables are tables and lists are lists, wherever a family file has them.

    Raises:
        BadData: one is not; at its place.
    """
    _need_entries(top, table, ())
    for name in ("group", "common", "set"):
        _need(top, table.get(name, {}), dict, name)
    families = _need(top, table.get("family", []), list, "family")
    for n, family in enumerate(families):
        where: tuple[str | int, ...] = ("family", n)
        _need(top, family, dict, *where)
        _need_entries(top, family, where)
        _need(top, family.get("set", {}), dict, *where, "set")
        _need(top, family.get("omit", []), list, *where, "omit")
        for kind, entries in _need(top, family.get("change", {}), dict, *where, "change").items():
            for key, fields in _need(top, entries, dict, *where, "change", kind).items():
                _need(top, fields, dict, *where, "change", kind, key)


def _need_entries(top: Origin, table: Mapping[str, Any], where: tuple[str | int, ...]) -> None:
    for kind, entry in _need(top, table.get("defaults", {}), dict, *where, "defaults").items():
        _need(top, entry, dict, *where, "defaults", kind)
    for kind in KINDS:
        for n, entry in enumerate(_need(top, table.get(kind, []), list, *where, kind)):
            _need(top, entry, dict, *where, kind, n)


def _need(top: Origin, value: Any, kind: type[Any], *where: str | int) -> Any:
    if not isinstance(value, kind):
        what = "a table" if kind is dict else "a list"
        raise top.bad(f"{str(value)[:40]!r} stands where {what} should be.", *where)
    return value


@dataclass(frozen=True)
class Shared:
    """A file that groups use: its entries, and what its ``$names`` stand for where a family does not say."""

    pool: Pool
    usual: Mapping[str, Any]


@lru_cache(maxsize=64)
def _shared_of(path: Path, changed: int) -> Shared:
    table, text = read_table(path)
    for other in table:
        if other not in KINDS and other not in ("defaults", "set"):
            raise bad(path, text, (other,), "is not known here.")
    return Shared(_entries(path, text, table, ()), table.get("set", {}))


def _shared(path: Path) -> Shared:
    return _shared_of(path, path.stat().st_mtime_ns)


def _entries(path: Path, text: str, table: Mapping[str, Any], prefix: tuple[str | int, ...]) -> Pool:
    """The entries of a table of tables, by kind and key, each with the file's defaults under it."""
    pool: Pool = {}
    for kind in KINDS:
        defaults = table.get("defaults", {}).get(kind, {})
        for index, entry in enumerate(table.get(kind, [])):
            origin = Origin(path, text, (*prefix, kind, index))
            if not isinstance(entry, dict):
                raise origin.bad("is not a table.")
            key = entry_key(kind, entry)
            if key in pool.setdefault(kind, {}):
                raise origin.bad(f"{kind} “{key}” is there twice.")
            pool[kind][key] = Raw({**defaults, **entry}, origin)
    return pool


def _add(pool: Pool, more: Pool) -> None:
    for kind, entries in more.items():
        pool.setdefault(kind, {}).update(entries)


def _add_below(pool: Pool, more: Pool) -> None:
    """Entries of a shared file give way to those of the same key that are there."""
    for kind, entries in more.items():
        there = pool.setdefault(kind, {})
        there.update({key: raw for key, raw in entries.items() if key not in there})


def _family(group: Group, common: Mapping[str, Any], own: Mapping[str, Any], shared: Pool, at: Origin) -> Family:
    known = {"set", "omit", "change", "defaults", *PLAIN, *TABLES, *KINDS}
    for other in own:
        if other not in known:
            raise at.bad("is not known here.", other)
    values = own.get("set", {})
    pool: Pool = {kind: dict(entries) for kind, entries in shared.items()}
    _add(pool, _entries(at.path, at.text, own, at.where))
    for name in own.get("omit", []):
        kind, _, key = str(name).partition(".")
        if key not in pool.get(kind, {}):
            raise at.bad(f"there is no {name} to omit.", "omit")
        del pool[kind][key]
    for kind, entries in own.get("change", {}).items():
        for key, fields in entries.items():
            here = replace(at, where=(*at.where, "change", kind, key))
            if key not in pool.get(kind, {}):
                raise here.bad(f"there is no {kind} “{key}” to change.")
            pool[kind][key] = Raw({**pool[kind][key].table, **fields}, here)
    plain = {**common, **{k: v for k, v in own.items() if k in PLAIN or k in TABLES}}
    made: dict[str, Any] = {
        kind: tuple(_make(raw, KINDS[kind], values) for raw in entries.values()) for kind, entries in pool.items()
    }
    for name, model in TABLES.items():
        if name in plain:
            made[name] = validate(at.path, at.text, model, _put_in(plain.pop(name), values), (*at.where, name))
    return validate(at.path, at.text, Family, {**plain, "group": group.key, "group_name": group.name, **made}, at.where)


def _make(raw: Raw, model: type[Entry], values: Mapping[str, Any]) -> Entry:
    """The typed entry. One without ``$names`` is the same for every family and is made once."""
    if raw.made:
        return raw.made[0]
    names = set(_names(raw.table))
    missing = sorted(names - set(values))
    if missing:
        raise raw.origin.bad(f"${missing[0]} is not set for this family.")
    table = {k: _put_in(v, values) for k, v in raw.table.items()} if names else raw.table
    made = validate(raw.origin.path, raw.origin.text, model, table, raw.origin.where)
    if not names:
        raw.made.append(made)
    return made


def _names(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        if "$" in value:
            yield from _NAME.findall(value)
    elif isinstance(value, dict):
        for inner in value.values():
            yield from _names(inner)
    elif isinstance(value, list | tuple):
        for inner in value:
            yield from _names(inner)


def _put_in(value: Any, values: Mapping[str, Any]) -> Any:
    if isinstance(value, str) and "$" in value:
        whole = _NAME.fullmatch(value)
        if whole:
            return values[whole[1]]
        return _NAME.sub(lambda m: str(values[m[1]]), value)
    if isinstance(value, dict):
        return {k: _put_in(v, values) for k, v in value.items()}
    if isinstance(value, list):
        return [_put_in(v, values) for v in value]
    return value
