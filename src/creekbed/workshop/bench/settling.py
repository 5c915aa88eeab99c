"""How a job's new string settles: what was read, what is forecast, whether it will hold for a renter's first day."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from creekbed.core.errors import Refused
from creekbed.core.procedure.step_waits import LAST_RETUNE, creep_law, forecast_of
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.strings.settling import Creep
from creekbed.store.records import StepRecord
from creekbed.workshop.arrival.intake import need_job, need_reason
from creekbed.workshop.bench.job_situation import ACCEPTED, HANG, hung_at
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:
    from creekbed.core.strings.forecast import Forecast


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
        from creekbed.words.findings import settling_words  # the window opens without what it loads

        return settling_words(self.ahead, self.limit_cents, self.holds)


def has_new_strings(view: JobView) -> bool:
    """Whether new strings were put on and hung in a job."""
    return view.family.stringed is not None and hung_at(view.all_work) is not None


def first_retunes_open(view: JobView) -> bool:
    """Whether one of the retunes is still to do that come while a new string creeps fast."""
    last = f"retune_{LAST_RETUNE}"
    return any(s.step.kind == "retune" and s.step.base != last for s in view.open_steps)


def settles(key: str) -> bool:
    """Whether a wait with this key is one in which new strings settle."""
    return key == HANG or key.startswith("retune_")


def accepted(view: JobView) -> bool:
    """Whether somebody has accepted that the new strings may not hold."""
    return view.situation.strings_accepted


def ahead_of(view: JobView) -> Forecast | None:
    """What is to be expected of the new strings of a job; ``None`` when none were hung."""
    stringed, hung = view.family.stringed, hung_at(view.all_work)
    if stringed is None or hung is None:
        return None
    retunes = view.situation.retuned_min
    return forecast_of(stringed, view.situation, retunes[-1] if retunes else 0.0)


def settling_of(shop: Shop, view: JobView, now: datetime | None = None) -> Settling | None:
    """How the new string of a job settles; ``None`` when none was hung."""
    stringed, hung, ahead = view.family.stringed, hung_at(view.all_work), ahead_of(view)
    if stringed is None or hung is None or ahead is None:
        return None
    return Settling(
        law=creep_law(view.family, view.situation),
        retunes_min=view.situation.retuned_min,
        readings=tuple((end, cents) for _, end, cents in view.situation.drops),
        now_min=((now or shop.now) - hung).total_seconds() / 60,
        tolerance_cents=stringed.tolerance_cents,
        limit_cents=stringed.first_day_cents,
        ahead=ahead,
    )


def accept(shop: Shop, job_id: int, reason: str) -> None:
    """Let new strings go out although they may not hold for a day.

    Raises:
        BadInput: no reason. Refused: there are none, or that stands already.
    """
    reason = need_reason(reason)
    with shop.act("strings.accept") as act:
        view = need_job(shop, act.records, job_id, act.now)
        if not has_new_strings(view) or accepted(view):
            raise Refused("There is nothing to accept.")
        if first_retunes_open(view):
            raise Refused("The first retunes come before that.", todo="Do the next step.")
        for wait in view.running:
            if settles(wait.key):
                act.records.update(wait, ended_at=act.now, ended_why="strings accepted as they are")
        act.records.add(
            StepRecord(
                job_id=job_id, key=ACCEPTED, what="New strings go out as they are", stage="settle", state="waived",
                reason=reason, at=act.now, person=shop.person,
            )
        )  # fmt: skip
        act.tag, act.words = view.tag, f"{view.tag}: new strings accepted as they are ({reason})"
