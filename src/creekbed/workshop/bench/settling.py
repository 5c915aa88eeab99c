"""How a job's new string settles: what was read, what is forecast, whether it will hold for a renter's first day."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

from creekbed.core.errors import BadInput
from creekbed.core.procedure.step_waits import creep_law
from creekbed.core.strings.settling import Creep
from creekbed.words.findings import settling_words
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:
    from creekbed.core.strings.forecast import Drop, Forecast


@dataclass(frozen=True)
class Settling:
    """State of a settling string at one moment; times in minutes since it was tuned up and hung.

    Attributes:
        law: the creep law that the plan reckons with. retunes_min: when it was retuned. readings: (time, cents flat) as
            read. now_min: the moment asked about. tolerance_cents, limit_cents: house numbers.
        ahead: what is to be expected from the last retune on.
    """

    law: Creep
    retunes_min: tuple[float, ...]
    readings: tuple[tuple[float, float], ...]
    now_min: float
    tolerance_cents: float
    limit_cents: float
    ahead: Forecast

    @property
    def next_min(self) -> float:
        """When it will be flat by the tolerance again, as likely sooner as later."""
        return self.ahead.next_min.median

    @property
    def holds(self) -> bool:
        """The first day's drift is within the house limit, as far as one can be sure of that."""
        return self.ahead.surely_holds

    def words(self) -> str:
        """The forecast in words."""
        return settling_words(self.ahead, self.limit_cents, self.holds)


def settling_of(shop: Shop, view: JobView, now: datetime | None = None) -> Settling | None:
    """How the new string of a job settles; ``None`` when none was hung."""
    from creekbed.core.strings.forecast import Kind, forecast  # the window opens without it

    stringed = view.family.stringed
    hung = next((w.at for w in view.all_work if w.key == "hang" and w.state == "done"), None)
    if stringed is None or hung is None:
        return None
    retunes = tuple(
        sorted(
            (w.at - hung).total_seconds() / 60
            for w in view.all_work
            if w.key.startswith("retune") and w.state == "done"
        )
    )
    ahead = forecast(
        Kind(stringed.creep_cents, stringed.creep_tau_min), _readable(view.situation.drops),
        tolerance_cents=stringed.tolerance_cents, limit_cents=stringed.first_day_cents,
        last_min=retunes[-1] if retunes else 0.0,
    )  # fmt: skip
    return Settling(
        law=creep_law(view.family, view.situation),
        retunes_min=retunes,
        readings=tuple((end, cents) for _, end, cents in view.situation.drops),
        now_min=((now or shop.now) - hung).total_seconds() / 60,
        tolerance_cents=stringed.tolerance_cents,
        limit_cents=stringed.first_day_cents,
        ahead=ahead,
    )


def _readable(drops: tuple[tuple[float, float, float], ...]) -> tuple[Drop, ...]:
    """Readings on record as a forecast takes them; those that no settling string gives say nothing to it."""
    from creekbed.core.strings.forecast import Drop

    found = []
    for start, end, cents in drops:
        try:
            found.append(Drop(start, end, cents))
        except BadInput:
            continue
    return tuple(found)
