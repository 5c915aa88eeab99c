"""The plan on show and the chances that were given."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import bindparam, func, select

from creekbed.store.records import Departure, ForecastRecord, Job, ShownPlan
from creekbed.store.tables import TABLES

if TYPE_CHECKING:
    from creekbed.store.reader import Reader

_F, _J, _D, _P = TABLES[ForecastRecord], TABLES[Job], TABLES[Departure], TABLES[ShownPlan]
_NEWEST = (
    select(_F.c.job_id, func.max(_F.c.at))
    .where(_F.c.job_id.in_(bindparam("jobs", expanding=True)))
    .group_by(_F.c.job_id)
)
_MADE_IT = _J.c.ready_at.is_not(None) & (_J.c.ready_at <= _D.c.leaves_at)
_CAME = (
    select(_F.c.chance, _MADE_IT, func.count())
    .join(_J, _J.c.id == _F.c.job_id)
    .join(_D, _D.c.id == _F.c.departure_id)
    .where(
        _D.c.leaves_at.between(bindparam("since"), bindparam("now")),  # a chance is given before it leaves
        _F.c.at >= bindparam("since"),
        _J.c.departure_id == _F.c.departure_id,
    )
    .group_by(_F.c.chance, _MADE_IT)
)


class Planning:
    """Questions about plans and chances."""

    def __init__(self, reader: Reader):
        self._reader = reader

    def plan_number(self) -> int | None:
        """The number of the plan on show, or ``None``; the plan itself is not read."""
        found = self._reader.value(select(_P.c.number).limit(1))
        return found if isinstance(found, int) else None  # a row that was spoilt counts as none

    def shown_plan(self) -> ShownPlan | None:
        """The plan on show, or ``None``."""
        return next(iter(self._reader.readable(ShownPlan)), None)

    def newest_forecasts(self, jobs: list[int]) -> dict[int, datetime]:
        """Job → when a chance was last given of it."""
        return {row[0]: row[1] for row in self._reader.rows(_NEWEST, {"jobs": jobs})}

    def outcomes(self, now: datetime, since: datetime) -> list[tuple[float, bool, int]]:
        """(chance, came true, how many) of forecasts given since a moment, for departures that have left.

        A job that went over to another departure is left out.
        """
        rows = self._reader.rows(_CAME, {"now": now, "since": since})
        return [(chance, bool(made), count) for chance, made, count in rows]
