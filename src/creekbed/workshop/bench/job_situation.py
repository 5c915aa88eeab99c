"""What the steps of a job depend on, from its records."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.family import Family
from creekbed.core.inspection.verdicts import Result
from creekbed.core.measure import Reading, combine
from creekbed.core.procedure.situation import Situation
from creekbed.store.reader import Reader
from creekbed.store.records import (
    ContentLine,
    Finding,
    Instrument,
    Job,
    PolicyChoice,
    StepRecord,
)
from creekbed.workshop.bench.cupboard import Cupboard
from creekbed.workshop.inspection.air_way import own_way

HANG, ACCEPTED = "hang", "strings_accepted"
"""Keys under which it stands that new strings were hung, and that somebody lets them go out although they may not hold.
"""
SURPLUS = "surplus"
"""State of a line of the contents that names something which does not belong in the case."""
BY_EYE = "by_eye"
"""Stands as the answer of a measured check that somebody has looked at and not measured."""


def result_of(finding: Finding) -> Result:
    """The core's result from a stored finding; an overruled verdict counts as the person decided."""
    if finding.places:
        facts = frozenset(str(v) for v in finding.places.values())
    elif finding.choice:
        facts = frozenset({finding.choice})
    else:
        facts = frozenset({finding.band})
    verdict: Any = finding.overruled or finding.verdict or None
    return Result(finding.band, verdict, finding.reason, "", facts)  # type: ignore[arg-type]


def measured(finding: Finding) -> Reading | None:
    """The mean of a finding's readings with its uncertainty; ``None`` where nothing was measured."""
    if not finding.readings:
        return None
    return combine([Reading(r["value"], r["u"], r["unit"], r["how"]) for r in finding.readings])


def current_policies(records: Reader, catalogue: Catalogue, family: str) -> dict[str, str]:
    """The shop's choice for each topic of a family, or the default."""
    picked = catalogue.picked(catalogue.family(family), policy_choices(records))
    return {topic: choice.key for topic, choice in picked.items()}


def policy_choices(records: Reader) -> dict[str, str]:
    """Topic → choice, as far as the shop has chosen."""
    return {r.topic: r.choice for r in records.all_of(PolicyChoice)}


def hung_at(work: Iterable[StepRecord]) -> datetime | None:
    """When new strings were hung to settle; ``None``: none were."""
    return next((w.at for w in work if w.key == HANG and w.state == "done"), None)


def retunes_min(work: Sequence[StepRecord]) -> tuple[float, ...]:
    """When new strings were retuned, minutes since they were hung, in the order of time; none before that."""
    hung = hung_at(work)
    if hung is None:
        return ()
    done = (w.at for w in work if w.key.startswith("retune_") and w.state == "done")
    return tuple(sorted((at - hung).total_seconds() / 60 for at in done))


def retunes_skipped(work: Iterable[StepRecord]) -> tuple[int, ...]:
    """The numbers of the retunes that were left out."""
    left = (w.key for w in work if w.key.startswith("retune_") and w.state == "waived")
    return tuple(sorted(int(key.removeprefix("retune_")) for key in left))


def situation_of(
    job: Job,
    instrument: Instrument,
    family: Family,
    lines: Iterable[ContentLine],
    findings: Iterable[Finding],
    work: Sequence[StepRecord],
    stock: Cupboard,
    lately: Mapping[str, float] | None = None,
    cloths: frozenset[str] = frozenset(),
    creeps_times: float = 1.0,
) -> Situation:
    """Everything the steps of a job depend on, from its records; arguments as for :func:`view_of`."""
    findings = list(findings)
    drops = tuple(
        (float(w.data["from_min"]), float(w.data["to_min"]), float(w.data["cents"]))
        for w in work
        if w.data.get("cents") is not None
    )
    return Situation(
        family=instrument.family,
        size=instrument.size,
        materials=instrument.materials,
        finishes=instrument.finishes or {},
        contents={line.item: line.state for line in lines if line.state != SURPLUS},
        findings={f.check: result_of(f) for f in findings},
        places={f.check: f.places for f in findings if f.places},
        policies=job.policies,
        mixes_ready=stock.mixes_ready(family),
        stock_pct=stock.stock_pct,
        contact_min=stock.contact_min,
        drops=drops,
        retuned_min=retunes_min(work),
        retunes_skipped=retunes_skipped(work),
        strings_accepted=any(w.key == ACCEPTED for w in work),
        renter=job.renter or "",
        lately=dict(lately or {}),
        took=dict(stock.shelf.took.get(instrument.tag, {})),
        breath_share=stock.shelf.share(instrument.family).careful,
        cloths_dry=cloths,
        air_way=own_way(instrument),
        creeps_times=creeps_times,
        arrived=None if job.joined is None else frozenset(job.joined),
        closed=frozenset(f.check for f in findings if f.closed or f.overruled == "ready"),
    )
