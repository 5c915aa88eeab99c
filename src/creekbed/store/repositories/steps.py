"""Steps that were done: how long they took, and when they were done last."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import String, bindparam, func, select

from creekbed.store.records import ContentLine, Departure, InHand, Instrument, Job, StepRecord
from creekbed.store.tables import TABLES, record_from

if TYPE_CHECKING:
    from creekbed.store.reader import Reader

_S, _J, _I, _D, _L = TABLES[StepRecord], TABLES[Job], TABLES[Instrument], TABLES[Departure], TABLES[ContentLine]
_H = TABLES[InHand]
_SELDOM = (
    select(_J.c.tag, _J.c.id, _S.c.key, _S.c.at)
    .join(_S, _S.c.job_id == _J.c.id)
    .where(
        _J.c.tag.in_(bindparam("tags", expanding=True)), _S.c.key.in_(bindparam("keys", expanding=True)),
        _S.c.state == "done",
    )
)  # fmt: skip
_LAST_BY = (
    select(_S.c.at).where(_S.c.person == bindparam("person"), _S.c.state == "done").order_by(_S.c.id.desc()).limit(1)
)
_WHO = select(bindparam("person", type_=String).label("who")).subquery()
_HAND = select(_H, _LAST_BY.scalar_subquery().label("last_done_at")).select_from(
    _WHO.outerjoin(_H, _H.c.person == _WHO.c.who)
)
_TIMED = select(func.count()).select_from(_S).where(_S.c.minutes.is_not(None))
_TAKEN = (
    select(_S.c.key, _S.c.person, _S.c.at, _S.c.minutes, _S.c.data, _I.c.family)
    .join(_J, _J.c.id == _S.c.job_id)
    .join(_I, _I.c.tag == _J.c.tag)
    .where(_S.c.minutes.is_not(None), _S.c.state == "done")
    .order_by(_S.c.id.desc())
    .limit(bindparam("most"))
)
_OPEN = (
    select(_J.c.id, _I.c.family, _D.c.leaves_at)
    .join(_I, _I.c.tag == _J.c.tag)
    .outerjoin(_D, _D.c.id == _J.c.departure_id)
    .where(_J.c.state == "open")
)
_LINES = select(_L.c.job_id, _L.c.item, _L.c.state).join(_J, _J.c.id == _L.c.job_id).where(_J.c.state == "open")
_DONE = (
    select(_S.c.job_id, _S.c.key)
    .join(_J, _J.c.id == _S.c.job_id)
    .where(
        _J.c.state == "open", _S.c.state.in_(("done", "waived")), _S.c.key.in_(bindparam("keys", expanding=True))
    )
)  # fmt: skip

STRING_ON = "string_on."
_STRINGS_ON = (
    select(_J.c.tag, _I.c.family, _S.c.key, _S.c.at)
    .join(_J, _J.c.id == _S.c.job_id)
    .join(_I, _I.c.tag == _J.c.tag)
    .where(_S.c.key.startswith(STRING_ON, autoescape=True), _S.c.state == "done")
    .order_by(_S.c.at)
)


class Steps:
    """Questions about steps that were done."""

    def __init__(self, reader: Reader):
        self._reader = reader

    def done_before(self, tags: Collection[str], keys: Collection[str]) -> list[tuple[str, int, str, datetime]]:
        """(tag, job, step, when) of some steps that were done on some instruments."""
        rows = self._reader.rows(_SELDOM, {"tags": sorted(tags), "keys": sorted(keys)})
        return [(tag, job_id, key, at) for tag, job_id, key, at in rows]

    def hand_of(self, person: str) -> tuple[InHand | None, datetime | None]:
        """What somebody has in hand, and when they last finished a step; each may be ``None``.

        Raises:
            DamagedCell: one of them cannot be read.
        """
        [row] = self._reader.rows(_HAND, {"person": person})
        found = row._mapping
        last: datetime | None = found["last_done_at"]
        if found["person"] is None:
            return None, last
        return record_from(InHand, found), last

    def strings_put_on(self) -> list[tuple[str, str, str, datetime]]:
        """(tag, family, string, when) of every string that was put on, the oldest first."""
        return [
            (tag, family, key.removeprefix(STRING_ON), at) for tag, family, key, at in self._reader.rows(_STRINGS_ON)
        ]

    def timed_count(self) -> int:
        """How many steps have a duration on record."""
        return int(self._reader.value(_TIMED) or 0)

    def durations(self, most: int) -> list[tuple[str, str, datetime, float, dict[str, Any], str]]:
        """(step, person, when, minutes, data, family) of the last steps with a duration, newest first."""
        return [tuple(row) for row in self._reader.rows(_TAKEN, {"most": most})]

    # --- what open jobs say of cloths ---------------------------------------------------------------------------

    def open_jobs(self) -> list[tuple[int, str, datetime | None]]:
        """(job, family, when it leaves) of every open job."""
        return [(n, family, leaves) for n, family, leaves in self._reader.rows(_OPEN)]

    def contents_of_open_jobs(self) -> list[tuple[int, str, str]]:
        """(job, item, state) of every piece ticked in an open job."""
        return [(n, item, state) for n, item, state in self._reader.rows(_LINES)]

    def done_in_open_jobs(self, keys: Collection[str]) -> list[tuple[int, str]]:
        """(job, step) of some steps that are done or waived in open jobs."""
        return [(n, key) for n, key in self._reader.rows(_DONE, {"keys": sorted(keys)})]
