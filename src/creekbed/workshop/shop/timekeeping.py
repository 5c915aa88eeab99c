"""The shop's time: the wall clock as it stood when somebody last looked, carried on by the boot-time clock.

So a wait keeps its true length whatever somebody does to the computer's clock; that it was set is noticed by comparing
the two before anything is written, never by what has been written since.
"""

from __future__ import annotations

import zlib
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from creekbed.store.problems import DamagedCell
from creekbed.store.tables import ClockAnchor, Entry, Job, Setting, Wait
from creekbed.workshop.shop.clock import Clock, Tick, carried, moved_by, same_boot

KEPT_TIMES = {"bath": ("filled_at", "since"), "reed_bath": ("since",)}
"""Settings that hold times of something that runs, and which."""


@dataclass(frozen=True)
class ClockMove:
    """A clock that was set.

    Attributes:
        step: by how much, forward if positive. rebooted: the computer was started anew meanwhile. waits: how many ran.
    """

    step: timedelta
    rebooted: bool
    waits: int

    @property
    def length(self) -> str:
        """How far, in words."""
        minutes = round(abs(self.step.total_seconds()) / 60)
        return f"{minutes} min" if minutes else "less than a minute"

    @property
    def words(self) -> str:
        """What a person is told."""
        way = "back" if self.step < timedelta(0) else "forward"
        if self.rebooted:
            return (
                f"The computer's clock stands {self.length} before the last entry. Nothing is lost. "
                "Waits count only the time that is certain: look at each, and set the clock right."
            )
        more = " Waits go on by true time." if self.waits else ""
        return f"The computer's clock was set {way} by {self.length}.{more}"

    @property
    def entry_words(self) -> str:
        """What the journal says."""
        way = "back" if self.step < timedelta(0) else "forward"
        return f"The computer's clock was set {way} by {self.length}; running waits were kept as they were"


class Timekeeper:
    """Tells the shop's time.

    Args:
        clock: the computer's, or one of a test.
    """

    def __init__(self, clock: Clock):
        self.clock = clock
        self.anchor: Tick | None = None
        self.restarted = False
        """Whether the last look was the first since the computer was started anew."""

    def now(self) -> datetime:
        """The shop's time, UTC: the last look, carried on by the boot-time clock."""
        tick = self.clock.tick()
        return tick.utc if self.anchor is None else carried(self.anchor, tick)

    def look(self, session: Session) -> ClockMove | None:
        """Compare the wall clock with the boot-time clock; where it was set, keep what runs at its true length.

        Called first in every transaction that writes.

        Returns:
            How it was set, or ``None``. What runs has been changed in the session then.
        """
        tick = self.clock.tick()
        row = _anchor(session)
        before = None if row is None else Tick(row.utc, row.boot_id, row.boot_seconds)
        if before is not None and not same_boot(before, tick):
            last = session.scalar(select(Entry.at).order_by(Entry.id.desc()).limit(1))
            before = Tick(max(before.utc, last or before.utc), before.boot_id, before.boot_seconds)
        self.restarted = before is not None and before.boot_id != tick.boot_id
        step = moved_by(before, tick) if before is not None else timedelta(0)
        found: ClockMove | None = None
        if before is not None and step:
            found = ClockMove(step, not same_boot(before, tick), _shift(session, step, before.utc))
        self.anchor = tick if before is None or step else Tick(carried(before, tick), tick.boot_id, tick.boot_seconds)
        if row is None:
            row = ClockAnchor(id=1)
            session.add(row)
        row.utc, row.boot_id, row.boot_seconds = self.anchor.utc, tick.boot_id, tick.boot_seconds
        row.checksum = _sum(self.anchor)
        return found

    def take_over(self, session: Session) -> None:
        """Go by what another window saw of the clock."""
        try:
            row = session.get(ClockAnchor, 1)
        except DamagedCell:  # the next action writes it anew
            return
        if row is not None and same_boot(Tick(row.utc, row.boot_id, row.boot_seconds), self.clock.tick()):
            self.anchor = Tick(row.utc, row.boot_id, row.boot_seconds)


def _sum(tick: Tick) -> str:
    return f"{zlib.crc32(repr((tick.utc.isoformat(), tick.boot_id, tick.boot_seconds)).encode()):08x}"


def _anchor(session: Session) -> ClockAnchor | None:
    """What was last seen of the clock; one that is not as it was written is forgotten, and tells nothing."""
    try:
        row = session.get(ClockAnchor, 1)
        if row is None or row.checksum in ("", _sum(Tick(row.utc, row.boot_id, row.boot_seconds))):
            return row
        session.expunge(row)
    except (DamagedCell, AttributeError):
        pass
    session.execute(delete(ClockAnchor))
    return None


def _shift(session: Session, step: timedelta, before: datetime) -> int:
    """Move what runs with the clock; how many waits there were."""
    waits = list(session.scalars(select(Wait).where(Wait.ended_at.is_(None))))
    for wait in waits:
        wait.started_at += step
        if wait.wet_since is not None:
            wait.wet_since += step
    for job in session.scalars(select(Job).where(Job.state == "open", Job.release_at > before)):
        assert job.release_at is not None
        job.release_at += step
        job.opened_at += step
    for key, names in KEPT_TIMES.items():
        kept = session.get(Setting, key)
        value = dict(kept.value.get("v") or {}) if kept is not None else {}
        there = [name for name in names if value.get(name)]
        for name in there:
            value[name] = (datetime.fromisoformat(value[name]) + step).isoformat()
        if kept is not None and there:
            kept.value = {"v": value}
    return len(waits)


def running(session: Session) -> int:
    """How many waits run now."""
    return session.scalar(select(func.count()).select_from(Wait).where(Wait.ended_at.is_(None))) or 0
