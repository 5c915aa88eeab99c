"""Parts that are on their way, as they are kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from creekbed.store.problems import DamagedCell
from creekbed.store.tables import Setting

PARTS = "parts"
"""Setting: [job id, step, what, piece of the case or "", when it comes in UTC as ISO 8601]."""


@dataclass(frozen=True)
class Awaited:
    """A part on its way.

    Attributes:
        step: what cannot be done without it. what: in people's words. item: the piece of the case that it replaces.
        at: when it comes.
    """

    job_id: int
    step: str
    what: str
    item: str
    at: datetime

    @property
    def words(self) -> str:
        """What comes, and when."""
        return f"{self.what}, {self.at.astimezone():%a %H:%M}"


def awaited(session: Session) -> Mapping[int, tuple[Awaited, ...]]:
    """Everything on its way, by job."""
    try:
        row = session.get(Setting, PARTS)
    except DamagedCell:  # the daily reading tells of it
        return {}
    found: dict[int, tuple[Awaited, ...]] = {}
    for job_id, step, what, item, at in (row.value.get("v") or []) if row is not None else []:
        part = Awaited(job_id, step, what, item, datetime.fromisoformat(at))
        found[job_id] = (*found.get(job_id, ()), part)
    return found
