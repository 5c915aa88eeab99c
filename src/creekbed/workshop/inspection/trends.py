"""What a measured check read before, from hire to hire, and where that leads."""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.catalogue.models.parts import Bands, Check
from creekbed.core.inspection.trend import Trend, trend
from creekbed.core.measure import Reading
from creekbed.core.quick_dataclasses import dataclass
from creekbed.words.findings import trend_words
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
    away_days: float = 0.0
    """How long the specialist for it takes."""

    def day(self, at: datetime) -> float:
        """A time in days since the first reading."""
        return (at - self.seen[0].at).total_seconds() / DAY_S

    def when(self, day: float) -> datetime:
        """The time of a day since the first reading."""
        return self.seen[0].at + timedelta(days=day)

    def words(self) -> str:
        """What went before, its pace, and when that passes the limit."""
        went_out = [(s.reading.value, s.at) for s in self.seen if s.out]
        trade = self.check.trade if self.check.verdict == "specialist" else ""
        return trend_words(
            self.trend, self.check.unit, went_out, self.seen[0].at, self.now, trade, self.away_days
        )  # fmt: skip


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
    return CheckHistory(check, bands, tuple(seen), shop.now, found, shop.catalogue.house.limits.specialist_days)
