"""Instruments of a list, with the hires that are in force."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.names import Recogniser, phrase
from creekbed.core.catalogue.surfaces import questions
from creekbed.core.errors import BadInput
from creekbed.core.local import at_hour
from creekbed.core.progress import Progress
from creekbed.core.text import line
from creekbed.interchange.tables import Table, date_in, day_first, decimal_comma, number_in
from creekbed.store.reader import Reader
from creekbed.store.records import Hire, Instrument, OwnName
from creekbed.workshop.arrival.instrument_materials import unknown
from creekbed.workshop.arrival.intake import clean_tag
from creekbed.workshop.bringing.condition import marks_in
from creekbed.workshop.bringing.rows import Ask, Bringing, ListRequest, Row, RowPlan, rows_of
from creekbed.workshop.shop.shop import Act, Shop

NOT_SAID = "not said in the list"
"""The name under which a material that the list says nothing of is recorded: it bears nothing but a dry cloth."""
OUT_HOUR = 12.0
"""A hire whose day is known but not its hour began at this local hour: house default."""
WORDS = {
    "family": "what it is", "size": "size", "serial": "serial number", "materials": "what it is made of",
    "finishes": "finish", "bought_on": "bought on", "cost": "bought for", "renter": "out with", "group": "group",
    "out_on": "out since", "due_on": "back by", "condition": "marks it went out with",
}  # fmt: skip
"""Value → words for what changes."""


def recogniser_of(records: Reader, shop: Shop) -> Recogniser:
    """What words of lists mean here: the table that ships, and the shop's own."""
    own = {o.words: (o.family, o.size) for o in records.readable(OwnName)}
    return Recogniser(shop.catalogue, own)


@dataclass
class _Known:
    """What the shop has already."""

    instruments: Mapping[str, Instrument]
    hires: Mapping[str, Hire]
    here: frozenset[str]


@dataclass
class _Reading:
    """A list while it is read."""

    shop: Shop
    request: ListRequest
    recogniser: Recogniser
    known: _Known
    comma: bool
    days_first: Mapping[str, bool]
    now: datetime
    seen: dict[str, int] = field(default_factory=dict)
    asks: Counter[str] = field(default_factory=Counter)
    candidates: dict[str, tuple[str, ...]] = field(default_factory=dict)
    unsaid: Counter[str] = field(default_factory=Counter)


def prepare(shop: Shop, table: Table, request: ListRequest, progress: Progress) -> Bringing:
    """What becomes of each row; nothing is written.

    Raises:
        BadInput: given up.
    """
    with shop.reading() as records:
        hires = {h.tag: h for h in records.all_of(Hire, back_at=None)}
        known = _Known({i.tag: i for i in records.all_of(Instrument)}, hires, records.jobs.tags_here())
        recogniser = recogniser_of(records, shop)
    for words, answer in request.families.items():
        recogniser.own[phrase(words)] = answer
    rows = rows_of(table, request)
    dates = {n: day_first(r.get(n) for r in rows) for n in ("bought_on", "out_on", "due_on")}
    reading = _Reading(shop, request, recogniser, known, decimal_comma(r.get("cost") for r in rows), dates, shop.now)
    plans = []
    for n, row in enumerate(rows):
        if n % 200 == 0 and not progress(n / len(rows)):
            raise BadInput("Given up; nothing was brought.")
        plans.append(_plan(reading, row))
    asks = tuple(Ask(words, reading.candidates[words], count) for words, count in reading.asks.most_common())
    return Bringing(request, table, tuple(plans), asks, dict(reading.unsaid))


def _plan(reading: _Reading, row: Row) -> RowPlan:
    tag = _tag(reading, row)
    there = reading.known.instruments.get(tag)
    family, size = _what(reading, row, there)
    values: dict[str, Any] = {}
    unsaid: list[str] = []
    if family is not None:
        values |= {"family": family.key} | ({"size": size} if size else {})
        made, unsaid = _made_of(reading, row, family, new=there is None)
        values |= {kind: found for kind, found in made.items() if found}
    _text(row, values, "serial", 40)
    _day(reading, row, values, "bought_on")
    if row.get("cost"):
        try:
            values["cost"] = round(number_in(row.get("cost"), reading.comma), 2)
        except BadInput as error:
            row.refused("cost", error)
    _hire(reading, row, values, tag)
    _condition(row, values, family)
    if row.problems or family is None:
        if not row.problems:
            row.wrong("what", "What it is must be said first.")
        return row.problem(tag)
    reading.unsaid.update(unsaid)
    name = f"{family.name}{f', {family.size_words(size)}' if family.size_words(size) else ''}"
    if there is None:
        if not size:
            values["size"] = family.sizes[0]
        return RowPlan(row.line, tag, "new", name + _out_words(values), values)
    changes = _changes(there, reading.known.hires.get(tag), values)
    if not changes:
        return RowPlan(row.line, tag, "same", name)
    changed = {c: values[c] for c in changes} | _hire_key(values, changes)
    return RowPlan(row.line, tag, "changed", f"{name}: {', '.join(WORDS[c] for c in changes)}", changed)


