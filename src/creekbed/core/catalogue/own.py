"""What the shop adds and changes by files of its own: families, and single values over those that ship.

Its folder may hold ``families/*.toml`` in the form of the shipped ones, and ``overrides.toml``:

    [family.alto_saxophone.step.body_swab]
    hands_min = 4.0
    source = "timed at our bench"

    [family.alto_saxophone]
    omit = ["item.cap"]

    [supply.reed_alto_2]
    reorder_at = 12.0

Likewise ``[material.…]``, ``[agent.…]``, ``[place.…]``, ``[recipe.…]``, ``[limits]`` and ``[hours]``.
What is wrong is refused with file, key and line; everything else works on.
"""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.families import KINDS, PLAIN, TABLES, entry_key, read_group
from creekbed.core.catalogue.load import DATA
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.reading import bad, read_table, read_text, unreadable, validate
from creekbed.core.errors import BadData, CreekbedError

OVERRIDES = "overrides.toml"
MOST_HANDS_MIN = 7 * 24 * 60.0
"""The most hands-on time that a job may take, minutes: house default."""
NOT_UNDERSTOOD = (
    TypeError, AttributeError, LookupError, ValueError, ArithmeticError, RecursionError, CreekbedError
)  # fmt: skip
"""What reading a file of any contents may raise."""
M = TypeVar("M", bound=BaseModel)


def with_own_files(base: Catalogue, folder: Path, *, values: bool = True) -> Catalogue:
    """The catalogue with the shop's files over it; ``problems`` holds what was refused.

    Args:
        base: what ships. folder: the shop's folder of files; it need not exist.
        values: whether to apply the overrides too.
    """
    if not folder.is_dir():
        return base
    catalogue = base
    try:
        paths = sorted((folder / "families").glob("*.toml"))
    except OSError as error:
        paths, catalogue = [], _refused(catalogue, unreadable(folder / "families", error))
    for path in paths:
        try:
            with _understood(path):
                catalogue = _with_families(catalogue, path)
        except BadData as problem:
            catalogue = _refused(catalogue, problem)
    path = folder / OVERRIDES
    if values and os.path.lexists(path):
        try:
            table, text = read_table(path)
        except BadData as problem:
            return _refused(catalogue, problem)
        catalogue = with_overrides(catalogue, path, table, text)
    return catalogue


@contextmanager
def _understood(path: Path, key: str = "") -> Iterator[None]:
    """The worst that a file of the shop can do is to be refused.

    Raises:
        BadData: it is not understood.
    """
    try:
        yield None
    except BadData:
        raise
    except NOT_UNDERSTOOD as error:
        where = f"{key}: " if key else ""
        raise BadData(
            f"{path.name}: {where}it cannot be understood ({type(error).__name__}: {str(error)[:100]}).",
            todo="Mend the file; the rest works on.", file=path.name, key=key, line=0,
        ) from error  # fmt: skip


def tried(family: Family, catalogue: Catalogue) -> None:
    """Build a plain job of a family, as a job that is booked in would be: what fails there is not taken in.

    Raises:
        Any error of building.
    """
    from creekbed.core.procedure.build import build
    from creekbed.core.procedure.imagine import imagine

    larger = replace(catalogue, families={**catalogue.families, family.key: family})
    steps = build(larger, imagine(larger, family))
    if sum(s.hands_min for s in steps) > MOST_HANDS_MIN:
        raise ValueError("one job would take more hands than a week has")


def with_override_text(base: Catalogue, path: Path, text: str) -> Catalogue:
    """The catalogue under the text of an overrides file that is not written yet.

    Raises:
        BadData: it is not TOML.
    """
    return with_overrides(base, path, read_text(path, text), text)


def with_overrides(base: Catalogue, path: Path, table: Mapping[str, Any], text: str) -> Catalogue:
    """The catalogue with each table of an overrides file applied; a wrong one is refused by itself."""
    catalogue = base
    for where, fields in _tables(table):
        try:
            with _understood(path, ".".join(where)):
                catalogue = _apply(catalogue, path, text, where, fields)
        except BadData as problem:
            catalogue = _refused(catalogue, problem)
    return catalogue


def _refused(catalogue: Catalogue, problem: BadData) -> Catalogue:
    return replace(catalogue, problems=(*catalogue.problems, problem))


def _with_families(catalogue: Catalogue, path: Path) -> Catalogue:
    try:
        _, found = read_group(path, DATA / "shared")
    except BadData as error:
        if error.fields.get("file") == path.name:
            raise
        _, text = read_table(path)
        raise bad(
            path, text, ("group", "uses"), f"with its values a shared entry cannot be: {error.happened}"
        ) from error
    families = dict(catalogue.families)
    for key, family in found.items():
        if key in families:
            raise BadData(
                f"{path.name}: family “{key}” is there already.", todo="Give it another key.",
                file=path.name, key=key, line=0,
            )  # fmt: skip
        families[key] = family
    from creekbed.core.catalogue.cross import check_family

    larger = replace(catalogue, families=families)
    for family in found.values():
        try:
            check_family(family, larger)
        except BadData as error:
            table, text = read_table(path)
            raise bad(path, text, _place(table, str(error.fields["key"])), error.happened) from error
        tried(family, larger)
    return larger


def _place(table: Mapping[str, Any], key: str) -> tuple[str | int, ...]:
    """Where a family file says something of that key: its entry, or the file's head."""
    for n, family in enumerate(table.get("family", [])):
        for kind in KINDS:
            for k, entry in enumerate(family.get(kind, [])):
                if entry_key(kind, entry) == key:
                    return ("family", n, kind, k)
    for kind in KINDS:
        for k, entry in enumerate(table.get(kind, [])):
            if entry_key(kind, entry) == key:
                return (kind, k)
    return ("group",)


