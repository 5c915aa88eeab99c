"""How often forecasts came true: of the jobs with a chance of eight in ten, how many made their departure."""

from __future__ import annotations

import itertools
from datetime import timedelta

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records import ForecastRecord
from creekbed.words.chances import band_words, tested_words, untested_words
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.shop.shop import Shop, free_to_note

EVERY = timedelta(hours=12)
"""Shortest time between two records of a job's chance: house default."""
BANDS = (0.0, 0.2, 0.5, 0.8, 0.95, 1.0)
"""Chances are told in these bands: house default."""


@dataclass(frozen=True)
class Kept:
    """One band: how many forecasts, the chance that they gave on average, how many came true."""

    low: float
    high: float
    given: int
    mean: float
    came_true: int

    @property
    def words(self) -> str:
        """The words that people use for it."""
        return band_words(self.given, self.mean, self.came_true)


def keep(shop: Shop, home: HomeView) -> int:
    """Put the chances on show on record, for each job twice a day at most. It is no work at the bench.

    Returns:
        How many were put on record.
    """
    now = home.now
    jobs = [a.job_id for shipment in home.shipments for a in shipment.items]
    with shop.reading() as records:
        newest = records.planning.newest_forecasts(jobs)
    rows = []
    for shipment in home.shipments:
        for a in shipment.items:
            if a.chance is None or a.ready or a.blocked or shipment.departure.leaves_at <= now:
                continue
            if a.job_id not in newest or now - newest[a.job_id] >= EVERY:
                rows.append(
                    ForecastRecord(
                        job_id=a.job_id, departure_id=shipment.departure.id, at=now, chance=round(a.chance, 4)
                    )
                )
    if rows:
        with free_to_note(shop) as change:
            if change is None:
                return 0  # somebody holds the records: they are kept when they are shown next
            change.add_all(rows)
    return len(rows)


def calibration(shop: Shop, days: float = 90.0) -> list[Kept]:
    """Bands of chances with what came of them, for departures that are over.

    A job that went over to another departure is left out.
    """
    since = shop.now - timedelta(days=days)
    with shop.reading() as records:
        rows = records.planning.outcomes(shop.now, since)
    found = []
    for low, high in itertools.pairwise(BANDS):
        mine = [row for row in rows if low <= row[0] < high or (high == BANDS[-1] and row[0] >= high)]
        given = sum(count for _, _, count in mine)
        if given:
            mean = sum(chance * count for chance, _, count in mine) / given
            found.append(Kept(low, high, given, mean, sum(count for _, made, count in mine if made)))
    return found


def tested(shop: Shop, chance: float) -> str:
    """How far chances like this one have been put to the test here, in a sentence."""
    bands = calibration(shop)
    like = next((b for b in bands if b.low <= chance < b.high or (b.high == BANDS[-1] and chance >= b.high)), None)
    if like is not None:
        return tested_words(like.words)
    return untested_words(sum(b.given for b in bands))
