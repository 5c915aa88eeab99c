"""How a job's new string settles: what was read, what is forecast, whether it will hold for a renter's first day."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from creekbed.core.procedure.step_waits import creep_law
from creekbed.core.strings.settling import Creep, first_day_cents
from creekbed.words.findings import settling_words
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Shop


@dataclass(frozen=True)
class Settling:
    """State of a settling string at one moment; times in minutes since it was tuned up and hung.

    Attributes:
        law: the creep law as fitted. retunes_min: when it was retuned. readings: (time, cents flat) as read.
        now_min: the moment asked about. next_min: when it will be flat by the tolerance again.
        tolerance_cents, limit_cents: house numbers. first_day_cents: forecast for the day after the last retune.
    """

    law: Creep
    retunes_min: tuple[float, ...]
    readings: tuple[tuple[float, float], ...]
    now_min: float
    next_min: float
    tolerance_cents: float
    limit_cents: float
    first_day_cents: float

    @property
    def holds(self) -> bool:
        """The first day's drift is within the house limit."""
        return self.first_day_cents <= self.limit_cents

    def words(self) -> str:
        """The forecast in words."""
        return settling_words(self.first_day_cents, self.limit_cents)


def settling_of(shop: Shop, view: JobView, now: datetime | None = None) -> Settling | None:
    """How the new string of a job settles; ``None`` when none was hung."""
    stringed = view.family.stringed
    hung = next((w.at for w in view.all_work if w.key == "hang" and w.state == "done"), None)
    if stringed is None or hung is None:
        return None
    law = creep_law(view.family, view.situation)
    retunes = tuple(
        sorted(
            (w.at - hung).total_seconds() / 60
            for w in view.all_work
            if w.key.startswith("retune") and w.state == "done"
        )
    )
    last = retunes[-1] if retunes else 0.0
    return Settling(
        law=law,
        retunes_min=retunes,
        readings=tuple((end, cents) for _, end, cents in view.situation.drops),
        now_min=((now or shop.now) - hung).total_seconds() / 60,
        next_min=law.next_out(last, stringed.tolerance_cents),
        tolerance_cents=stringed.tolerance_cents,
        limit_cents=stringed.first_day_cents,
        first_day_cents=first_day_cents(law, last),
    )
