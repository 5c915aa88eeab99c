"""What the steps of a job depend on, and the facts that follow from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Part
from creekbed.core.catalogue.models.policies import Choice
from creekbed.core.catalogue.models.steps import Joint, Step
from creekbed.core.catalogue.surfaces import known_as
from creekbed.core.climate.breath import learn_share
from creekbed.core.inspection.verdicts import Result
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class Situation:
    """Everything the steps of a job depend on.

    Attributes:
        family: key of the family. size: one of the family's sizes.
        materials: part → material, where the instrument's record says so. finishes: likewise.
        contents: item → "present", "missing", "worn", "replaced" or "waived"; an item not named is taken as present.
        findings: check → what it said; ``places`` for checks by place.
        places: check → place → answer.
        policies: topic → choice, as it stood when the job began.
        mixes_ready: products of recipes of which a usable mix stands ready.
        stock_pct: strength of the bottle in use for each stock supply, %.
        contact_min: product → contact time its label asks for, minutes.
        drops: retune readings (from_min, to_min, cents flat) since the newest string went on.
        retuned_min: when they were retuned since they were hung, minutes. retunes_skipped: numbers of the retunes that
            somebody left out, from 1. strings_accepted: they go out as they are.
        renter: what is known of the next renter: "young_child", "beginner" or "same".
        lately: step → days since it was last done to this instrument, in an earlier job; "recork" and "rehair" count
            from when those were put on record.
        came: "hot" or "cold" where the inside of its case was beyond the house's limits.
        took: supply → how much of it this instrument took each time, the last at the end, in the supply's unit.
        breath_share: what share of the water that breath can leave is to be reckoned with (weighing teaches it).
        room_c: temperature of the room, °C; the house's if not read.
        air_way: the way of the air through this instrument's valves, where the shop has set it.
        arrived: the joints that were together when it came in; ``None``: nobody has said.
        closed: checks whose finding is closed, or was overruled to "ready": they forbid nothing.
        creeps_times: how many times as much as the house says new strings of this family creep in this shop.
        cloths_dry: kinds of cloth of which a washed, dry one lies on the shelf; ``None``: of all.
    """

    family: str
    size: str
    materials: Mapping[str, str] = field(default_factory=dict)
    finishes: Mapping[str, str] = field(default_factory=dict)
    contents: Mapping[str, str] = field(default_factory=dict)
    findings: Mapping[str, Result] = field(default_factory=dict)
    places: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    policies: Mapping[str, str] = field(default_factory=dict)
    mixes_ready: frozenset[str] = frozenset()
    stock_pct: Mapping[str, float] = field(default_factory=dict)
    contact_min: Mapping[str, float] = field(default_factory=dict)
    drops: tuple[tuple[float, float, float], ...] = ()
    retuned_min: tuple[float, ...] = ()
    retunes_skipped: tuple[int, ...] = ()
    strings_accepted: bool = False
    renter: str = ""
    lately: Mapping[str, float] = field(default_factory=dict)
    came: str = ""
    took: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    breath_share: float = learn_share(()).careful
    room_c: float | None = None
    cloths_dry: frozenset[str] | None = None
    air_way: tuple[int, ...] = ()
    creeps_times: float = 1.0
    arrived: frozenset[str] | None = None
    closed: frozenset[str] = frozenset()

    def surface(self, part: Part) -> tuple[str, str]:
        """Material and finish of a part: as recorded, else the first it may have; "" where there is none."""
        material = known_as(self.materials.get(part.key, part.materials[0])) if part.materials else ""
        return material, self.finishes.get(part.key, part.finishes[0]) if part.finishes else ""


def is_due(step: Step, situation: Situation, values: Mapping[str, Any]) -> bool:
    """Whether the step falls due: it was last done at least as many days ago as its rhythm has, or never. `values` are
    the house's and the policies' numbers; a rhythm may be one of them (`every_by`)."""
    days = float(values.get(step.every_by, step.every_days or 0.0)) if step.every_by else step.every_days
    return situation.lately.get(step.every_of or step.key, float("inf")) >= (days or 0.0)


def due_facts(family: Family, situation: Situation, chosen: Mapping[str, Choice]) -> dict[str, frozenset[str]]:
    """Facts on whether regular care is due: ``due.bath`` is yes or no."""
    values = policy_values(chosen)
    return {
        f"due.{s.key}": frozenset({"yes" if is_due(s, situation, values) else "no"})
        for s in family.step
        if s.every_days or s.every_by
    }


def policy_values(chosen: Mapping[str, Choice]) -> dict[str, Any]:
    """The words and numbers that the chosen policies bring."""
    return {name: value for choice in chosen.values() for name, value in choice.values.items()}


@dataclass(frozen=True)
class Due:
    """Care that is due again and again: what, how often, by whom."""

    what: str
    every_days: float
    who: str
    mark: str


def intervals(catalogue: Catalogue, family: Family, policies: Mapping[str, str]) -> list[Due]:
    """The family's care intervals, as the chosen policies have them."""
    values = policy_values(catalogue.picked(family, policies))
    return [
        Due(i.what, float(values.get(i.by, i.every_days)) if i.by else i.every_days, i.who, i.mark)
        for i in family.interval
    ]


def facts_of(family: Family, situation: Situation, policies: Mapping[str, str]) -> dict[str, frozenset[str]]:
    """Everything that conditions may ask: contents, findings, materials, finishes, policies, renter, mixes."""
    facts = {f"contents.{i.key}": frozenset({situation.contents.get(i.key, "present")}) for i in family.item}
    facts |= {f"contents.{key}": frozenset({"none"}) for key in family.omitted}
    for check, result in situation.findings.items():
        facts[f"finding.{check}"] = result.facts
    for check, places in situation.places.items():
        facts[f"finding.{check}_bad"] = frozenset(places)
    for part in family.part:
        for kind, what in zip(("material", "finish"), situation.surface(part), strict=True):
            if what:
                facts[f"{kind}.{part.key}"] = frozenset({what})
    for topic, choice in policies.items():
        facts[f"policy.{topic}"] = frozenset({choice})
    for product in situation.mixes_ready:
        facts[f"mix.{product.removesuffix('_ml')}"] = frozenset({"ready"})
    facts["case.came"] = frozenset({situation.came} if situation.came else ())
    facts["renter"] = frozenset({situation.renter} if situation.renter else ())
    facts["arrived.joints"] = together_when_it_came(family, situation.arrived) | (
        frozenset({UNSAID}) if situation.arrived is None else frozenset()
    )
    return facts


IN_CASE = frozenset({"present", "worn", "replaced"})
"""States of a piece of the contents that was ticked and is there."""

UNSAID = "unsaid"
"""Stands among the joints that were together while nobody has said which were."""


def asked_joints(family: Family) -> list[Joint]:
    """The joints of which somebody is asked whether they were together when it came in."""
    return [j for j in family.joint if j.arrives and not j.travels and j.arrives_with is None]


def together_when_it_came(family: Family, arrived: frozenset[str] | None) -> frozenset[str]:
    """Every joint that may be together when it comes in; all that may be, while nobody has said."""
    return frozenset(
        j.key
        for j in family.joint
        if j.arrives and (arrived is None or j.travels or (j.arrives_with or j.key) in arrived)
    )


ASKED = "asked:"
"""Prefix of a topic in a job's policies under which stands who asked for the choice, where it is not the house's."""
