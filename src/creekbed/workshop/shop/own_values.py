"""The shop's own values over those that ship: what can be changed, what it would change, writing it down."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import tomlkit

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.families import KINDS
from creekbed.core.catalogue.models.base import Entry
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check, Interval
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.catalogue.own import OVERRIDES, with_override_text
from creekbed.core.conventions import number
from creekbed.core.errors import BadData, BadInput, Refused
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import imagine
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import before_list, line
from creekbed.words.own_values import BANDS, CASE, STRINGED, WAITS, every_name, hands_name, length_name, strings_name
from creekbed.workshop.shop import own_values_file
from creekbed.workshop.shop.shop import Act, Shop

Where = tuple[str, ...]


@dataclass(frozen=True)
class ValueView:
    """One number of the catalogue that the shop may change."""

    where: Where
    name: str
    value: float
    unit: str
    mark: str
    source: str


def own_paths(shop: Shop) -> set[Where]:
    """The paths of all values that the shop's file holds."""
    return _paths(_document(shop))


def _paths(document: tomlkit.TOMLDocument) -> set[Where]:
    found: set[Where] = set()

    def walk(table: Any, where: Where) -> None:
        for key, value in table.items():
            if isinstance(value, dict):
                walk(value, (*where, str(key)))
            elif key not in ("source", "mark"):
                found.add((*where, str(key)))

    walk(document, ())
    return found


def values_of(family: Family) -> list[ValueView]:
    """The numbers of a family that a shop may change: minutes, waits, amounts, bands, intervals."""
    base: Where = ("family", family.key)
    case = (CASE, family.case_minutes, "minute", family.mark, family.source)
    found = [ValueView((*base, "case_minutes"), *case)]
    for step in family.step:
        found += _step_values(base, step)
    for check in family.check:
        found += _check_values(base, check)
    found += [_interval_value(base, i) for i in family.interval]
    if family.stringed is not None:
        s = family.stringed
        for name in STRINGED:
            where = (*base, "stringed", name)
            found.append(ValueView(where, strings_name(name), float(getattr(s, name)), "cent", s.mark, s.source))
        for size, mm in s.length_mm.items():
            where = (*base, "stringed", "length_mm", size)
            found.append(ValueView(where, length_name(size), mm, "millimeter", s.mark, s.source))
    return found


def _step_values(base: Where, step: Step) -> list[ValueView]:
    where, name = (*base, "step", step.key), before_list(step.what).replace("{", "").replace("}", "")
    found = [ValueView((*where, "hands_min"), hands_name(name), step.hands_min, "minute", step.mark, step.source)]
    if step.wait is not None and step.wait.rule == "fixed":
        for key, words in WAITS.items():
            value = getattr(step.wait, key)
            if value is not None:
                row = ValueView((*where, "wait", key), f"{name}: {words}", value, "minute", step.mark, step.source)
                found.append(row)
    if step.every_days is not None:
        found.append(
            ValueView((*where, "every_days"), every_name(name), step.every_days, "day", step.mark, step.source)
        )
    return found


def _check_values(base: Where, check: Check) -> list[ValueView]:
    if check.bands is None:
        return []
    return [
        ValueView(
            (*base, "check", check.key, "bands", key), f"{check.name}: {said}", getattr(check.bands, key), check.unit,
            check.mark, check.source,
        )
        for key, said in BANDS.items()
        if getattr(check.bands, key) is not None
    ]  # fmt: skip


def _interval_value(base: Where, interval: Interval) -> ValueView:
    where = (*base, "interval", interval.key, "every_days")
    return ValueView(where, every_name(f"{interval.what}, {interval.who}"), interval.every_days, "day", interval.mark,
                     interval.source)  # fmt: skip


@dataclass(frozen=True)
class ValueEffect:
    """What a value would change in a plain job of its family: minutes of hands, and of waiting, before and after."""

    hands_before: float
    hands_after: float
    waits_before: float
    waits_after: float


def try_value(shop: Shop, where: Where, value: float) -> ValueEffect:
    """What a plain job would be with this value; nothing is stored.

    Raises:
        BadData, BadInput: the value cannot be.
    """
    _, candidate = _candidate(shop, _document(shop), where, value, "")
    before, after = _plain_job(shop.catalogue, where), _plain_job(candidate, where)
    return ValueEffect(before[0], after[0], before[1], after[1])


def _plain_job(catalogue: Catalogue, where: Where) -> tuple[float, float]:
    steps = build(catalogue, imagine(catalogue, catalogue.families[where[1]]))
    hands = sum(s.hands_min for s in steps)
    return round(hands, 1), round(sum(s.wait.min_minutes for s in steps if s.wait is not None), 1)


def set_value(shop: Shop, where: Where, value: float, source: str) -> None:
    """Store the shop's own value; it holds at once.

    Args:
        where: path of the value, as in :class:`ValueView`. source: where it comes from, in the shop's words.

    Raises:
        BadData, BadInput: the value cannot be; nothing was changed.
    """
    with shop.act("own_value", undoable=False) as act:
        text, candidate = _candidate(shop, _parsed(own_values_file.current(act, shop)), where, value, source)
        _keep(shop, act, text, candidate)
        act.words = f"Own value: {' '.join(where[1:])}: {number(value)}"


