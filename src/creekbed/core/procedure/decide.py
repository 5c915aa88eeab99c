"""What is decided rather than always done: cork grease by the cork's age, its look-over, its calendar and the policy.

A cork that is fine gets no grease unless the policy's calendar or a new cork asks for it; one with too much is wiped; a
torn one is the repairer's.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Any, Protocol

from creekbed.core.catalogue.conditions import Facts
from creekbed.core.catalogue.models.base import Deed
from creekbed.core.catalogue.models.family import Family
from creekbed.core.conventions import number
from creekbed.core.procedure.situation import IN_CASE
from creekbed.core.quick_dataclasses import dataclass

CORK_CHECKS = ("corks", "cork_feel")
"""Checks that say how each cork feels; their answers are dry, creaks, greasy, loose, torn."""
NEW_DAYS = 30.0
"""How long a cork counts as new: common practice, no source ("for a month")."""
NEW_EVERY_DAYS = 4.0
"""How often a new cork is greased: once or twice a week, common practice, no source."""
OLD_EVERY_DAYS = 60.0
"""How often it is greased later, about every two months: common practice, no source."""
WEEKLY_DAYS = 7.0


class _Situation(Protocol):
    @property
    def places(self) -> Mapping[str, Mapping[str, str]]: ...
    @property
    def lately(self) -> Mapping[str, float]: ...
    @property
    def cloths_dry(self) -> frozenset[str] | None: ...


@dataclass(frozen=True)
class Decided:
    """Facts for the conditions of steps, and words for what they say."""

    facts: dict[str, frozenset[str]] = field(default_factory=dict)
    words: dict[str, Any] = field(default_factory=dict)


def decisions(
    family: Family, situation: _Situation, facts: Facts, forbidden: Mapping[Deed, tuple[str, ...]]
) -> Decided:
    """What is decided for a job.

    Args:
        facts: contents, findings, policies of the job. forbidden: what open findings forbid.

    Returns:
        ``grease.corks``: "due" where grease is wanted; ``grease.wipe``: "due" where there is too much of it.
        ``swap.cloths``: whether a dry cloth of the shop goes into the case. ``bow.usable``: whether its bow is there
        and may be tightened; ``bow.forbidden``: whether a finding forbids that. ``whole.swabbed``: whether the tube is
        swabbed whole, before it is taken apart. ``patch.renewed``: whether the patch on the beak gives way to a new
        one. ``tuned.strings``: whether something in this job tunes a string. ``reed.kept``: whether its reed is a
        synthetic one in order, which can be disinfected by its label; a cane one never stays for a new renter.
        ``reed.spent``: whether the same renter wants a new one too.
    """
    found = _corks(family, situation, facts)
    stuff = next((s.stuff for s in family.step if s.key == SWAP), "")
    dry = situation.cloths_dry is None or stuff in situation.cloths_dry
    found.facts["swap.cloths"] = _yes(bool(stuff) and dry)
    there = facts.get("contents.bow", frozenset({"present"}))
    found.facts["bow.forbidden"] = _yes("tighten" in forbidden)
    found.facts["bow.usable"] = _yes(bool(there & IN_CASE) and "tighten" not in forbidden)
    swab = next((s for s in family.step if s.key == WHOLE), None)
    found.facts["whole.swabbed"] = _yes(swab is not None and all(c.holds(facts) for c in swab.when))
    patch = facts.get("finding.patch", frozenset())
    new_mouth = not facts.get("renter", frozenset()) & {"same", "new_stock"}
    found.facts["patch.renewed"] = _yes("worn" in patch or ("sound" in patch and new_mouth))
    tuned = any(facts.get(f"finding.{check}", frozenset()) & answers for check, answers in TUNES.items())
    found.facts["tuned.strings"] = _yes(tuned)
    synthetic = "synthetic_reed" in facts.get("material.reed", frozenset())
    whole = "bad" not in facts.get("finding.reed", frozenset())
    here = "present" in facts.get("contents.reed", frozenset())
    found.facts["reed.kept"] = _yes(synthetic and whole and here)
    unfit = facts.get("finding.reed", frozenset()) & {"bad", "none"}
    unfit |= facts.get("finding.reed_warp", frozenset()) & {"act"}
    found.facts["reed.spent"] = _yes(bool(unfit) or "worn" in facts.get("contents.reed", frozenset()))
    found.words["reed_in"] = "on the reed" if synthetic else "in the cane"
    return found


SWAP = "cloths_swap"
"""The step that takes a washed, dry cloth of the shop for the case."""
WHOLE = "whole_swab"
"""The step that draws a swab through the whole tube."""
TUNES = {
    "strings": {"worn", "missing"}, "fine_tuner": {"act"}, "tuner_ends": {"nearly_out"}, "pegs": {"slips", "sticks"},
}  # fmt: skip
"""Findings whose mending tunes strings, and so draws at the bridge."""
FACTS = (
    "strings.settling", "grease.corks", "grease.wipe", "swap.cloths", "bow.usable", "bow.forbidden", "whole.swabbed",
    "patch.renewed", "tuned.strings", "reed.kept", "reed.spent",
)  # fmt: skip


def _yes(value: bool) -> frozenset[str]:
    return frozenset({"yes" if value else "no"})


def _corks(family: Family, situation: _Situation, facts: Facts) -> Decided:
    checks = [c for c in family.check if c.key in CORK_CHECKS]
    if not checks:
        return Decided()
    felt: dict[str, str] = {}
    for check in checks:
        answers = facts.get(f"finding.{check.key}", frozenset())
        one = next(iter(answers & FEELS), "")
        felt |= situation.places.get(check.key, {}) if check.places else {check.part or "": one}
    corks = [p for c in checks for p in (c.places or (c.part or "",))]
    new = "new_stock" in facts.get("renter", frozenset())
    why = _why(felt, facts.get("policy.cork_grease", frozenset()), situation.lately, new)
    asks = [p for p in corks if felt.get(p) in ("dry", "creaks")]
    wanted = asks if why == "felt" else [p for p in corks if felt.get(p) not in ("torn", "greasy")] if why else []
    greasy = [p for p in corks if felt.get(p) == "greasy"]
    several = len(corks) > 1
    return Decided(
        {
            "grease.corks": frozenset({"due" if wanted else "no"}),
            "grease.wipe": frozenset({"due" if greasy else "no"}),
        },
        {
            "grease_places": f": {', '.join(wanted)}" if several else "",
            "grease_count": len(wanted),
            "grease_amount": _grease_amount(len(wanted)),
            "grease_why": WHY.get(why, ""),
            "greasy_places": f": {', '.join(greasy)}" if several else "",
        },
    )


CORK_ML = 0.05
"""Cork grease for one tenon cork of a clarinet or oboe, ml: house default."""


def _grease_amount(corks: int) -> str:
    return f"about {number(CORK_ML)} ml" + (f" for each of the {corks} corks" if corks > 1 else "")


FEELS = frozenset({"dry", "creaks", "greasy", "torn", "loose", "fine"})
WHY = {
    "felt": "You found it dry or creaking.",
    "new": "The cork is new: it drinks grease in its first month.",
    "calendar": "The house rule has a calendar, and it is due.",
}


def _why(felt: Mapping[str, str], policy: frozenset[str], lately: Mapping[str, float], new: bool) -> str:
    """Why grease is wanted: "felt", "new" or "calendar"; "" where it is not."""
    if {"dry", "creaks"} & set(felt.values()):
        return "felt"
    if new:
        return "new"
    age, since = lately.get("recork", float("inf")), lately.get("cork_grease", float("inf"))
    if "weekly" in policy:
        return "calendar" if since >= WEEKLY_DAYS else ""
    if age < NEW_DAYS and since >= NEW_EVERY_DAYS:
        return "new"
    if "by_age" in policy:
        return "calendar" if since >= OLD_EVERY_DAYS else ""
    return ""
