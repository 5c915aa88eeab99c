"""The shop's time: the wall clock at the last look, carried on by the boot-time clock.

So a wait keeps its true length whatever somebody does to the computer's clock; that it was set is noticed by comparing
the two before anything is written, never by what has been written since.
"""

from __future__ import annotations

import zlib
from datetime import datetime, timedelta

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import Bath, ClockAnchor, ReedBath, Wait
from creekbed.store.unit_of_work import Change
from creekbed.words.clocks import clock_set, clock_set_entry, computer_off, computer_off_entry
from creekbed.workshop.shop.clock import STEP_NOTICED, Clock, Tick, carried, moved_by, same_boot
from creekbed.workshop.shop.machine_clocks import MachineClocks


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
    def words(self) -> str:
        """What a person is told."""
        return clock_set(self.step, rebooted=self.rebooted, waits=self.waits)

    @property
    def entry_words(self) -> str:
        """What the journal says."""
        return clock_set_entry(self.step)


@dataclass(frozen=True)
class ComputerOff:
    """A computer that was off while a contact time ran.

    Attributes:
        off: how long, by its own clock alone: no contact time counts it.
    """

    off: timedelta

    @property
    def words(self) -> str:
        """What a person is told."""
        return computer_off(self.off)

    @property
    def entry_words(self) -> str:
        """What the journal says."""
        return computer_off_entry(self.off)


ClockNews = ClockMove | ComputerOff
"""What is found of the computer's clock and changes what runs."""


class Timekeeper:
    """Tells the shop's time.

    Args:
        clock: the computer's, or one of a test.
    """

    def __init__(self, clock: Clock):
        self.clock = clock
        self.clocks = MachineClocks(clock.machine)
        self.anchor: Tick | None = None
        self.restarted = False
        """Whether the last look was the first since the computer was started anew."""

    def now(self) -> datetime:
        """The shop's time, UTC: the last look, carried on by the boot-time clock."""
        tick = self.clock.tick()
        return tick.utc if self.anchor is None else carried(self.anchor, tick)

    def look(self, change: Change) -> ClockNews | None:
        """Compare the wall clock with the boot-time clock; where it was set, keep what runs at its true length.

        Called first in every transaction that writes. Each machine has an anchor of its own, and moves only what was
        begun by its own clock.

        Returns:
            How it was set or that the computer was off, or ``None``. What runs has been changed then.
        """
        tick = self.clock.tick()
        row, others = _anchors(change, self.clock.machine)
        before = None if row is None else Tick(row.utc, row.boot_id, row.boot_seconds)
        going_on = before is not None and same_boot(before, tick)
        if before is not None and not going_on and not others:
            last = change.journal.last_at()
            before = Tick(max(before.utc, last or before.utc), before.boot_id, before.boot_seconds)
        self.restarted = before is not None and before.boot_id != tick.boot_id
        found = self._moved(change, before, tick) if before is not None else None
        step = found.step if isinstance(found, ClockMove) else timedelta(0)
        self.anchor = tick if before is None or step else Tick(carried(before, tick), tick.boot_id, tick.boot_seconds)
        if step or not going_on:
            others = self._forget_clocks(change, others)
        self.clocks.compare(self.anchor.utc, others)
        seen = ClockAnchor(
            machine=self.clock.machine, utc=self.anchor.utc, boot_id=tick.boot_id, boot_seconds=tick.boot_seconds,
            checksum=_sum(self.anchor), at_most=dict(self.clocks.at_most),
        )  # fmt: skip
        if row is None:
            change.add(seen)
        else:
            change.update(
                row, utc=seen.utc, boot_id=seen.boot_id, boot_seconds=seen.boot_seconds, checksum=seen.checksum,
                at_most=seen.at_most,
            )  # fmt: skip
        return found

    def _moved(self, change: Change, before: Tick, tick: Tick) -> ClockNews | None:
        """How the clock was set or the computer off, with what runs changed for it; ``None``: neither."""
        step = moved_by(before, tick)
        if step:
            waits = _shift(change, step, before.utc, self.clock.machine)
            return ClockMove(step, not same_boot(before, tick), waits)
        if same_boot(before, tick) or not before.boot_id or not tick.boot_id:
            return None
        off = tick.utc - before.utc - timedelta(seconds=tick.boot_seconds)
        if off < STEP_NOTICED:
            return None
        wet = [w for w in _waits_of(change, self.clock.machine) if w.wet and w.wet_since is not None]
        for wait in wet:
            change.update(wait, wet_since=(wait.wet_since or wait.started_at) + off)
        return ComputerOff(off) if wet else None

    def _forget_clocks(self, change: Change, others: list[ClockAnchor]) -> list[ClockAnchor]:
        """Forget what this clock and the others know of each other: this one may have been set."""
        self.clocks.forget()
        own = self.clock.machine
        kept = []
        for row in others:
            left = {machine: most for machine, most in row.at_most.items() if machine != own}
            kept.append(change.update(row, at_most=left) if own in row.at_most else row)
        return kept

    def take_over(self, records: Reader) -> None:
        """Go by what another window on this machine saw of the clock, and other machines of theirs."""
        rows = records.readable(ClockAnchor)  # one that cannot be read is written anew with the next action
        row = next((r for r in rows if r.machine == self.clock.machine), None)
        self.clocks.compare(self.now(), rows)
        if row is not None and same_boot(Tick(row.utc, row.boot_id, row.boot_seconds), self.clock.tick()):
            self.anchor = Tick(row.utc, row.boot_id, row.boot_seconds)


def _sum(tick: Tick) -> str:
    return f"{zlib.crc32(repr((tick.utc.isoformat(), tick.boot_id, tick.boot_seconds)).encode()):08x}"


def _anchors(change: Change, machine: str) -> tuple[ClockAnchor | None, list[ClockAnchor]]:
    """What this machine saw last of its clock, and the others of theirs.

    One that is not as it was written is forgotten, and tells nothing.
    """
    rows = change.readable(ClockAnchor)
    own = next((r for r in rows if r.machine == machine), None)
    others = [r for r in rows if r is not own]
    if own is not None and own.checksum in ("", _sum(Tick(own.utc, own.boot_id, own.boot_seconds))):
        return own, others
    change.forget(ClockAnchor, machine)
    return None, others


def _waits_of(change: Change, machine: str) -> list[Wait]:
    """Running waits that began by a machine's clock, or by an unknown one."""
    return [w for w in change.jobs.running_waits() if w.machine in ("", machine)]


def _shift(change: Change, step: timedelta, before: datetime, machine: str) -> int:
    """Move what runs by this machine's clock; how many waits there were."""
    mine = ("", machine)
    waits = _waits_of(change, machine)
    for wait in waits:
        wet_since = wait.wet_since + step if wait.wet_since is not None else None
        change.update(wait, started_at=wait.started_at + step, wet_since=wet_since)
    for job in change.jobs.with_case_shut(before):
        if job.machine in mine and job.release_at is not None:
            change.update(job, release_at=job.release_at + step, opened_at=job.opened_at + step)
    for bath in change.all_of(Bath, emptied_at=None):
        if bath.machine in mine:
            change.update(bath, filled_at=bath.filled_at + step, since=bath.since + step)
    for reeds in change.all_of(ReedBath, ended_at=None):
        if reeds.machine in mine:
            change.update(reeds, since=reeds.since + step)
    return len(waits)
