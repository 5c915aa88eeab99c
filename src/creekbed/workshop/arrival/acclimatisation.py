"""A thermometer in a shut case: what was read, when the case may be opened, and the wait that follows from it."""

from __future__ import annotations

import math
from datetime import datetime, timedelta

from creekbed.core.climate.acclimatise import Acclimatise, acclimatise
from creekbed.core.climate.case_fit import CaseFit, fit_case
from creekbed.core.conventions import clock, temperature
from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import Job
from creekbed.workshop.arrival.intake import need_job
from creekbed.workshop.shop.shop import Shop


@dataclass(frozen=True)
class CaseView:
    """The case of a job and its readings.

    Attributes:
        minutes, celsius: readings, from the first on. room_c, room_rh, dew_c: of the room.
        fit: ``None`` before two readings. first: what one reading and the house's time constant say.
        opens_at, soonest, latest: when it is within tolerance and above the dew point; ``None`` before any reading.
        condenses: opened now, it would gather water.
    """

    tag: str
    minutes: tuple[float, ...]
    celsius: tuple[float, ...]
    room_c: float
    room_rh: float
    dew_c: float
    tau_min: float
    fit: CaseFit | None
    first: Acclimatise | None
    began_at: datetime | None
    opens_at: datetime | None
    soonest: datetime | None
    latest: datetime | None
    condenses: bool


LID_FACTOR = {"shut": 1.0, "cracked": 0.6, "open": 0.3}
"""What part of the shut case's time constant is left with the lid so: house default."""


def note_case(shop: Shop, job_id: int, celsius: float) -> None:
    """Note what the thermometer on the instrument reads now.

    Raises:
        BadInput: no temperature that a case comes back with. Refused: there is no such open job.
    """
    if not -40 <= celsius <= 70:
        raise BadInput(
            f"{temperature(celsius)} is no temperature a case comes back with.", todo="Read the probe again."
        )
    with shop.act("case.read") as act:
        view = need_job(shop, act.records, job_id, act.now)
        rows = view.job.case_readings
        if rows and datetime.fromisoformat(rows[-1][0]) >= act.now:
            raise Refused("That moment has a reading already.", todo="Read it again in a minute.")
        act.records.update(view.job, case_readings=[*rows, [act.now.isoformat(), celsius]])
        act.tag, act.words = view.tag, f"{view.tag}: {temperature(celsius)} in the case"


def case_of(
    shop: Shop, job_id: int, room_c: float | None = None, room_rh: float | None = None, lid: str = "shut"
) -> CaseView:
    """What the readings of a job's case say.

    Args:
        room_c, room_rh: of the room, °C and 0 to 1; the house's if not given. lid: of :data:`LIDS`, from now on.

    Raises:
        Refused: there is no such job. BadInput: a room that cannot be.
    """
    limits = shop.catalogue.house.limits
    room_c = limits.room_c if room_c is None else room_c
    room_rh = limits.room_rh if room_rh is None else room_rh
    with shop.reading() as records:
        return case_in(records, shop, job_id, room_c, room_rh, lid)


def case_in(records: Reader, shop: Shop, job_id: int, room_c: float, room_rh: float, lid: str) -> CaseView:
    """As :func:`case_of`, from records that are open already."""
    limits = shop.catalogue.house.limits
    view = need_job(shop, records, job_id, shop.now)
    rows = list(view.job.case_readings)
    tau = view.family.case_minutes * LID_FACTOR[lid]
    times = [datetime.fromisoformat(row[0]) for row in rows]
    minutes = tuple((t - times[0]).total_seconds() / 60 for t in times)
    celsius = tuple(float(row[1]) for row in rows)
    if not rows:
        dew = acclimatise(room_c, room_c, room_rh, tau).dew_point_c
        return CaseView(view.tag, (), (), room_c, room_rh, dew, tau, None, None, None, None, None, None, False)
    first = acclimatise(celsius[-1], room_c, room_rh, tau, limits.acclimatise_tolerance_c)
    fit = fit_case(minutes, celsius, room_c, tau) if len(rows) > 1 else None
    gap = limits.acclimatise_tolerance_c
    if first.condenses:
        gap = min(gap, room_c - first.dew_point_c)
    best, soon, late = fit.until(gap) if fit is not None else (first.minutes,) * 3
    at = [times[-1] + timedelta(minutes=m) for m in (best, soon, late)]
    since = (shop.now - times[-1]).total_seconds() / 60
    if fit is not None:
        now_c = fit.at(since)
    else:
        now_c = room_c + (celsius[-1] - room_c) * math.exp(-since / tau)
    return CaseView(
        view.tag, minutes, celsius, room_c, room_rh, first.dew_point_c, tau, fit, first, times[0], at[0], at[1], at[2],
        now_c < first.dew_point_c,
    )  # fmt: skip


def use_case(shop: Shop, job_id: int) -> None:
    """Let the wait of a shut case end when its readings say, at the late end of their interval.

    Raises:
        Refused: there are fewer than two readings, or the case is open already.
    """
    limits = shop.catalogue.house.limits
    with shop.act("case.wait") as act:
        view = case_in(act.records, shop, job_id, limits.room_c, limits.room_rh, "shut")
        if view.fit is None or view.latest is None:
            raise Refused("One reading tells no pace.", todo="Read the thermometer again in some minutes.")
        job = act.records.get(Job, job_id)
        if job is None or job.release_at is None or job.release_at <= act.now:
            raise Refused("That case may be opened already.")
        opens = max(view.latest, act.now)
        act.records.update(job, release_at=opens)
        act.tag = view.tag
        act.words = f"{view.tag}: the case may be opened at {clock(opens)}, by its thermometer"
