"""The answers of one check over one job: what was found at first, and what later, mostly after work."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from creekbed.store.records import Finding, StepRecord

CORRECTED = timedelta(minutes=30)
"""An answer that is given again so soon, with no work between, corrects the one before it: house default."""
WITHOUT_WORK = ("book_in", "look_over")
"""Stages whose steps change nothing of what a check finds."""
KEPT = (
    "readings", "choice", "places", "band", "verdict", "reason", "overruled", "overrule_reason", "closed", "person",
)  # fmt: skip
"""What is kept of an earlier answer, beside its time."""


def worked_since(finding: Finding, work: Iterable[StepRecord]) -> bool:
    """Whether anything was done to the instrument since a check was answered.

    Args:
        work: every step of the job that is on record.
    """
    return bool(finding.closed) or any(
        w.state == "done" and w.stage not in WITHOUT_WORK and w.at > finding.at for w in work
    )


def was_cleaned(work: Iterable[StepRecord]) -> bool:
    """Whether cleaning has begun in a job."""
    return any(w.state == "done" and w.stage == "clean" for w in work)


def earlier_rows(finding: Finding | None, work: Iterable[StepRecord], now: datetime) -> list[dict[str, Any]]:
    """What an answer of ``now`` has before it; the last answer is left out where the new one only corrects it.

    Args:
        finding: as it stands; ``None`` where the check was not answered in this job.
    """
    if finding is None:
        return []
    if now - finding.at <= CORRECTED and not worked_since(finding, work):
        return list(finding.earlier)
    row = {name: getattr(finding, name) for name in KEPT}
    return [*finding.earlier, {**row, "at": finding.at.isoformat()}]


def answers(finding: Finding) -> list[Finding]:
    """A finding as it stood after each answer, the oldest first; the last is the finding itself."""
    blank = replace(
        finding, readings=[], choice="", places={}, overruled="", overrule_reason="", closed="", earlier=[]
    )  # fmt: skip
    before = [
        replace(blank, **{name: row[name] for name in KEPT if name in row}, at=datetime.fromisoformat(row["at"]))
        for row in finding.earlier
    ]
    return [*before, finding]