def _out_words(values: Mapping[str, Any]) -> str:
    return f", out with {values['renter']}" if "renter" in values else ""


def _hire_key(values: Mapping[str, Any], changes: list[str]) -> dict[str, Any]:
    """Who has it, where something of the hire changes."""
    of_hire = {"renter", "group", "out_on", "due_on", "condition"}
    return {"renter": values["renter"]} if of_hire & set(changes) and "renter" in values else {}


def _tag(reading: _Reading, row: Row) -> str:
    try:
        tag = clean_tag(row.get("tag"))
    except BadInput as error:
        row.refused("tag", error)
        return ""
    first = reading.seen.setdefault(tag, row.line)
    if first != row.line:
        row.wrong("tag", f"{tag} is in line {first} already.")
    return tag


def _what(reading: _Reading, row: Row, there: Instrument | None) -> tuple[Family | None, str]:
    """The family and size; what is not sure is noted to be asked once."""
    words, said_size = row.get("what"), row.get("size")
    families = reading.shop.catalogue.families
    if not words:
        if there is not None and there.family in families:
            family = families[there.family]
            return family, _size(reading, row, family, said_size)
        row.wrong("what", "It is not said what it is.")
        return None, ""
    found = reading.recogniser.recognise(words, said_size)
    if not found.sure:
        reading.asks[words] += 1
        reading.candidates[words] = found.families
        row.wrong("what", f"“{words[:40]}” can be several." if found.families else f"“{words[:40]}” is not known here.")
        return None, ""
    family = families[found.families[0]]
    if there is not None and there.family != family.key:
        row.wrong("what", f"{there.tag} is a {families[there.family].noun if there.family in families else '?'} here.")
    return family, found.size or _size(reading, row, family, said_size)


def _size(reading: _Reading, row: Row, family: Family, said: str) -> str:
    """The size that a column says; a size that the family does not come in is a problem."""
    if not said:
        return ""
    size = reading.recogniser.size_of(family, phrase(said))
    if not size:
        row.wrong("size", f"A {family.noun} does not come in size {said[:20]}.")
    return size


def _made_of(reading: _Reading, row: Row, family: Family, *, new: bool) -> tuple[dict[str, dict[str, str]], list[str]]:
    """Part → material, and part → finish, as far as the list or the answers say; and what the list does not say."""
    found: dict[str, dict[str, str]] = {"materials": {}, "finishes": {}}
    unsaid = []
    words = phrase(row.get("made_of"))
    for question in questions(family):
        choice = reading.recogniser.material(words, question.choices)
        answered = f"{family.key}.{question.parts[0]}"
        if not choice and new:
            choice = reading.request.made_of.get(answered, "")
            if question.kind == "material":
                unsaid.append(answered)
                choice = choice or unknown(NOT_SAID)
        kind = "materials" if question.kind == "material" else "finishes"
        if choice:
            found[kind] |= dict.fromkeys(question.parts, choice)
    return found, unsaid


def _text(row: Row, values: dict[str, Any], name: str, longest: int) -> None:
    if row.get(name):
        try:
            values[name] = line(row.get(name), what=WORDS[name].capitalize(), longest=longest)
        except BadInput as error:
            row.refused(name, error)


def _day(reading: _Reading, row: Row, values: dict[str, Any], name: str) -> None:
    if row.get(name):
        try:
            day = date_in(row.get(name), reading.days_first[name])
        except BadInput as error:
            row.refused(name, error)
            return
        if name != "due_on" and day > reading.now.astimezone().date():
            row.wrong(name, f"{day:%d %b %Y} has not come yet.")
        values[name] = day.isoformat()


