"""The shelf's strings for an instrument of a family and size."""

from __future__ import annotations

from collections.abc import Mapping

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.family import Family
from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading
from creekbed.core.strings.choice import StatedString, Wanted, target_n
from creekbed.core.strings.tension import lies_in_fifths, pitch_hz
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies.stock import stock_list

ANGLE = "string_angle"
"""The check that measures how the strings lie over the bridge."""


def _may_go_on(catalogue: Catalogue, family: Family) -> set[str]:
    """Keys of strings that a family can take: ends, windings and length are those of its own kind.

    Strings that no family names, such as a shop's own for small sizes, may be for any.
    """
    of_others: set[str] = set()
    own: set[str] = set()
    bowed = family.stringed is not None and lies_in_fifths(family.stringed)
    for other in catalogue.families.values():
        if other.stringed is None:
            continue
        keys = {s.stock for s in other.stringed.strings}
        akin = other.key == family.key or (bowed and other.group == family.group)
        own |= keys if akin else set()
        of_others |= keys
    return {key for key, supply in catalogue.supplies.items() if supply.string and (key in own or key not in of_others)}


def stated_strings(
    catalogue: Catalogue, family: Family, amounts: Mapping[str, float | None] | None = None
) -> list[StatedString]:
    """The strings that a family can take, with how many there are where that is given."""
    found, fitting = [], _may_go_on(catalogue, family)
    for key, supply in catalogue.supplies.items():
        if supply.string is not None and key in fitting:
            s = supply.string
            found.append(
                StatedString(
                    key, supply.name, s.tension_n, s.length_mm, pitch_hz(s.pitch), s.plain, (amounts or {}).get(key)
                )
            )
    return found


def wanted_strings(catalogue: Catalogue, family: Family, size: str) -> list[Wanted]:
    """The strings of a family at a size, at the shop's pitch, the highest first.

    Raises:
        BadInput: a family without strings, or a size that it does not have.
    """
    stringed = family.stringed
    if stringed is None:
        raise BadInput(f"A {family.noun} has no strings.")
    if size not in stringed.length_mm:
        raise BadInput(f"“{size[:20]}” is no size of a {family.noun}.", todo=f"There are: {', '.join(family.sizes)}.")
    found = []
    for spec in stringed.strings:
        own = catalogue.supplies[spec.stock].string
        if own is None:
            raise BadInput(f"For the {spec.name} no tension is known.", todo="Put it among the shop's own values.")
        length, hz = stringed.length_mm[size], pitch_hz(spec.pitch, catalogue.house.limits.a4_hz)
        found.append(
            Wanted(spec.key, spec.name, length, hz, target_n(own.tension_n, length, own.length_mm), own.length_mm)
        )
    return sorted(found, key=lambda w: -w.hz)


def plain_of(catalogue: Catalogue, family: Family, key: str) -> str:
    """The material of the family's own string where it is a plain wire; "" where it is wound."""
    spec = next((s for s in family.stringed.strings if s.key == key), None) if family.stringed is not None else None
    own = catalogue.supplies[spec.stock].string if spec is not None else None
    return own.plain if own is not None else ""


def string_angle(shop: Shop, view: JobView) -> Reading | None:
    """The angle of its strings over the bridge as it was measured last, in this job or before; ``None``: never."""
    finding = view.findings.get(ANGLE)
    if finding is None:
        with shop.reading() as records:
            finding = next(iter(records.jobs.found_before(view.tag, ANGLE, view.job.id, 1)), None)
    return None if finding is None else measured(finding)


def shelf(shop: Shop, family: Family) -> list[StatedString]:
    """The strings of the shop that a family can take, with how many there are."""
    counted = {v.supply.key: v.amount for v in stock_list(shop)}
    return stated_strings(shop.catalogue, family, counted)
