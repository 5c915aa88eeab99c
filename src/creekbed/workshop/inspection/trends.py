"""What a measured check read before, from hire to hire, and where that leads."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from creekbed.core.catalogue.models.parts import Bands, Check
from creekbed.core.inspection.trend import Trend, trend
from creekbed.core.inspection.work_effect import change, likely_left
from creekbed.core.measure import Reading
from creekbed.core.prediction import Prediction
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records import Finding, Hire
from creekbed.words.findings import change_words, cleaning_words, trend_words
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection.answers import answers
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
    again: bool = False
    """Whether it was read again in the same job, mostly after work: then it is not what the job left."""


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
    first: PastReading | None = None
    """What it read first in this job, where it was read again."""
    left: Prediction | None = None
    """What cleaning left before; ``None`` where cleaning does not show in it, or nothing is known."""
    cleaned: bool = False
    """Whether cleaning had begun in this job when it was read last."""
    found: Reading | None = None
    """What it reads now in this job."""

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
        said = [trend_words(self.trend, self.check.unit, went_out, self.seen[0].at, self.now, trade, self.away_days)]
        if self.found is not None and self.first is not None:
            said.append(change_words(change(self.first.reading, self.found), self.first.reading, self.first.at))
        if self.found is not None and self.left is not None:
            said.append(cleaning_words(self.left, self.found, self.cleaned))
        return " ".join(words for words in said if words)


def check_history(shop: Shop, view: JobView, check: Check) -> CheckHistory | None:
    """The readings of a measured check until now; ``None`` for other checks and where nothing is known from before."""
    bands = check.bands_for(view.instrument.size)
    if check.kind != "measure" or bands is None:
        return None
    with shop.reading() as records:
        hires = records.jobs.last_hires(view.tag, MOST)
        findings = records.jobs.found_before(view.tag, check.key, view.job.id, MOST)
        cleaned = records.jobs.cleaned_at([f.job_id for f in findings]) if check.cleaning_helps else {}
    seen, left = [], []
    for finding in findings:
        read = _read(finding, check)
        seen += read
        began = cleaned.get(finding.job_id)
        if finding.job_id != view.job.id and began is not None and read and read[-1].at > began:
            left.append(read[-1])
    now = [s for s in seen if s.at >= view.job.opened_at]
    seen = _with_hires(seen, hires, check)
    if len(now) < 2 and all(s.at >= view.job.opened_at for s in seen):
        return None
    lasting = [s for s in seen if not s.again]
    days = [(s.at - seen[0].at).total_seconds() / DAY_S for s in lasting]
    today = (shop.now - seen[0].at).total_seconds() / DAY_S
    line = trend(days, [s.reading for s in lasting], bands.scale(), today, max(check.u, 1e-9))
    began = cleaned.get(view.job.id)
    return CheckHistory(
        check, bands, tuple(seen), shop.now, line, shop.catalogue.house.limits.specialist_days,
        first=now[0] if len(now) > 1 else None,
        left=likely_left([s.reading for s in sorted(left, key=lambda s: s.at)]),
        cleaned=bool(now) and began is not None and now[-1].at > began,
        found=now[-1].reading if now else None,
    )  # fmt: skip


def _read(finding: Finding, check: Check) -> list[PastReading]:
    """What a check read in one job, the oldest first."""
    read = [(answer.at, measured(answer)) for answer in answers(finding)]
    known = [(at, mean) for at, mean in read if mean is not None and mean.unit == check.unit]
    return [PastReading(at, mean, False, n < len(known)) for n, (at, mean) in enumerate(known, 1)]


def _with_hires(found: list[PastReading], hires: Iterable[Hire], check: Check) -> list[PastReading]:
    """What was found, and what each hire went out with, the oldest first.

    An instrument goes out with what was read on the bench before: that is one reading, not two.
    """
    still, went_out = list(found), []
    for hire in hires:
        for row in hire.condition_out:
            if row.get("check") != check.key or row.get("value") is None:
                continue
            reading = Reading(float(row["value"]), check.u, check.unit, "as it went out")
            same = [s for s in still if s.at <= hire.out_at and s.reading.value == reading.value]
            if same:
                last = max(same, key=lambda s: s.at)
                still.remove(last)
                reading = last.reading
            went_out.append(PastReading(hire.out_at, reading, True))
    return sorted(still + went_out, key=lambda s: s.at)