def _tables(table: Mapping[str, Any]) -> Iterator[tuple[tuple[str, ...], Mapping[str, Any]]]:
    """Every table that changes one thing, with its path: ("family", "violin", "step", "look")."""
    for top, inner in table.items():
        if top in ("limits", "hours") or not isinstance(inner, dict):
            yield (top,), inner if isinstance(inner, dict) else {}
            continue
        for key, fields in inner.items():
            if not isinstance(fields, dict):
                yield (top, key), {}
                continue
            if top != "family":
                yield (top, key), fields
                continue
            plain = {k: v for k, v in fields.items() if not (isinstance(v, dict) and k in KINDS)}
            if plain:
                yield (top, key), plain
            for kind in KINDS:
                for entry, values in (fields.get(kind) or {}).items():
                    yield (top, key, kind, entry), values if isinstance(values, dict) else {}


def _apply(catalogue: Catalogue, path: Path, text: str, where: tuple[str, ...], fields: Mapping[str, Any]) -> Catalogue:
    top = where[0]
    if not fields:
        raise bad(path, text, where, "is not a table of values.")
    if top == "family":
        return _family(catalogue, path, text, where, fields)
    house = catalogue.house
    if top in ("limits", "hours"):
        changed = _changed(path, text, where, getattr(house, top), fields)
        return replace(catalogue, house=house.model_copy(update={top: changed}))
    if top in ("place", "recipe"):
        entries = getattr(house, top)
        _known(path, text, where, {e.key for e in entries})
        new = tuple(_changed(path, text, where, e, fields) if e.key == where[1] else e for e in entries)
        return replace(catalogue, house=house.model_copy(update={top: new}))
    groups = {"supply": "supplies", "material": "materials", "agent": "agents"}
    if top not in groups:
        raise bad(path, text, where[:1], "is not known here.")
    entries = dict(getattr(catalogue, groups[top]))
    _known(path, text, where, entries)
    entries[where[1]] = _changed(path, text, where, entries[where[1]], fields)
    more: dict[str, Any] = {groups[top]: entries}
    larger = replace(catalogue, **more)
    if top == "material":
        for family in larger.families.values():
            if any(where[1] in (*p.materials, *p.finishes) for p in family.part):
                _checked(family, larger, path, text, where)
    return larger


def _family(
    catalogue: Catalogue, path: Path, text: str, where: tuple[str, ...], fields: Mapping[str, Any]
) -> Catalogue:
    _known(path, text, where[:2], catalogue.families)
    family = catalogue.families[where[1]]
    if len(where) == 4:
        kind, key = where[2], where[3]
        entries = getattr(family, kind)
        _known(path, text, where, {entry_key(kind, _table(e)) for e in entries})
        new = tuple(_changed(path, text, where, e, fields) if entry_key(kind, _table(e)) == key else e for e in entries)
        changed = family.model_copy(update={kind: new})
    else:
        rest = dict(fields)
        changed = _without(family, rest.pop("omit", []), path, text, where)
        for name in rest:
            if name not in (*PLAIN, *TABLES):
                raise bad(path, text, (*where, name), "is not known here.")
        if rest:
            changed = _changed(path, text, where, changed, rest)
    _checked(changed, catalogue, path, text, where)
    return replace(catalogue, families={**catalogue.families, family.key: changed})


def _without(family: Family, omit: Any, path: Path, text: str, where: tuple[str, ...]) -> Family:
    for name in omit if isinstance(omit, list) else [omit]:
        kind, _, key = str(name).partition(".")
        entries = getattr(family, kind, ()) if kind in KINDS else ()
        left = tuple(e for e in entries if entry_key(kind, _table(e)) != key)
        if len(left) == len(entries):
            raise bad(path, text, (*where, "omit"), f"there is no {name} to omit.")
        gone = (*family.omitted, key) if kind == "item" else family.omitted
        family = family.model_copy(update={kind: left, "omitted": gone})
    return family


def _checked(family: Family, catalogue: Catalogue, path: Path, text: str, where: tuple[str, ...]) -> None:
    """The cross-check of a changed family, its error told at the place of the change."""
    from creekbed.core.catalogue.cross import check_family

    try:
        check_family(family, replace(catalogue, families={**catalogue.families, family.key: family}))
    except BadData as error:
        raise bad(path, text, where, error.happened) from error
    tried(family, catalogue)


def _known(path: Path, text: str, where: tuple[str, ...], names: Any) -> None:
    if where[-1] not in names:
        raise bad(path, text, where, "does not exist.")


def _table(entry: BaseModel) -> dict[str, Any]:
    return {name: getattr(entry, name) for name in type(entry).model_fields}


def _changed(path: Path, text: str, where: tuple[str, ...], entry: M, fields: Mapping[str, Any]) -> M:
    """The entry with some values changed, validated whole; without a source of its own it is the shop's value."""
    now = _table(entry)
    model = type(entry)
    if "mark" in model.model_fields and "mark" not in fields:
        now["mark"] = "S"
    if "source" in model.model_fields and "source" not in fields:
        now["source"] = "the shop's own value"
    now |= {name: _merged(now.get(name), value) for name, value in fields.items()}
    return validate(path, text, model, now, where)


def _merged(here: Any, value: Any) -> Any:
    """A value put over what stands there: tables go into tables, everything else replaces."""
    if not isinstance(value, dict):
        return value
    if isinstance(here, BaseModel):
        ours = {"mark": "S"} if "mark" in type(here).model_fields else {}
        here = {**_table(here), **ours}
    if isinstance(here, dict):
        return {**here, **{k: _merged(here.get(k), v) for k, v in value.items()}}
    return value