def take_back(shop: Shop, where: Where) -> None:
    """Forget the shop's own value; the one that ships holds again.

    Raises:
        Refused: there is none.
    """
    with shop.act("own_value", undoable=False) as act:
        document = _parsed(own_values_file.current(act, shop))
        if where not in _paths(document):
            raise Refused("There is no value of the shop's own here.")
        _drop(document, where)
        text = tomlkit.dumps(document)
        _keep(shop, act, text, with_override_text(shop.catalogue_without_values(), own_values_file.path_of(shop), text))
        act.words = f"Own value taken back: {' '.join(where[1:])}"


def _parsed(text: str) -> tomlkit.TOMLDocument:
    """The overrides as a document that keeps comments and order.

    Raises:
        Refused: it is no TOML.
    """
    if not text.strip():
        document = tomlkit.document()
        document.add(tomlkit.comment("Values of this shop's own, over those that ship with Creekbed."))
        return document
    try:
        return tomlkit.parse(text)
    except ValueError as error:
        raise Refused(f"{OVERRIDES} cannot be read: {error}.", todo="Mend the file by hand, then try again.") from error


def _document(shop: Shop) -> tomlkit.TOMLDocument:
    return _parsed(own_values_file.text_of(shop))


def _candidate(
    shop: Shop, document: tomlkit.TOMLDocument, where: Where, value: float, source: str
) -> tuple[str, Catalogue]:
    """The overrides with one value set, as text and as the catalogue that follows.

    Raises:
        BadData, BadInput: the value cannot be.
    """
    if len(where) < 3 or where[0] != "family" or where[1] not in shop.catalogue.families:
        raise BadInput("That value cannot be changed here.")
    _put(document, where, value)
    entry = 4 if where[2] in KINDS else 2
    if source.strip():
        holder: Any = document
        for key in where[:entry]:
            holder = holder[key]
        holder["source"] = line(source, what="Where it comes from")
    return _checked(shop, document, (".".join(where[:entry]),))


def _put(document: tomlkit.TOMLDocument, where: Where, value: Any) -> None:
    """Set a value at a path, with the tables that lead there."""
    table: Any = document
    for key in where[:-1]:
        if key not in table:
            table[key] = tomlkit.table()
        table = table[key]
    table[where[-1]] = value


def _drop(document: tomlkit.TOMLDocument, where: Where) -> None:
    """Take a value out, and the tables that hold nothing more; one that is not there is no matter."""
    tables: list[Any] = [document]
    for key in where[:-1]:
        if key not in tables[-1]:
            return
        tables.append(tables[-1][key])
    tables[-1].pop(where[-1], None)
    for depth in range(len(where) - 2, -1, -1):
        if not [k for k in tables[depth + 1] if k not in ("source", "mark")]:
            del tables[depth][where[depth]]


def _checked(shop: Shop, document: tomlkit.TOMLDocument, mine: tuple[str, ...]) -> tuple[str, Catalogue]:
    """The overrides as text and as the catalogue that follows.

    Args:
        mine: what the keys of the changed entries begin with.

    Raises:
        BadData: one of these cannot be so.
    """
    text = tomlkit.dumps(document)
    plain = shop.catalogue_without_values()
    candidate = with_override_text(plain, own_values_file.path_of(shop), text)
    for problem in candidate.problems[len(plain.problems) :]:
        if str(problem.fields.get("key", "")).startswith(mine):
            raise BadData(problem.fields.get("what", problem.happened), todo="Choose another value.", **problem.fields)
    return text, candidate


def set_house(shop: Shop, values: Mapping[Where, Any], words: str) -> None:
    """Store values of the house; they hold at once. A value equal to the shipped one is not stored.

    Args:
        values: path of each, such as ("place", "tub", "capacity") or ("hours", "open", "5"); ``None``: as it ships.
        words: what is written into the journal.

    Raises:
        BadData: a value cannot be; nothing was changed.
    """
    with shop.act("own_value", undoable=False) as act:
        document = _parsed(own_values_file.current(act, shop))
        for where, value in values.items():
            if value is None:
                _drop(document, where)
            else:
                _put(document, where, value)
        text, candidate = _checked(shop, document, tuple(where[0] for where in values))
        _keep(shop, act, text, candidate)
        act.words = words


def _keep(shop: Shop, act: Act, text: str, candidate: Catalogue) -> None:
    own_values_file.keep(act, shop, text)

    def work_by_it() -> str:
        shop.catalogue = candidate
        return ""

    act.after.insert(0, work_by_it)


def own_entries(catalogue: Catalogue) -> list[tuple[str, Entry]]:
    """Every entry of a family that the shop has changed, with the family's name."""
    return [
        (family.name, entry)
        for family in catalogue.families.values()
        for kind in KINDS
        for entry in getattr(family, kind)
        if getattr(entry, "mark", "") == "S"
    ]
