"""Everything the shop knows, by key."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import field
from functools import cached_property
from typing import Any

from creekbed.core.catalogue.models.agents import (
    Agent,
    ForbiddenMix,
    Ingredient,
    MaterialCompatibility,
    Product,
)
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.house import House, Supply
from creekbed.core.catalogue.models.leaks import LeakTable
from creekbed.core.catalogue.models.policies import Choice, Topic
from creekbed.core.errors import BadData, Refused


@dataclasses.dataclass(frozen=True)
class Catalogue:
    """Everything the shop knows, by key; ``problems`` are the shop's own files that were refused."""

    families: dict[str, Family]
    topics: dict[str, Topic]
    agents: dict[str, Agent]
    materials: dict[str, MaterialCompatibility]
    supplies: dict[str, Supply]
    never: dict[str, ForbiddenMix]
    products: dict[str, Product]
    ingredients: dict[str, Ingredient]
    leaks: dict[str, LeakTable]
    house: House
    problems: tuple[BadData, ...] = ()
    memory: dict[Any, Any] = field(init=False, repr=False, compare=False, default_factory=dict)
    """What was worked out from this catalogue and may be asked again; a changed catalogue starts with none."""

    def family(self, key: str) -> Family:
        """The family with a key.

        Raises:
            Refused: there is none; the shop's own file that held it is gone or was refused.
        """
        found = self.families.get(key)
        if found is None:
            why = next((p.happened for p in self.problems if key in p.happened or key in str(p.fields)), "")
            why = why or next((p.happened for p in self.problems), "the file that held it is gone")
            raise Refused(
                f"Its family “{key}” is not known here now: {why.rstrip('.')}.",
                todo="Mend the shop's own file; nothing of the job is lost.", family=key,
            )  # fmt: skip
        return found

    def topics_for(self, family: Family) -> list[Topic]:
        """The questions on which practitioners disagree, for one family."""
        return [t for t in self.topics.values() if family.key in t.families or family.group in t.families]

    def picked(self, family: Family, policies: Mapping[str, str]) -> dict[str, Choice]:
        """Topic → the choice that holds for a family: the one named, else the default.

        Args:
            policies: topic → key of a choice; topics of other families are passed over.
        """
        return {t.key: t.pick(policies.get(t.key, t.default)) for t in self.topics_for(family)}

    def leak_table(self, family: Family) -> LeakTable | None:
        """Which pads close for which note: the family's own table, else its group's; ``None`` where there is none."""
        return self.leaks.get(family.key) or self.leaks.get(family.group)

    def groups(self) -> dict[str, list[Family]]:
        """Families by their group, both as in a score."""
        found: dict[str, list[Family]] = {}
        for family in self.families.values():
            found.setdefault(family.group, []).append(family)
        return found

    @cached_property
    def seldom(self) -> dict[str, set[str]]:
        """Family → its steps that are not due at every return; families without any are left out."""
        found = {f.key: {s.key for s in f.step if s.every_days or s.every_by} for f in self.families.values()}
        return {family: keys for family, keys in found.items() if keys}

    def families_of(self, topic: Topic) -> list[Family]:
        """The families that a topic concerns."""
        return [f for f in self.families.values() if f.key in topic.families or f.group in topic.families]
