"""What a measured check read before, from hire to hire, and where that leads."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

from creekbed.core.catalogue.models.parts import Bands, Check
from creekbed.core.inspection.trend import YEAR_DAYS, Trend, trend
from creekbed.core.measure import Reading
from creekbed.core.units import show
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Shop

MOST = 24
DAY_S = 86_400.0


@dataclass(frozen=True)
class PastReading:
    """One earlier or present reading, and what was going on."""

    at: datetime
    reading: Reading
    out: bool
    """Whether it is how the instrument went out; else it was found on the bench."""


@dataclass(frozen=True)
class CheckHistory:
    """Readings of one check of one instrument, the oldest first, with their trend."""

    check: Check
    bands: Bands
    seen: tuple[PastReading, ...]
    now: datetime
    trend: Trend

    def day(self, at: datetime) -> float:
        """A time in days since the first reading."""
        return (at - self.seen[0].at).total_seconds() / DAY_S

    def when(self, day: float) -> datetime:
        """The time of a day since the first reading."""
        return self.seen[0].at + timedelta(days=day)

    def words(self) -> str:
        """What went before, its pace, and when that passes the limit."""
        unit = self.check.unit
        before = [s for s in self.seen if s.out]
        said = ""
        if before:
            rows = ", ".join(f"{show(s.reading.value, unit)} ({s.at.astimezone():%b %Y})" for s in before[-4:])
            said = f"Went out with: {rows}."
        line = self.trend.line
        if line is None:
            return said
        if not line.goes:
            return f"{said} No pace that can be told from chance.".strip()
        word = "rises" if line.slope > 0 else "falls"
        year, u = abs(line.slope) * YEAR_DAYS, 2 * line.u_slope * YEAR_DAYS
        said = f"{said} It {word} {show(year, unit)} ± {show(u, unit)} a year.".strip()
        cross = self.trend.crossing
        if cross is None:
            return said
        limit = show(cross.limit, unit)
        if cross.day <= self.day(self.now):
            return f"{said} {limit} is reached."
        soon = f"{self.when(cross.soonest).astimezone():%b %Y}"
        if not math.isfinite(cross.latest):
            between = f", not before {soon}"
        else:
            late = f"{self.when(cross.latest).astimezone():%b %Y}"
            between = f", between {soon} and {late}" if soon != late else ""
        return f"{said} At this pace it passes {limit} about {self.when(cross.day).astimezone():%b %Y}{between}."


def check_history(shop: Shop, view: JobView, check: Check) -> CheckHistory | None:
    """The readings of a measured check until now; ``None`` for other checks and where nothing is known from before."""
    bands = check.bands_for(view.instrument.size)
    if check.kind != "measure" or bands is None:
        return None
    with shop.reading() as records:
        hires = records.jobs.last_hires(view.tag, MOST)
        seen = [
            PastReading(hire.out_at, Reading(float(r["value"]), check.u, check.unit, "as it went out"), True)
            for hire in hires
            for r in hire.condition_out
            if r.get("check") == check.key and r.get("value") is not None
        ]
        for finding in records.jobs.found_before(view.tag, check.key, view.job.id, MOST):
            mean = measured(finding)
            if mean is not None and mean.unit == check.unit:
                seen.append(PastReading(finding.at, mean, False))
    seen.sort(key=lambda s: s.at)
    if not seen or all(s.at >= view.job.opened_at for s in seen):
        return None
    days = [(s.at - seen[0].at).total_seconds() / DAY_S for s in seen]
    today = (shop.now - seen[0].at).total_seconds() / DAY_S
    least = max(check.u, 1e-9)
    found = trend(days, [s.reading for s in seen], bands.scale(), today, least)
    return CheckHistory(check, bands, tuple(seen), shop.now, found)