def _hire(reading: _Reading, row: Row, values: dict[str, Any], tag: str) -> None:
    """The hire in force, where the list names one."""
    _text(row, values, "renter", 60)
    _text(row, values, "group", 60)
    _day(reading, row, values, "out_on")
    _day(reading, row, values, "due_on")
    if "renter" not in values:
        if "group" in values:  # a whole group has it
            values["renter"] = values["group"]
        elif "out_on" in values or "due_on" in values:
            row.wrong("renter", "It is out, but with whom?")
        return
    if tag in reading.known.here:
        row.wrong("renter", f"{tag} is on the bench; it cannot be out too.")
    there = reading.known.hires.get(tag)
    if there is not None and there.renter != values["renter"]:
        row.wrong("renter", f"{tag} is out with {there.renter} here.")


def _condition(row: Row, values: dict[str, Any], family: Family | None) -> None:
    """The marks that an instrument went out with, where the list says them."""
    if not row.get("condition") or family is None:
        return
    try:
        marks = marks_in(row.get("condition"), family)
    except BadInput as error:
        row.refused("condition", error)
        return
    if marks and "renter" not in values:
        row.wrong("condition", "Marks go with a hire: it is not said who has it.")
    elif marks:
        values["condition"] = marks


def _changes(there: Instrument, hire: Hire | None, values: Mapping[str, Any]) -> list[str]:
    """Which values differ from what is on record; what the list does not say stays."""
    now: dict[str, Any] = {
        "family": there.family, "size": there.size, "serial": there.serial, "bought_on": there.bought_on,
        "cost": there.cost, "renter": hire.renter if hire else None, "group": hire.group_name if hire else None,
        "due_on": hire.due_on if hire else None,
        "out_on": hire.out_at.astimezone().date().isoformat() if hire else None,
        "condition": [r for r in hire.condition_out if "zone" in r] if hire else None,
    }  # fmt: skip
    found = [name for name, value in values.items() if name in now and now[name] != value]
    for name, on_record in (("materials", there.materials), ("finishes", there.finishes)):
        if any(on_record.get(part) != made for part, made in values.get(name, {}).items()):
            found.append(name)
    return found


# --- writing -------------------------------------------------------------------------------------------------------


def write(shop: Shop, act: Act, rows: Sequence[RowPlan]) -> None:
    """Take rows over: instruments first, then the hires in force.

    Raises:
        BadInput: an instrument came or went since the list was read. StaleRecord: somebody changed one.
    """
    there = {i.tag: i for i in act.records.all_of(Instrument, tag=[row.key for row in rows])}
    for row in rows:
        if (row.key in there) != (row.state == "changed"):
            raise BadInput(f"{row.key} was changed meanwhile.", todo="Look at the list again.")
    act.records.add_all(_made(row, act.now) for row in rows if row.state == "new")
    for row in rows:
        if row.state == "changed":
            _change(act, there[row.key], row.values)
    with_hires = [row for row in rows if "renter" in row.values]
    hires = {h.tag: h for h in act.records.all_of(Hire, tag=[r.key for r in with_hires]) if h.back_at is None}
    act.records.add_all(_hired(row, act.now) for row in with_hires if row.key not in hires)
    for row in with_hires:
        if row.key in hires and (said := _said_of_hire(row.values)):
            known = hires[row.key]
            if "condition_out" in said:  # what was measured when it went out stays
                said["condition_out"] = [*(r for r in known.condition_out if "zone" not in r), *said["condition_out"]]
            act.records.update(known, **said)


def _made(row: RowPlan, now: datetime) -> Instrument:
    values = row.values
    return Instrument(
        tag=row.key, family=values["family"], size=values["size"], serial=values.get("serial", ""),
        materials=values.get("materials", {}), finishes=values.get("finishes", {}), created_at=now,
        bought_on=values.get("bought_on", ""), cost=values.get("cost"),
    )  # fmt: skip


def _change(act: Act, there: Instrument, values: Mapping[str, Any]) -> None:
    own = {n: values[n] for n in ("size", "serial", "bought_on", "cost") if n in values}
    made = {n: getattr(there, n) | values[n] for n in ("materials", "finishes") if n in values}
    if own or made:
        act.records.update(there, **own, **made)


def _hired(row: RowPlan, now: datetime) -> Hire:
    return Hire(tag=row.key, renter=row.values["renter"], **({"out_at": now} | _said_of_hire(row.values)))


def _said_of_hire(values: Mapping[str, Any]) -> dict[str, Any]:
    said: dict[str, Any] = {"group_name": values["group"]} if "group" in values else {}
    if "due_on" in values:
        said["due_on"] = values["due_on"]
    if "condition" in values:
        said["condition_out"] = values["condition"]
    if "out_on" in values:
        said["out_at"] = at_hour(datetime.fromisoformat(values["out_on"]).date(), OUT_HOUR)
    return said
